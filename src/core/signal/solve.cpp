// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/signal/solve.h"

#include <Eigen/Cholesky>

namespace fusain::solve {

Eigen::VectorXd symmetric(const Matrix& normal, const Vector& right) { return normal.ldlt().solve(right); }

Eigen::MatrixXd symmetric_columns(const Matrix& normal, const Matrix& right)
{
    Eigen::MatrixXd out(right.rows(), right.cols());
    const Eigen::LDLT<Eigen::MatrixXd> factors(normal);
    for (Eigen::Index k = 0; k < right.cols(); ++k) out.col(k) = factors.solve(right.col(k));
    return out;
}

Eigen::MatrixXd inverse(const Matrix& normal)
{
    return symmetric_columns(normal, Eigen::MatrixXd::Identity(normal.rows(), normal.cols()));
}

Eigen::MatrixXd normal_of(const Matrix& design, const Vector& weights)
{
    Eigen::MatrixXd out(design.cols(), design.cols());
    for (Eigen::Index k = 0; k < design.cols(); ++k) {
        const Eigen::VectorXd weighed = design.col(k).cwiseProduct(weights);
        for (Eigen::Index j = 0; j <= k; ++j) out(k, j) = out(j, k) = weighed.dot(design.col(j));
    }
    return out;
}

} // namespace fusain::solve
