// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/time/change.h"
#include "core/time/repeatability.h"
#include "work/study/study.h"

/// What the lab's own studies say of a change: from the moment on at which each was closed.
namespace fusain::work {

class InForce {
public:
    InForce() = default;
    explicit InForce(const Lab& lab) : InForce(*lab.store, lab.diary->zone()) {}
    InForce(const records::Store& store, const QTimeZone& zone);
    /// As it was known at the end of a day.
    InForce until(const QDate& day) const;

    /// What repeats of it were known to differ by at that moment: by the newest study of the instrument, else by
    /// default.
    std::optional<change::Repeatability> repeatability(const Quantity& quantity, const std::string& method,
        const std::string& instrument, const QDateTime& at, const change::Measured& on) const;
    /// The instrument as tests on it can be compared: after a repair it is another one, until a study says more.
    std::string instrument(const std::string& serial, const QDate& day) const;
    /// Instruments that agree in this quantity.
    std::vector<change::Bridge> bridges(const Quantity& quantity, const std::string& method) const;
    /// Percent fat by the two may be compared.
    bool agree(const std::string& method, const std::string& one, const std::string& other) const;

private:
    struct Rule {
        std::string method, instrument;
        QDateTime from;
        std::string source;
        std::map<const Quantity*, double> sd;
        bool over_days = false;
    };
    struct Pair {
        std::string method, one, other;
        QDateTime from;
        struct Agreed {
            double lsc = 0, shift = 0, shift_within = 0;
        };
        std::map<const Quantity*, Agreed> agreed; ///< of those that agree
    };
    struct Break {
        std::string instrument;
        QDate on, told_on; ///< told_on: when the study of it was begun
    };
    std::vector<Rule> rules_; ///< oldest first
    std::vector<Pair> pairs_;
    std::vector<Break> breaks_; ///< by day
};

/// Minutes of a moment by the lab's clock, as a series counts them.
double series_minutes(const QDateTime& at);

} // namespace fusain::work
