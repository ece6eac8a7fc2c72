// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/xray/xray_take.h"
#include "desk/bench/density_choices.h"
#include "desk/bench/seen_panel.h"
#include "desk/bench/xray/xray_panels.h"

#include <algorithm>

namespace fusain::desk {
namespace {

struct HalfRow {
    xray::Half half;
    const char *words, *cue; ///< cue: to the client
};
constexpr HalfRow halves[] = {{xray::Half::none, "whole body in the field", "whole"},
    {xray::Half::right, "half: the right side in the field, mirrored", "half_right"},
    {xray::Half::left, "half: the left side in the field, mirrored", "half_left"}};

struct TrunkRow {
    const char *id, *title;
};
constexpr TrunkRow trunks[] = {{"without_head", "trunk without the head"}, {"with_head", "trunk with the head"}};

Panel* panel(bench::Step step, work::Session& session)
{
    return step == bench::step::lying   ? make_lying_panel(session)
           : step == bench::step::scan  ? make_scan_panel(session)
           : step == bench::step::lines ? make_lines_panel(session)
                                        : nullptr;
}

QString value(bench::Step step, const bench::Visit& v)
{
    const bench::XrayState& own = bench::xray_of(v);
    if (step == bench::step::lying && own.half != xray::Half::none)
        return QStringLiteral("%1 half").arg(QString::fromLatin1(bench::word(own.half)));
    int number = 0;
    const bench::ScanTaken* scan = own.standing(v, &number);
    if (!scan) return {};
    if (step == bench::step::scan)
        return Units::get().text(Measure::mass, xray::whole(scan->regions).total_g() / 1000, 1);
    if (step == bench::step::lines)
        return !scan->has_map ? QStringLiteral("none: no map") : own.lines(v) ? QStringLiteral("seen") : QString();
    return {};
}

QString status(const bench::Live& l)
{
    const bench::XrayShown& x = bench::xray_shown(l);
    return !x.connected                                   ? QStringLiteral("◆ X-ray table not heard")
           : !x.what.empty() && !x.complete && x.rows > 0 ? QStringLiteral("X-ray table heard · beam on")
                                                          : QStringLiteral("X-ray table heard");
}

std::vector<ChoiceList> choices(const bench::Visit& v)
{
    const bench::ScanTaken* scan = bench::xray_of(v).standing(v);
    if (scan && scan->trunk_has_head) return {}; // the table has decided it
    return {choice_list(
        "trunk_head", "Trunk", bench::xray_of(v).trunk_with_head ? "with_head" : "without_head", trunks, title_of)};
}

QString dose_words(const bench::Visit& v)
{
    const bench::XrayState& own = bench::xray_of(v);
    QString out = own.rated_mass_kg > 0
                      ? QString()
                      : QStringLiteral("◆ The register does not say what mass this table bears: its plate "
                                       "does. Write it there.\n");
    out += own.dose_usv > 0
               ? QStringLiteral("This scan gives about %1 µSv; natural background gives 7 to 8 µSv a day. ")
                     .arg(own.dose_usv, 0, 'f', 1)
               : QStringLiteral("The dose of this table is not known here; its papers say it. ");
    out += own.scans_before == 0
               ? QStringLiteral("It is the first in this lab in twelve months.")
               : QStringLiteral("In this lab there were %1 in the last twelve months%2.")
                     .arg(own.scans_before)
                     .arg(own.dose_before_usv > 0
                              ? QStringLiteral(", about %1 µSv together").arg(own.dose_before_usv, 0, 'f', 1)
                              : QString());
    return out;
}

} // namespace

Panel* make_lying_panel(work::Session& s)
{
    // whole or half: a key that turns through the three
    auto* half = new KeyButton(QKeySequence(Qt::Key_H), QStringLiteral("H"), QString());
    half->setObjectName(QStringLiteral("half"));
    const auto show = [half](int i) {
        half->setProperty("half", i);
        half->set_words(QString::fromUtf8(halves[i].words));
    };
    QObject::connect(half, &QAbstractButton::clicked, half,
        [half, show] { show((half->property("half").toInt() + 1) % static_cast<int>(std::size(halves))); });
    SeenPanel::What what{QStringLiteral("On the table, before the beam"),
        QStringLiteral("Mark what is seen to. What is left out is noted with what it does."), {}, {}, {},
        [](const bench::Visit& v) -> const std::vector<std::string>& { return bench::xray_of(v).prepared; }, nullptr};
    for (const bench::LyingRow& r : bench::lying_rows()) what.rows.push_back({r.id, r.words, r.noted, r.effect});
    what.say = [](const bench::Visit& v) {
        return dose_words(v) + QStringLiteral(
                                   "\n“On your back, in the middle; palms by your thighs, feet turned in, the "
                                   "strap holds them. Seven minutes: lie still, breathe quietly.”");
    };
    what.below = half;
    what.enter = [show](const bench::Visit& v) {
        const bench::XrayState& own = bench::xray_of(v);
        const bool wide = std::find(v.notes.begin(), v.notes.end(), "wide") != v.notes.end();
        show(!own.positioned && wide ? static_cast<int>(xray::Half::right) : static_cast<int>(own.half));
    };
    what.act = [half, &s](auto seen, auto left_out) {
        const HalfRow& row = halves[half->property("half").toInt()];
        s.say(QString::fromLatin1(row.cue));
        return bench::event::Lying{seen, left_out, row.half};
    };
    show(0);
    return new SeenPanel(s, bench::step::lying, std::move(what));
}

static bench::Step set_drill(const DrillSet& set)
{
    bench::event::Lying all;
    for (const bench::LyingRow& r : bench::lying_rows()) all.seen.push_back(r.noted);
    set.act(all);
    return bench::step::lines;
}

const MethodDesk& xray_desk()
{
    static const MethodDesk desk = {panel, value, {},
        [](const bench::Live& l) { return bench::xray_shown(l).connected; }, status, choices, &quantity::bone_mineral,
        "On the scale", [](const bench::Live&) -> const char* { return nullptr; }, set_drill};
    return desk;
}

} // namespace fusain::desk
