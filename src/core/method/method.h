// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/method/rooms.h"

#include <compare>
#include <optional>
#include <span>
#include <string>
#include <string_view>

/// What is known of a way to measure a body, wherever it is asked: one row a method. Which methods there are stands in
/// core/method/rooms.h, and nowhere else.
namespace fusain {

/// How long to wait between two visits by a method.
struct RetestDays {
    int from_days = 0, to_days = 0;
};

/// What an instrument of the method reads, before it becomes fat.
enum class Reads {
    density, ///< of the whole body: a mass over a volume
    current, ///< how the body carries one, segment by segment
    picture  ///< a map, region by region
};

/// A method is its row's address: a copy of a row would be another method.
struct NoCopy {
    constexpr NoCopy() = default;
    NoCopy(const NoCopy&) = delete;
    NoCopy& operator=(const NoCopy&) = delete;
};

struct MethodRow {
    const char* word;                   ///< of the calculation interface and the records: `air_displacement`
    const char* title;                  ///< "air displacement"
    const char* term;                   ///< what the field says: "ADP"
    const char* place;                  ///< where it happens, for headings: "chamber"
    std::span<const char* const> other; ///< what else other people's files call it, in small letters, without signs
    int order;                          ///< of its own, 0 upwards: in which they stand in lists
    int wet;                            ///< 0 dry, 1 in a swimsuit, 2 in water: one visit's methods go dry before wet
    bool licence;                       ///< who measures is licensed for it by name
    bool rated;                         ///< its instrument bears so much and no more: body mass is held against it
    bool by_height;                     ///< height is in its equations: two heights make two tests hard to compare
    RetestDays retest;                  ///< usual, where the lab has not said otherwise
    Reads reads;
    /// Standard error of percent fat that a result told elsewhere is given where none is stated with it. %
    double elsewhere_error;
    /// What percent fat differs by between two tests with nothing changed, until the lab has a study of its own. %
    double repeats_within;
    [[no_unique_address]] NoCopy only_one{};
};

/// A method, by its row. In the order of lists.
class Method {
public:
    constexpr Method(const MethodRow& row) : row_(&row) {}
    constexpr const MethodRow* operator->() const { return row_; }
    friend constexpr bool operator==(Method a, Method b) { return a.row_ == b.row_; }
    friend constexpr std::strong_ordering operator<=>(Method a, Method b) { return a.row_->order <=> b.row_->order; }

private:
    const MethodRow* row_;
};

/// In the order of lists.
std::span<const Method> all_methods();
/// By its word; nothing where there is no such method.
std::optional<Method> method_of(std::string_view word);
/// Their words, for a refusal: "impedance, absorptiometry, …".
std::string method_words();

namespace method {
#define ROOM(row, room) extern const MethodRow row;
FUSAIN_METHODS(ROOM)
#undef ROOM
} // namespace method

} // namespace fusain
