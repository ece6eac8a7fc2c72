// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include <Eigen/Core>

/// The small linear systems of the readers, solved in one place: each size of matrix would otherwise compile Eigen's
/// solver anew (a minute of a build). Nothing here is for systems that do not fit a screen.
namespace fusain::solve {

using Matrix = Eigen::Ref<const Eigen::MatrixXd>;
using Vector = Eigen::Ref<const Eigen::VectorXd>;

/// x of `normal`·x = `right`. Given: a symmetric positive semidefinite matrix (its lower half is read), a vector or the
/// columns of a matrix of the same height. Returned: the solution; of a singular one, what is not determined is zero.
Eigen::VectorXd symmetric(const Matrix& normal, const Vector& right);
Eigen::MatrixXd symmetric_columns(const Matrix& normal, const Matrix& right);

/// The inverse of a symmetric positive definite matrix.
Eigen::MatrixXd inverse(const Matrix& normal);

/// `design`ᵀ·diag(`weights`)·`design`.
Eigen::MatrixXd normal_of(const Matrix& design, const Vector& weights);

} // namespace fusain::solve
