// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/impedance/arc.h"
#include "core/impedance/segment.h"

#include <optional>
#include <string>
#include <vector>

/// What an analyser says while the client stands on it, point by point, and what is wrong with it then.
namespace fusain::impedance {

/// Two electrodes a hand and two a foot.
enum class Electrode { right_thumb, right_palm, left_thumb, left_palm, right_ball, right_heel, left_ball, left_heel };
inline constexpr std::size_t electrode_count = 8;
inline constexpr const char* electrode_titles[electrode_count] = {"right thumb", "right palm", "left thumb",
    "left palm", "ball of the right foot", "right heel", "ball of the left foot", "left heel"};

/// What can be wrong while the client stands there.
enum class Fault {
    poor_contact,
    stepped_off,
    leaning,
    moved,
    not_falling,
    not_an_arc,
    limbs_touch,
    sides_differ,
    settling
};
/// Whether what was measured so is measured again.
enum class Again {
    no,              ///< it is used, and said
    unless_it_stays, ///< found once more, it is used, and said: a callus, an old injury
    always           ///< it is no impedance of a body
};
struct FaultRow {
    Fault fault;
    const char* code;
    const char* do_this; ///< to the client or with the client
    Again again;
};
const FaultRow& row(Fault fault);
inline constexpr Fault all_faults[] = {Fault::poor_contact, Fault::stepped_off, Fault::leaning, Fault::moved,
    Fault::not_falling, Fault::not_an_arc, Fault::limbs_touch, Fault::sides_differ, Fault::settling};

/// One thing that is wrong, with where.
struct Finding {
    Fault fault = Fault::moved;
    std::vector<Segment> segments; ///< that it spoils; none: it is seen now, and nothing is lost by it yet
    std::string words;             ///< "left heel: poor contact (6.2 kΩ)"
};

/// What has been measured of one segment so far.
struct SegmentReading {
    std::vector<Point> points; ///< means, by rising frequency
    int sweeps = 0;            ///< whole ones
    double noise_share = 0;    ///< standard error of a sweep's mean, of the impedance
    double drift_per_min = 0;  ///< share of the impedance a minute
    std::optional<Arc> arc;    ///< as soon as there are points for it
};

struct SweepState {
    std::array<SegmentReading, segment_count> segments;
    std::array<double, electrode_count> contact_ohm{}; ///< 0: not heard
    std::vector<Finding> findings;
    double seconds = 0;            ///< of measuring; pauses are not counted
    std::optional<Segment> newest; ///< whose points come in now
    bool has(Segment s) const { return segments[index(s)].sweeps >= 1; }
};

/// Collects the points of a measurement in any order, judges them as they come. Points that came while an electrode of
/// theirs hardly touched, or while somebody leaned on the platform, count only where there are too few others: what is
/// put right while it runs costs nothing. Pure: no clock, no line.
class SweepReader {
public:
    void add(double t_s, Segment segment, const Point& point);
    /// What was measured of a segment before, to hold the others against; it is not judged by itself.
    void known(Segment segment, std::span<const Point> points);
    void contact(std::size_t electrode, double ohm);
    void platform(double kg);
    /// The mass that was taken, which the platform is held against; nothing: not judged.
    void stands(std::optional<double> mass_kg) { mass_kg_ = mass_kg; }
    /// Judges all of it; some 0.2 ms.
    SweepState state() const;

private:
    struct Seen {
        double t_s;
        Point point;
        bool poor = false, leant = false; ///< an electrode hardly touched · the platform showed another mass
    };
    bool leans() const;
    std::array<std::vector<Seen>, segment_count> seen_;
    std::array<double, electrode_count> contact_ohm_{}, worst_ohm_{};
    std::array<std::array<std::size_t, segment_count>, electrode_count> told_{}; ///< points, when a contact was told
    std::optional<double> mass_kg_;
    std::optional<Segment> newest_;
    double last_s_ = -1, seconds_ = 0, leant_kg_ = 0;
    bool off_ = false;
};

/// Limits of the judgement, this lab's rules where no source is given (docs/impedance-signal.md).
inline constexpr double contact_limit_ohm = 2500;
inline constexpr double moved_limit = 0.0025;      ///< SD of a sweep around its trend
inline constexpr double settling_per_min = 0.0025; ///< after five minutes of standing it is under a third of this
inline constexpr double lean_limit_kg = 0.3;       ///< mass changed during the test
inline constexpr int clean_sweeps = 3;             ///< so many are enough to leave those out that came in trouble

} // namespace fusain::impedance
