// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/layout.h"
#include "core/printout/number.h"
#include "core/printout/page.h"

#include <optional>
#include <string>
#include <vector>

/// Labels and what stands beside them. Nothing is found by its place on the page: only by words.
namespace fusain::printout {

/// A label, or a heading, where it stands.
struct Place {
    std::size_t page = 0;
    std::vector<std::size_t> words; ///< of the page
    Box box;
    double sure = 1; ///< less: letters were forgiven
    bool in_a_sentence = false;
};

/// What stands beside a label.
struct Beside {
    Printed number;
    std::string unit; ///< as printed; empty: none
    bool limits_broken = false, limits_unsure = false;
    std::optional<Printed> low, high;
    std::size_t page = 0;
    Box box, on_paper;
    double sure = 1; ///< of label, number and limits, whichever is least so
};

class Sheet {
public:
    Sheet(const std::vector<Page>& pages, const Layout& layout);

    /// Where a field's label stands in its section, best first.
    std::vector<Place> places_of(const Field& field) const;
    /// Where a label of the client's stands.
    std::vector<Place> places_of(const std::string& label) const;
    /// To the right of it, below it, or where its row and the column of `under` cross.
    std::optional<Beside> beside(const Place& place, const Field& field) const;
    /// The words to the right of it, or below it, that belong together.
    struct Words {
        std::string text, first;
        std::size_t page = 0;
        Box box, on_paper;
        double sure = 1;
    };
    std::optional<Words> words_beside(const Place& place) const;

private:
    bool same_row(const Box& a, const Box& b) const;
    bool joined(const Page& page, std::size_t a, std::size_t b) const;
    std::vector<Place> find(const std::string& label) const;
    std::optional<Place> at(std::size_t page, std::size_t first, const std::string& label, int most) const;
    bool whole(std::size_t page, const std::vector<std::size_t>& run, bool& in_a_sentence) const;
    std::vector<std::size_t> right_of(std::size_t page, const Box& box, double from) const;
    struct Section {
        std::string text; ///< of its heading, squashed
        bool own = false; ///< the heading stands over the label's own column
    };
    std::optional<Section> section_of(const Place& place) const;
    std::optional<Place> column_head(const Place& place, const Field& field) const;
    std::optional<Beside> taken(
        std::size_t page, const std::vector<std::size_t>& words, const Field& field, const Place& place) const;
    std::optional<Beside> below(const Place& place, const Field& field) const;
    std::optional<Beside> crossing(const Place& place, const Place& head, const Field& field) const;
    bool begins_label(std::size_t page, std::size_t word) const;

    struct Heading {
        std::string text; ///< squashed
        Place place;
        bool has_rows = false; ///< labels stand in its own column: it is no heading of another
    };
    bool over(const Heading& heading, const Box& label) const; ///< in its column
    const std::vector<Page>& pages_;
    const Layout& layout_;
    Marks marks_;
    std::vector<std::vector<std::size_t>> next_, previous_; ///< in the row; npos: none
    std::vector<double> height_;                            ///< of a page's usual words
    std::vector<std::string> labels_;                       ///< squashed, all the layout's
    std::vector<std::vector<bool>> begins_;                 ///< a label of the layout begins at this word
    std::vector<Heading> headings_;
};

} // namespace fusain::printout
