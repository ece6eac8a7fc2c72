// SPDX-License-Identifier: GPL-3.0-or-later
#include "core/printout/read.h"

#include "core/base/limits.h"
#include "core/printout/find.h"
#include "core/printout/text.h"
#include "core/printout/unit.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace fusain::printout {
namespace {

/// Gathers what was read and what is to be doubted of it.
class Reader {
public:
    Reader(const std::vector<Page>& pages, const Layout& layout)
        : pages_(pages), layout_(layout), sheet_(pages, layout), marks_{layout.decimal, layout.thousands}
    {
        out_.layout = layout.id;
    }

    Outcome<Reading> read()
    {
        std::size_t due = 0, found = 0;
        for (const Field& f : layout_.fields) {
            const bool there = field(f);
            due += !f.optional;
            found += there && !f.optional;
            if (!there) out_.missing.push_back(f.key);
        }
        if (2 * found < due || (due == 0 && out_.values.empty()))
            return Outcome<Reading>::refuse({"unreadable", Level::repeat, "",
                "Of " + std::to_string(due) + " numbers that are due on this printout " + std::to_string(found) +
                    (found == 1 ? " was" : " were") +
                    " found: it is blank, too coarse or too dark, or the printout of another instrument."});
        identity();
        judge_sums();
        in_order();
        return {std::move(out_), std::move(messages_)};
    }

private:
    /// A sum that does not fit makes all its members doubtful; one that fits bears out a member that was not read
    /// surely.
    void judge_sums()
    {
        std::set<std::string> borne_out;
        const std::vector<Sum> all = sums(out_);
        for (const Sum& s : all) {
            std::size_t unsure = 0, which = 0;
            for (std::size_t i = 0; i < s.members.size(); ++i)
                if (out_.is_doubtful(s.members[i])) {
                    ++unsure;
                    which = i;
                }
            if (unsure == 1 && s.bears_out(which)) borne_out.insert(s.members[which]);
        }
        for (const std::string& key : borne_out) {
            const auto about = [&](const Message& m) { return m.field == key && m.level == Level::caution; };
            const bool only_unsure = std::all_of(messages_.begin(), messages_.end(), [&](const Message& m) {
                return !about(m) || m.code == "low_confidence" || m.code == "unit_converted";
            });
            if (!only_unsure || misread_.count(key)) continue;
            std::erase(out_.doubtful, key);
            std::erase_if(messages_, [&](const Message& m) { return about(m) && m.code == "low_confidence"; });
        }
        for (const Sum& s : all) {
            if (s.fits()) continue;
            for (const std::string& key : s.members) out_.doubtful.push_back(key);
            messages_.push_back({"sum", Level::caution, s.members.back(), s.text});
        }
    }

    void doubt(const std::string& key, const char* code, const std::string& text)
    {
        out_.doubtful.push_back(key);
        messages_.push_back({code, Level::caution, key, key + ": " + text});
    }

    Box on_paper(const Place& place) const
    {
        const auto& words = pages_[place.page].words;
        Box out = words[place.words.front()].on_paper;
        for (std::size_t i : place.words) out = around(out, words[i].on_paper);
        return out;
    }

    bool field(const Field& f)
    {
        std::vector<Beside> all;
        Box label;
        for (const Place& p : sheet_.places_of(f))
            if (auto b = sheet_.beside(p, f)) {
                if (all.empty()) label = on_paper(p);
                all.push_back(*b);
            }
        if (all.empty()) return false;
        const Beside& b = all.front();
        Value v{f.key, f.quantity, f.segment, f.unit, b.number.text, b.number.value, b.number.decimals, {}, {}, b.sure,
            pages_[b.page].number, b.on_paper, label, ""};
        for (const Beside& other : all)
            if (other.number.value != b.number.value) {
                doubt(f.key, "two_values",
                    "\"" + f.label + "\" stands there with " + b.number.text + " and with " + other.number.text + ".");
                break;
            }
        const bool other_unit = !b.unit.empty() && !f.unit.empty() && lower(b.unit) != lower(f.unit);
        const auto into = [&](double value) { return converted(value, b.unit, f.unit); };
        if (other_unit && !into(1))
            doubt(f.key, "unit", "the paper says " + b.number.text + " " + b.unit + "; the layout has " + f.unit + ".");
        const bool converts = other_unit && into(1) && *into(1) != 1;
        if (converts) {
            v.value = *into(b.number.value);
            v.printed_unit = b.unit;
            messages_.push_back({"unit_converted", Level::caution, f.key,
                f.key + ": " + b.number.text + " " + b.unit + " on the paper is " + limits::plain(v.value, 3) + " " +
                    f.unit + "."});
        }
        if (f.range) limits_of(f, b, v, converts ? *into(1) : 1);
        if (f.decimals >= 0 && b.number.decimals != f.decimals)
            doubt(f.key, "decimals",
                b.number.text + " has " + std::to_string(b.number.decimals) + " decimals; the layout has " +
                    std::to_string(f.decimals) + ".");
        if (b.number.other_mark)
            doubt(f.key, "decimal_mark",
                "in " + b.number.text + " stands another mark than the layout's \"" + layout_.decimal + "\".");
        if (b.number.letters || b.sure < sure_enough) doubt(f.key, "low_confidence", b.number.text + " is not sure.");
        if (b.limits_unsure) misread_.insert(f.key); // no sum bears out the limits
        // its rounding, in the field's unit
        if (converts) v.decimals = static_cast<int>(std::lround(b.number.decimals - std::log10(*into(1))));
        out_.values.push_back(std::move(v));
        return true;
    }

    void limits_of(const Field& f, const Beside& b, Value& v, double factor)
    {
        if (!b.low || !b.high) {
            doubt(f.key, "limits", "its limits are due and cannot be read.");
            return;
        }
        v.low = b.low->value * factor;
        v.high = b.high->value * factor;
        if (!(*v.low < *v.high))
            doubt(
                f.key, "limits", "its limits stand the wrong way round: " + b.low->text + " to " + b.high->text + ".");
        else if (b.low->other_mark || b.high->other_mark || b.low->letters || b.high->letters ||
                 b.low->decimals != b.high->decimals)
            doubt(f.key, "limits", "its limits are not sure: " + b.low->text + " to " + b.high->text + ".");
    }

    /// Every place where it stands, understood by `of`; false: it cannot be.
    template <class Of>
    std::vector<Identity> all_of(const char* key, const std::string& label, Of of)
    {
        std::vector<Identity> out;
        if (label.empty()) return out;
        for (const Place& p : sheet_.places_of(label)) {
            const auto words = sheet_.words_beside(p);
            if (!words) continue;
            Identity id;
            id.key = key;
            id.text = words->text;
            id.confidence = words->sure;
            id.page = pages_[words->page].number;
            id.box = words->on_paper;
            if (of(*words, id)) out.push_back(std::move(id));
        }
        return out;
    }

    void take(const std::vector<Identity>& all, const char* what)
    {
        if (all.empty()) return;
        const Identity& id = all.front();
        const std::string key = "client." + id.key;
        for (const Identity& other : all)
            if (other.said != id.said || other.value != id.value) {
                const bool clients = id.key == "number";
                doubt(key, clients ? "two_clients" : "two_values",
                    std::string("the paper gives ") + what + " as " + id.text + " and as " + other.text + ".");
                if (!clients) break;
                for (const Value& v : out_.values) // they may be another's
                    if (v.page != id.page) out_.doubtful.push_back(v.key);
                break;
            }
        if (id.confidence < sure_enough) doubt(key, "low_confidence", id.text + " is not sure.");
        out_.client.push_back(id);
    }

    void identity()
    {
        const ClientLabels& c = layout_.client;
        take(all_of("number", c.number,
                 [](const Sheet::Words& w, Identity& id) {
                     id.said = w.first;
                     while (!id.said.empty() && std::string_view(",;:.").find(id.said.back()) != std::string_view::npos)
                         id.said.pop_back();
                     while (!id.said.empty() && std::string_view("#:").find(id.said.front()) != std::string_view::npos)
                         id.said.erase(0, 1);
                     return !squashed(id.said).empty();
                 }),
            "the client's number");
        bool two_ways = false;
        take(all_of("at", c.at,
                 [&](const Sheet::Words& w, Identity& id) {
                     const auto m = moment_in(w.text, layout_.date);
                     if (!m) return false;
                     id.said = m->at;
                     two_ways = two_ways || m->two_ways;
                     return true;
                 }),
            "the time of the test");
        if (two_ways)
            doubt("client.at", "date_two_ways", "the date can be read two ways; \"date\" in the layout says how.");
        take(all_of("height_cm", c.height_cm, [&](const Sheet::Words& w, Identity& id) { return height(w, id); }),
            "the height");
        take(all_of("age_y", c.age_y,
                 [&](const Sheet::Words& w, Identity& id) {
                     const auto n = first_number(w.text);
                     if (!n || n->first.value < 0 || n->first.value > 130) return false;
                     id.value = n->first.value;
                     id.step = std::pow(10.0, -n->first.decimals);
                     if (n->first.letters) id.confidence = 0;
                     return true;
                 }),
            "the age");
        take(all_of("sex", c.sex,
                 [&](const Sheet::Words& w, Identity& id) {
                     const std::string said = squashed(w.first);
                     for (const auto& [words, sex] : {std::pair(&layout_.female, "female"), {&layout_.male, "male"}})
                         for (const std::string& word : *words)
                             if (said == squashed(word)) id.said = sex;
                     return !id.said.empty();
                 }),
            "the sex");
    }

    std::optional<std::pair<Printed, std::string>> first_number(const std::string& text) const
    {
        std::vector<std::string> words;
        std::string word;
        for (char ch : text + " ")
            if (ch != ' ')
                word += ch;
            else if (!word.empty())
                words.push_back(std::exchange(word, {}));
        const auto items = items_of(words, {}, marks_);
        for (std::size_t i = 0; i < items.size(); ++i) {
            if (items[i].kind != Item::Kind::number) continue;
            std::string unit = items[i].unit;
            if (unit.empty() && i + 1 < items.size() && items[i + 1].kind == Item::Kind::unit) unit = items[i + 1].unit;
            return std::pair(items[i].number, unit);
        }
        return std::nullopt;
    }

    bool height(const Sheet::Words& w, Identity& id)
    {
        if (const auto cm = feet_and_inches_cm(w.text)) {
            id.value = *cm;
            id.step = converted(1, "in", "cm").value_or(1);
            messages_.push_back({"unit_converted", Level::caution, "client.height_cm",
                "client.height_cm: " + w.text + " on the paper is " + limits::plain(*cm, 1) + " cm."});
            return true;
        }
        const auto n = first_number(w.text);
        if (!n) return false;
        std::string unit = n->second;
        if (unit.empty()) unit = n->first.value > 0.5 && n->first.value < 2.6 ? "m" : "cm";
        const auto cm = converted(n->first.value, unit, "cm");
        if (!cm || *cm < 40 || *cm > 280) return false;
        id.value = *cm;
        id.step = *converted(std::pow(10.0, -n->first.decimals), unit, "cm");
        if (n->first.letters || n->first.other_mark) id.confidence = 0;
        if (lower(unit) != "cm")
            messages_.push_back({"unit_converted", Level::caution, "client.height_cm",
                "client.height_cm: " + n->first.text + " " + unit + " on the paper is " + limits::plain(*cm, 1) +
                    " cm."});
        return true;
    }

    /// Each key once, fields before what identifies.
    void in_order()
    {
        const std::set<std::string> all(out_.doubtful.begin(), out_.doubtful.end());
        out_.doubtful.clear();
        for (const Field& f : layout_.fields)
            if (all.count(f.key)) out_.doubtful.push_back(f.key);
        for (const char* key : {"client.number", "client.at", "client.height_cm", "client.age_y", "client.sex"})
            if (all.count(key)) out_.doubtful.push_back(key);
    }

    const std::vector<Page>& pages_;
    const Layout& layout_;
    Sheet sheet_;
    Marks marks_;
    Reading out_;
    Messages messages_;
    std::set<std::string> misread_;
};

} // namespace

const Value* Reading::value(std::string_view key) const
{
    for (const Value& v : values)
        if (v.key == key) return &v;
    return nullptr;
}

const Identity* Reading::identity(std::string_view key) const
{
    for (const Identity& i : client)
        if (i.key == key) return &i;
    return nullptr;
}

bool Reading::is_doubtful(std::string_view key) const
{
    return std::find(doubtful.begin(), doubtful.end(), key) != doubtful.end();
}

Outcome<Reading> read(const std::vector<Page>& pages, const Layout& layout)
{
    if (auto wrong = faults(layout); !wrong.empty()) return Outcome<Reading>::refuse(std::move(wrong));
    return Reader(pages, layout).read();
}

} // namespace fusain::printout
