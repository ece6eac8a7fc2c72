// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/signal/chamber.h"
#include "virtual/body.h"

#include <random>
#include <set>

/// The air of a displacement chamber: two volumes with a wall between them that swings, and whatever sits in the test
/// chamber. Time is handed in; the same model makes single recordings for the benchmark and the stream of the stand-in.
namespace fusain::virt {

/// What can go wrong in and around the chamber.
enum class ChamberFault {
    none,
    door_leaks,   ///< the seal does not close
    client_moves, ///< shifts on the seat
    client_coughs,
    room_door,     ///< a door slams somewhere: a step of pressure
    draught,       ///< a fan or a window: pressure wanders
    clipped,       ///< a sensor's range is too small
    warming_up,    ///< sensors drift
    cap_off,       ///< hair holds still air: nothing in the signal shows it
    loose_clothes, ///< the same
    hard_puffs,    ///< lung gas: puffs much too hard
    cheeks         ///< lung gas: cheeks give way
};

/// Fixed by how the chamber was built.
struct ChamberBuild {
    double test_l = 450, reference_l = 300;
    double wall_l = 0.35; ///< amplitude of the wall
    double drive_hz = 3;
    double gain_test = 1.004, gain_reference = 0.993;
    double noise_pa = 0.03; ///< SD of one sample
    double vent_s = 25;     ///< time constant of the vents that let the room's slow pressure in
    // what no drawing of the chamber shows, in realistic strength; 0 switches each off
    double drive_error = 0.003;           ///< of the drive's frequency, relative
    double second = 0.010, third = 0.006; ///< harmonics of the wall, of its amplitude
    double heartbeat_pa = 0.06;           ///< amplitude of the client's heartbeat in the test chamber
    double beats_per_min = 68;
    double quantum_pa = 0.01;        ///< step of the sensors
    double stiffening_per_pa = 1e-5; ///< air resists more at a higher mean pressure: 1 / 100 kPa
};

class ChamberAir {
public:
    ChamberAir(const ChamberBuild& build, std::uint64_t seed);

    void set_client(const Body* body)
    {
        body_ = body;
        sit_down();
    } ///< null: nobody. The body must outlive its stay.
    void set_cylinder(double litres) { cylinder_l_ = litres; }
    void set_door(bool open);
    void set(ChamberFault fault, bool on);
    bool has(ChamberFault fault) const { return faults_.count(fault) > 0; }

    void breathe_through_tube(bool on);
    void close_valve(); ///< the client puffs against it for about five seconds
    double valve_closed_lungs_l() const { return valve_lungs_l_; } ///< truth: gas in the chest when it closed

    /// Moves on to this moment and returns what the sensors say.
    struct Said {
        chamber::Sample pressures;
        double airway_pa = 0;
        bool airway = false; ///< the tube is in the mouth
    };
    Said at(double t_s);

    /// What a perfect chamber would read now, litres.
    double true_raw_l() const;
    double barometric_pa() const { return 100900; }

private:
    void sit_down();
    void step(double dt);
    double normal(double sd) { return std::normal_distribution<double>(0, sd)(random_); }
    double uniform(double low, double high) { return std::uniform_real_distribution<double>(low, high)(random_); }
    double still_air_l() const; ///< hair and cloth, beyond the skin

    ChamberBuild build_;
    std::mt19937_64 random_;
    const Body* body_ = nullptr;
    double cylinder_l_ = 0;
    bool door_open_ = false;
    std::set<ChamberFault> faults_;
    double now_s_ = 0;
    // breathing and heart
    double beat_phase_ = 0, beat_hz_ = 1.1, second_phase_ = 0, third_phase_ = 0;
    double breath_phase_ = 0, breath_hz_ = 0.23, breath_l_ = 0.7, lungs_l_ = 0;
    bool tube_ = false, valve_ = false;
    double valve_since_s_ = 0, valve_lungs_l_ = 0, airway_pa_ = 0;
    double puff_pa_ = 0, cheek_pa_ = 0;
    // the air
    double gone_test_l_ = 0, gone_reference_l_ = 0; ///< air that has left through vents and leaks
    double room_pa_ = 0, wander_pa_ = 0;            ///< of the room against the start
    double warmth_l_ = 0;                           ///< air that the client's heat adds
    double gain_drift_ = 0;
    double severity_ = 1; ///< of the faults of this chamber
    // movement
    double next_move_s_ = 0, move_until_s_ = 0, move_l_ = 0, move_from_s_ = 0, posture_l_ = 0;
    double next_slam_s_ = 0;
    double p_test_ = 0, p_reference_ = 0;
};

/// One whole recording, as the benchmark and the tests need it.
std::vector<chamber::Sample> record(ChamberAir& air, double from_s, double length_s, double rate_hz, double jitter = 0);

} // namespace fusain::virt
