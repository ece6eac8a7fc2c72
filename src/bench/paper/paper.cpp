// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/paper/paper.h"

#include <algorithm>
#include <cctype>
#include <optional>

namespace fusain::bench::paper {
namespace {

using printout::Layout;
using printout::Page;

/// How many of the layout's numbers stand there.
std::size_t found(const Page& page, const Layout& layout)
{
    Layout numbers = layout; // by themselves: whether enough are there is asked of all the pages
    for (printout::Field& f : numbers.fields) f.optional = true;
    const auto reading = printout::read({page}, numbers);
    return reading ? reading->values.size() : 0;
}

/// "page 2 of 3", "2 / 3": which page it says it is.
std::optional<int> printed_number(const Page& page, std::size_t pages)
{
    for (std::size_t i = 0; i + 2 < page.words.size(); ++i) {
        const auto number = [&](std::size_t k) {
            const std::string& t = page.words[k].text;
            return t.size() == 1 && std::isdigit(static_cast<unsigned char>(t[0])) ? t[0] - '0' : -1;
        };
        const std::string& between = page.words[i + 1].text;
        if ((between == "of" || between == "/") && number(i + 2) == static_cast<int>(pages) && number(i) >= 1 &&
            number(i) <= number(i + 2))
            return number(i);
    }
    return std::nullopt;
}

/// In the order that the paper itself says, if every page says it.
bool put_in_order(std::vector<Page>& pages)
{
    std::vector<std::optional<Page>> sorted(pages.size());
    bool exchanged = false;
    for (std::size_t i = 0; i < pages.size(); ++i) {
        const auto n = printed_number(pages[i], pages.size());
        if (!n || sorted[static_cast<std::size_t>(*n) - 1]) return false;
        exchanged = exchanged || static_cast<std::size_t>(*n) != i + 1;
        sorted[static_cast<std::size_t>(*n) - 1] = pages[i];
    }
    if (exchanged)
        for (std::size_t i = 0; i < pages.size(); ++i) pages[i] = std::move(*sorted[i]);
    return exchanged;
}

} // namespace

Page Paper::seen(std::size_t page, const Progress& progress) const
{
    if (const auto known = seen_.find(page); known != seen_.end()) return known->second;
    bool stopped = false;
    Page out = words_of(picture(page), [&](double done) { return !(stopped = !progress(done)); });
    out.number = page;
    if (!stopped) seen_[page] = out;
    return out;
}

Outcome<std::vector<Page>> pages_of(const Paper& paper, const Layout& layout, const Progress& progress)
{
    using Pages = Outcome<std::vector<Page>>;
    const auto n = static_cast<double>(paper.pages());
    std::vector<Page> out;
    for (std::size_t i = 0; i < paper.pages(); ++i) out.push_back(paper.text(i));
    const auto whole = printout::read(out, layout);
    const bool complete = whole && std::all_of(layout.fields.begin(), layout.fields.end(),
                                       [&](const printout::Field& f) { return f.optional || whole->value(f.key); });
    for (std::size_t i = 0; i < out.size(); ++i) {
        out[i].number = i;
        const std::size_t in_text = out[i].words.empty() ? 0 : found(out[i], layout);
        // Without numbers it is a picture, perhaps with a scanner's stamp. Where one is missing, letters of the text
        // may be: some writers of PDF do not say what they draw.
        if (in_text > 0 && complete) continue;
        if (!can_read_pictures()) {
            if (in_text > 0) continue;
            return Pages::refuse({"no_reader", Level::error, "",
                "Letters in pictures cannot be read on this computer: the data of the reader (tesseract-ocr-eng) are "
                "missing."});
        }
        bool stopped = !progress(static_cast<double>(i) / n);
        if (!stopped) {
            Page seen =
                paper.seen(i, [&](double done) { return !(stopped = !progress((static_cast<double>(i) + done) / n)); });
            if (!stopped && found(seen, layout) > in_text) out[i] = std::move(seen);
        }
        if (stopped) return Pages::refuse({"stopped", Level::repeat, "", "Reading was stopped."});
    }
    return out;
}

Outcome<printout::Reading> read(
    const std::string& bytes, const std::string& file, const Layout& layout, const Progress& progress)
{
    const auto paper = open(bytes, file);
    return paper ? read(**paper, layout, progress) : Outcome<printout::Reading>::refuse(paper.messages());
}

Outcome<printout::Reading> read(const Paper& paper, const Layout& layout, const Progress& progress)
{
    auto pages = pages_of(paper, layout, progress);
    if (!pages) return Outcome<printout::Reading>::refuse(pages.messages());
    std::vector<Page> sorted = std::move(pages).take();
    const bool exchanged = put_in_order(sorted);
    auto reading = printout::read(sorted, layout);
    if (!exchanged || !reading) return reading;
    Messages messages = reading.messages();
    messages.push_back({"pages_exchanged", Level::caution, "",
        "The pages lie in another order than they say themselves; they were read as they say."});
    return {std::move(reading).take(), std::move(messages)};
}

} // namespace fusain::bench::paper
