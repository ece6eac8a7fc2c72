// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/layout.h"
#include "core/printout/page.h"

#include <optional>
#include <string>
#include <vector>

namespace fusain::printout {

/// One number that was read, in its field's unit.
struct Value {
    std::string key, quantity, segment, unit;
    std::string text; ///< what stands there
    double value = 0;
    int decimals = 0;                ///< as printed; what its rounding allows
    std::optional<double> low, high; ///< the instrument's own limits
    double confidence = 1;
    std::size_t page = 0;     ///< in the file, from 0
    Box box;                  ///< on the page as it came, mm
    Box label;                ///< of its label, there
    std::string printed_unit; ///< where it is another than the field's: `text` is in it
};

/// What identifies a printout. A number, a moment, a sex are texts: `YYYY-MM-DD[THH:MM]`, `female` or `male`.
struct Identity {
    std::string key; ///< number, at, height_cm, age_y, sex
    std::string text, said;
    double value = 0; ///< of height and age
    int decimals = 0; ///< of the height as printed in its own unit; see `step`
    double step = 0;  ///< the smallest step that the printed decimals can tell, cm or years
    double confidence = 1;
    std::size_t page = 0;
    Box box;
};

/// A printout, read by a layout.
struct Reading {
    std::string layout;
    std::vector<Value> values;         ///< in the layout's order
    std::vector<Identity> client;      ///< in the order number, at, height_cm, age_y, sex
    std::vector<std::string> missing;  ///< keys of fields that were not found
    std::vector<std::string> doubtful; ///< keys that a person must look at, `client.number` and so on as well

    const Value* value(std::string_view key) const;
    const Identity* identity(std::string_view key) const;
    bool is_doubtful(std::string_view key) const;
};

/// A number whose reader is less sure than this is doubtful.
inline constexpr double sure_enough = 0.7;

/// Reads the pages as one text. A value is either right or doubtful; cautions say why (`low_confidence`, `decimals`,
/// `decimal_mark`, `two_values`, `two_clients`, `limits`, `date_two_ways`, `sum`, `unit`), and `unit_converted`.
/// Refused: `unreadable`, where fewer than half of the fields that are due are found; the layout's own faults.
Outcome<Reading> read(const std::vector<Page>& pages, const Layout& layout);

/// What must fit: fat and fat-free mass, percent, water with protein and mineral, the waters, the body mass index. Each
/// may be off by what rounding to the printed decimals allows. Also used on what was typed.
struct Sum {
    std::string text; ///< what it is and what it should be
    std::vector<std::string> members;
    double off = 0, allowed = 0; ///< in units of the sum
    std::vector<double> steps;   ///< of each member: what a last decimal more or less of it would change
    bool fits() const { return !(off > allowed); }
    /// So near that the member cannot be another number unless two are wrong.
    bool bears_out(std::size_t member) const { return off < 0.45 * steps[member]; }
};
/// Every sum of which all members are there.
std::vector<Sum> sums(const Reading& reading);
/// Of a printout as it was taken: segments beside the whole, density beside mass and volume. Not for reading: an
/// instrument's segments need not be of the same stuff as its whole.
std::vector<Sum> wholes(const Reading& reading);
/// Of both, those that do not fit.
std::vector<Sum> broken(const Reading& reading);
/// One number that alone would explain every sum that does not fit: its key, and what it should be, to its printed
/// decimals. Empty: everything fits, or more than one is wrong.
struct Suspect {
    std::string key;
    double would = 0;
};
std::vector<Suspect> suspects(const Reading& reading);

} // namespace fusain::printout
