// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/base/event.h"
#include "core/base/person.h"
#include "core/before/protocol.h"
#include "core/quality/judgement.h"

#include <optional>
#include <vector>

/// What every visit understands, a struct an event kind. Their keys, limits and refusals: events.cpp; what they mean:
/// docs/formats/visit-log.md. Each method has its own beside its state.
namespace fusain::bench::event {

/// The client as the record stood then, the instrument, and the lab's schools. A method adds what is its own.
struct Started {
    static constexpr char kind[] = "started";
    long client_id = 0;
    std::string number{}, name{}, birth_date{}; ///< birth_date: ISO date
    Sex sex = Sex::female;
    double height_cm = 0;
    std::string method{}; ///< a method's word; empty: the first of them, in the oldest logs
    std::string software{}, instrument{}, profile{};
    double reference = 0; ///< certified, of the instrument; 0: unknown
    long booking = 0;
    std::string zone{}, local{}; ///< IANA name; 2026-11-26T09:20 by the lab's clock
    int log = 1;
    std::optional<judgement::LastVisit> last{};
    std::vector<judgement::LastVisit> weighings{}; ///< of the sixteen weeks before, the oldest first
    protocol::HouseRules house{};
    int house_version = 0;
    std::string protocol{}; ///< id and version
    bool told_elsewhere = false;
    /// Of an instrument that gives finished numbers
    std::string layout{}; ///< as its file is written
    std::string way{};    ///< typed, file
    struct Check {
        std::string by{};         ///< a way of `check_ways`
        double u_fat_percent = 0; ///< what joins the doubt where nobody checks it
    } check{};
};

struct Identity {
    static constexpr char kind[] = "identity";
    double cm = 0; ///< height today
};

struct Stops {
    static constexpr char kind[] = "stops";
    std::vector<std::string> stop{}, noted{}; ///< ids of the questions
    std::vector<std::string> words{};         ///< the screening's findings
    std::string comparability{}, protocol{};
    bool pregnant = false;                        ///< or possibly so
    std::map<std::string, std::string> outside{}; ///< rule to verdict
    std::string questions_version{};
};

struct Mass {
    static constexpr char kind[] = "mass";
    double kg = 0;
    std::string source = "scale";
};

struct TrialBegun {
    static constexpr char kind[] = "trial_begun";
    std::string what{}; ///< a word of the method's; empty where there is one only
};

/// The reading of a recording; a method adds what it read.
struct TrialTaken {
    static constexpr char kind[] = "trial_taken";
    std::optional<int> number{};
};

/// Which file, and the SHA-256 of its bytes.
struct OfFile {
    std::string file{}, sha256{};
};

/// A reading without a recording; a method adds what it is.
struct TrialTyped : OfFile {
    static constexpr char kind[] = "trial_typed";
    std::string what{};   ///< as of a recording
    std::string source{}; ///< typed, file
};

struct TrialThrownOut {
    static constexpr char kind[] = "trial_thrown_out";
    int number = 0;
    std::string reason{};
};

struct TrialBroken {
    static constexpr char kind[] = "trial_broken";
    std::optional<int> number{};
    std::string reason{};
};

struct Choice {
    static constexpr char kind[] = "choice";
    std::string what{}, to{};
};

struct Finished {
    static constexpr char kind[] = "finished";
};

struct Acknowledged {
    static constexpr char kind[] = "acknowledged";
    std::vector<std::string> codes{};
};

struct Reopened {
    static constexpr char kind[] = "reopened";
    std::string reason{};
};

struct GivenUp {
    static constexpr char kind[] = "given_up";
    std::string reason{};
};

struct Attached : OfFile {
    static constexpr char kind[] = "attached";
    double bytes = 0;
};

struct Detached {
    static constexpr char kind[] = "detached";
    std::string sha256{}, reason{};
};

struct Remark {
    static constexpr char kind[] = "remark";
    std::string text{};
};

} // namespace fusain::bench::event

namespace fusain::bench {

/// Nothing will be measured in the visit after this: it was given up, or something forbade it.
bool ends_for_good(const Event& event);

} // namespace fusain::bench
