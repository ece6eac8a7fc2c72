// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/day/day_page.h"

#include "report/sheets/letters.h"

#include "records/base/clock.h"
#include "report/sheets/sheets.h"

#include <QGridLayout>
#include <QLocale>

#include <algorithm>
#include <map>
#include <set>

namespace fusain::desk {

using records::Booking;
using records::BookingState;
using schedule::Minute;

namespace {

constexpr int most_clashes = 8; ///< that are named; more of them are counted
constexpr Minute late_min = 30; ///< a visit whose time is this far past is not next any more

QString day_words(const QDate& d)
{
    return QLocale(QLocale::English, QLocale::UnitedKingdom).toString(d, QStringLiteral("dddd d MMMM"));
}

bool on_strip(const records::Instrument& i) { return i.kind->method.has_value(); }

QString bullet(const QString& mark, const QString& words)
{
    return QStringLiteral("<tr><td style='padding-right:10px; padding-bottom:5px; white-space:nowrap'>%1</td><td "
                          "style='padding-bottom:5px'>%2</td></tr>")
        .arg(mark, words.toHtmlEscaped());
}

} // namespace

DayPage::DayPage(work::Lab& lab, work::Incoming& incoming, QWidget* parent)
    : QWidget(parent), lab_(lab), incoming_(incoming), day_(lab.today()), pages_(new Pages),
      booking_(new BookingPanel(lab)), group_(new GroupPanel(lab)), end_(new DayEndPanel(lab)),
      came_in_(new CameInPanel(lab, incoming)), title_(label("title")), hint_(label("small")), date_(label("small")),
      soon_(label("text")), watch_(label("text")), sheets_(label("text")), chosen_(label("text")),
      moving_(label("heading")), strip_(new DayStrip)
{
    auto* whole = new QVBoxLayout(this);
    whole->setContentsMargins(0, 0, 0, 0);
    whole->addWidget(pages_);
    auto* page = new QWidget;
    auto* v = new QVBoxLayout(page);
    v->setContentsMargins(30, 16, 30, 10);
    v->setSpacing(4);
    make_head(v);
    make_keys(v);
    make_columns(v);
    pages_->addWidget(page);
    pages_->addWidget(booking_);
    pages_->addWidget(group_);
    pages_->addWidget(end_);
    pages_->addWidget(came_in_);
    connect_panels();
    connect_keys();
    connect(&lab_, &work::Lab::changed, this, [this] {
        if (isVisible()) refresh();
    });
    for (const int by : {-1, 1}) {
        auto* next = new KeyButton(by < 0 ? Qt::Key_Up : Qt::Key_Down, QString(), QString(), page);
        next->setFixedSize(0, 0);
        next->setFocusPolicy(Qt::NoFocus);
        next->setObjectName(by < 0 ? QStringLiteral("day_previous") : QStringLiteral("day_next"));
        connect(next, &QAbstractButton::clicked, this, [this, by] {
            if (!held_) step(by);
        });
    }
    connect(&timer_, &QTimer::timeout, this, &DayPage::tick);
    timer_.start(20000);
    setFocusPolicy(Qt::StrongFocus);
}

void DayPage::make_head(QVBoxLayout* v)
{
    auto* head = new QHBoxLayout;
    title_->setObjectName(QStringLiteral("day_title"));
    head->addWidget(title_, 1);
    before_ = new WordButton(QStringLiteral("‹"), 18);
    before_->setShortcut(QKeySequence(QStringLiteral("Ctrl+Left")));
    before_->setToolTip(QStringLiteral("the day before (Ctrl ←)"));
    date_->setWordWrap(false);
    date_->setObjectName(QStringLiteral("day_date"));
    after_ = new WordButton(QStringLiteral("›"), 18);
    after_->setShortcut(QKeySequence(QStringLiteral("Ctrl+Right")));
    after_->setToolTip(QStringLiteral("the day after (Ctrl →)"));
    today_ = new WordButton(QStringLiteral("today"), 14);
    for (WordButton* w : {before_, after_, today_}) w->setCheckable(false);
    head->addWidget(before_);
    head->addWidget(date_);
    head->addWidget(after_);
    head->addWidget(today_);
    v->addLayout(head);
    hint_->setObjectName(QStringLiteral("day_hint"));
    v->addWidget(hint_);
    v->addSpacing(4);
    strip_scroll_ = new Scroll(strip_);
    v->addWidget(strip_scroll_, 1);
    chosen_->setObjectName(QStringLiteral("day_chosen"));
    v->addWidget(chosen_);
    moving_->hide();
    moving_->setObjectName(QStringLiteral("day_moving"));
    v->addWidget(moving_);
}

/// Of the day, and of a visit that is being moved.
void DayPage::make_keys(QVBoxLayout* v)
{
    const auto key = [&](QLayout* row, const QKeySequence& k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(k, QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        row->addWidget(b);
        return b;
    };
    keys_ = new QWidget;
    auto* row = new WrappedRow(keys_);
    row->setContentsMargins(0, 4, 0, 4);
    row->setSpacing(12);
    go_ = key(row, Qt::Key_Return, "⏎", "screen", "day_go");
    go_->set_main(true);
    book_ = key(row, Qt::Key_B, "B", "book a visit", "day_book");
    group_key_ = key(row, Qt::Key_G, "G", "book a crew", "day_group");
    end_key_ = key(row, Qt::Key_E, "E", "end of the day", "day_end");
    came_in_key_ = key(row, Qt::Key_I, "I", "came in", "day_came_in");
    move_ = key(row, Qt::Key_M, "M", "move", "day_move");
    send_ = key(row, Qt::Key_S, "S", "send sheets", "day_send");
    missed_ = key(row, Qt::Key_N, "N", "did not come", "day_missed");
    cancel_ = key(row, Qt::Key_Delete, "Del", "cancel", "day_cancel");
    v->addWidget(keys_);
    move_keys_ = new QWidget;
    auto* mrow = new WrappedRow(move_keys_);
    mrow->setContentsMargins(0, 4, 0, 4);
    mrow->setSpacing(12);
    auto* earlier = key(mrow, Qt::Key_Left, "←", "5 min earlier", "move_earlier");
    auto* later = key(mrow, Qt::Key_Right, "→", "5 min later", "move_later");
    auto* up = key(mrow, Qt::Key_Up, "↑", "", "move_up");
    auto* down = key(mrow, Qt::Key_Down, "↓", "other instrument", "move_down");
    keep_ = key(mrow, Qt::Key_Return, "⏎", "keep it here", "move_keep");
    keep_->set_main(true);
    leave_ = key(mrow, Qt::Key_Escape, "Esc", "leave it where it was", "move_leave");
    move_keys_->hide();
    v->addWidget(move_keys_);
    connect(earlier, &QAbstractButton::clicked, this, [this] { move_by(-schedule::grid_min, 0); });
    connect(later, &QAbstractButton::clicked, this, [this] { move_by(schedule::grid_min, 0); });
    connect(up, &QAbstractButton::clicked, this, [this] { move_by(0, -1); });
    connect(down, &QAbstractButton::clicked, this, [this] { move_by(0, 1); });
}

/// To start, to watch, to send.
void DayPage::make_columns(QVBoxLayout* v)
{
    v->addWidget(hairline(false));
    auto* three = new QGridLayout;
    three->setHorizontalSpacing(30);
    three->setContentsMargins(0, 8, 0, 0);
    int column = 0;
    for (const auto& [title, body, name] : {std::tuple{"To start", soon_, "day_soon"},
             std::tuple{"To watch", watch_, "day_watch"}, std::tuple{"Sheets to send", sheets_, "day_sheets"}}) {
        three->addWidget(label("heading", QString::fromLatin1(title)), 0, column);
        body->setObjectName(QString::fromLatin1(name));
        body->setTextFormat(Qt::RichText);
        body->setAlignment(Qt::AlignTop | Qt::AlignLeft);
        three->addWidget(body, 1, column);
        three->setColumnStretch(column++, name == std::string("day_watch") ? 4 : 3);
    }
    three->setRowStretch(1, 1);
    v->addLayout(three);
}

void DayPage::connect_panels()
{
    connect(came_in_key_, &QAbstractButton::clicked, this, [this] {
        pages_->setCurrentWidget(came_in_);
        came_in_->begin();
    });
    connect(came_in_, &CameInPanel::left, this, [this] {
        pages_->setCurrentIndex(0);
        setFocus(Qt::OtherFocusReason);
    });
    connect(came_in_, &CameInPanel::to_booking, this, [this](long id) {
        pages_->setCurrentIndex(0);
        emit screen(id);
    });
    connect(came_in_, &CameInPanel::to_visit, this, [this](long id) {
        pages_->setCurrentIndex(0);
        emit visit(id);
    });
    connect(came_in_, &CameInPanel::keep_with, this, [this](long visit, const QString& path) {
        pages_->setCurrentIndex(0);
        emit keep_with(visit, path);
    });
    connect(&incoming_, &work::Incoming::changed, this, &DayPage::tell_came_in);
    tell_came_in();
    connect(end_key_, &QAbstractButton::clicked, this, [this] {
        end_->begin(day_);
        pages_->setCurrentWidget(end_);
    });
    connect(end_, &DayEndPanel::left, this, [this] {
        pages_->setCurrentIndex(0);
        setFocus(Qt::OtherFocusReason);
    });
    connect(group_key_, &QAbstractButton::clicked, this, [this] {
        group_->begin(std::max(day_, lab_.today()));
        pages_->setCurrentWidget(group_);
    });
    connect(group_, &GroupPanel::cancelled, this, [this] { pages_->setCurrentIndex(0); });
    connect(group_, &GroupPanel::booked, this, [this](const QDate& day) {
        pages_->setCurrentIndex(0);
        show_day(day);
    });
    connect(booking_, &BookingPanel::cancelled, this, [this] { pages_->setCurrentIndex(0); });
    connect(booking_, &BookingPanel::booked, this, [this](long id) {
        pages_->setCurrentIndex(0);
        if (const auto b = lab_.diary->booking(id)) {
            day_ = records::local_of(b->from(), lab_.diary->zone()).date();
            refresh();
            choose(id);
        }
    });
}

void DayPage::connect_keys()
{
    connect(before_, &QAbstractButton::clicked, this, [this] { show_day(day_.addDays(-1)); });
    connect(after_, &QAbstractButton::clicked, this, [this] { show_day(day_.addDays(1)); });
    connect(today_, &QAbstractButton::clicked, this, [this] { show_day(lab_.today()); });
    connect(strip_, &DayStrip::chosen, this, &DayPage::choose);
    connect(strip_, &DayStrip::opened, this, [this](long id) { emit screen(id); });
    connect(strip_, &DayStrip::dropped, this, [this](long id, int part, Minute by, int lane) {
        const auto b = lab_.diary->booking(id);
        if (!b) return;
        auto parts = b->parts;
        std::vector<const records::Instrument*> all = lanes();
        for (std::size_t i = 0; i < parts.size(); ++i) {
            parts[i].at = {parts[i].at.from + by, parts[i].at.to + by};
            if (static_cast<int>(i) == part && lane >= 0 && lane < static_cast<int>(all.size()) &&
                all[static_cast<std::size_t>(lane)]->kind->method == parts[i].method)
                parts[i].instrument = all[static_cast<std::size_t>(lane)]->serial.toStdString();
        }
        place(*b, parts);
    });
    connect(go_, &QAbstractButton::clicked, this, [this] {
        if (strip_->selected()) emit screen(strip_->selected());
    });
    connect(book_, &QAbstractButton::clicked, this, [this] { book(0); });
    connect(move_, &QAbstractButton::clicked, this, &DayPage::begin_move);
    connect(send_, &QAbstractButton::clicked, this, &DayPage::send_sheets);
    connect(missed_, &QAbstractButton::clicked, this, [this] { act(BookingState::missed); });
    connect(cancel_, &QAbstractButton::clicked, this, [this] { act(BookingState::cancelled); });
    connect(keep_, &QAbstractButton::clicked, this, [this] { end_move(true); });
    connect(leave_, &QAbstractButton::clicked, this, [this] { end_move(false); });
}

void DayPage::set_technician(std::function<QString()> who)
{
    who_ = who;
    group_->set_technician(who);
    end_->set_technician(who);
    came_in_->set_technician(who);
    booking_->set_technician(std::move(who));
}

std::vector<const records::Instrument*> DayPage::lanes() const
{
    std::vector<const records::Instrument*> out;
    for (const records::Instrument& i : instruments_)
        if (on_strip(i) && (i.in_use || std::any_of(bookings_.begin(), bookings_.end(), [&](const Booking& b) {
                return std::find(b.instruments.begin(), b.instruments.end(), i.id) != b.instruments.end();
            })))
            out.push_back(&i);
    return out;
}

/// The key is there while something waits.
void DayPage::tell_came_in()
{
    const std::size_t n = incoming_.waiting().size();
    came_in_key_->setVisible(n > 0);
    came_in_key_->set_words(
        n == 1 ? QStringLiteral("one printout came in") : QStringLiteral("%1 printouts came in").arg(n));
}

void DayPage::tick()
{
    if (isVisible() && !held_ && pages_->currentIndex() == 0) refresh();
}

void DayPage::show_day(const QDate& day)
{
    end_move(false);
    day_ = day;
    refresh();
}

void DayPage::book(long client_id, const std::vector<Method>& methods)
{
    end_move(false);
    pages_->setCurrentIndex(1);
    booking_->begin(client_id, std::max(day_, lab_.today()), methods);
}

void DayPage::select(long booking)
{
    if (const auto b = lab_.diary->booking(booking)) {
        pages_->setCurrentIndex(0);
        day_ = records::local_of(b->from(), lab_.diary->zone()).date();
        refresh();
        choose(booking);
    }
}

void DayPage::refresh()
{
    const QTimeZone zone = lab_.diary->zone();
    const QDateTime now = lab_.now();
    const Minute minute = records::minute_of(now);
    const bool is_today = day_ == now.date();
    instruments_ = lab_.diary->instruments();
    bookings_ = lab_.diary->day(day_);
    const schedule::Lab day_lab = lab_.planning(day_, day_);
    const auto clashes = schedule::conflicts(day_lab);
    std::set<long> clashing;
    for (const schedule::Conflict& c : clashes) clashing.insert(c.visits.begin(), c.visits.end());
    const auto all = lanes();
    const auto lane_of = [&](const std::string& serial) {
        for (std::size_t i = 0; i < all.size(); ++i)
            if (all[i]->serial.toStdString() == serial) return static_cast<int>(i);
        return 0;
    };

    next_ = 0;
    for (const Booking& b : bookings_)
        if (is_today && !records::is_over(b.state) && b.parts.back().at.to > minute - late_min) {
            next_ = b.id;
            break;
        }

    DayStrip::Content content;
    content.zone = zone;
    content.next = next_;
    for (const auto* i : all) content.lanes << i->name;
    const auto open = records::opening(lab_.diary->hours(), day_, day_, zone);
    content.open = open && !open->empty()
                       ? schedule::Span{open->front().from, open->back().to}
                       : schedule::Span{lab_.diary->midnight(day_) + 8 * 60, lab_.diary->midnight(day_) + 16 * 60};
    if (is_today) content.now = minute;
    for (const Booking& b : bookings_) {
        const auto screened = lab_.diary->last_screening(b.client_id, b.id);
        for (std::size_t i = 0; i < b.parts.size(); ++i) {
            const schedule::Slot& s = b.parts[i];
            DayStrip::Card c;
            c.booking = b.id;
            c.part = static_cast<int>(i);
            c.lane = lane_of(s.instrument);
            c.at = s.at;
            c.name = lab_.name_of(b.client_id, true);
            c.done = records::is_over(b.state);
            c.conflict = !c.done && clashing.count(b.id) > 0;
            const Minute until = s.at.from - minute;
            c.state = c.done     ? QString::fromLatin1(records::title(b.state))
                      : screened ? QStringLiteral("screened")
                      : is_today && until > 0 && until <= 60
                          ? QStringLiteral("in %1 min").arg(until)
                          : records::local_of(s.at.from, zone).toString(QStringLiteral("HH:mm"));
            content.cards.push_back(c);
        }
    }
    QString soon;
    std::map<std::string, bench::Readiness> ready;
    for (const auto* i : all) ready[i->serial.toStdString()] = lab_.checks.ready(*i, now);
    int listed = 0;
    for (const schedule::Start& s : schedule::starts(day_lab)) {
        const bool made = is_today && s.first && ready[s.instrument].ready;
        content.hatches.push_back({lane_of(s.instrument), s.at, s.first ? q(s.words) : QString(), made});
        if (made || (is_today && s.at.to < minute) || listed >= (height() < Theme::get().px(690) ? 3 : 5)) continue;
        const auto b =
            std::find_if(bookings_.begin(), bookings_.end(), [&](const Booking& x) { return x.id == s.for_visit; });
        if (b == bookings_.end() || records::is_over(b->state)) continue;
        const QString at = records::local_of(s.at.from, zone).toString(QStringLiteral("HH:mm"));
        const bool late = is_today && s.at.from < minute;
        soon += bullet(late ? QStringLiteral("◆ %1").arg(at) : at,
            QStringLiteral("%1: %2%3")
                .arg(lab_.instrument_name(s.instrument), q(s.words),
                    late ? QStringLiteral(" (should be running)") : QString()));
        ++listed;
    }
    soon_->setText(soon.isEmpty() ? QStringLiteral("Nothing to start for this day.")
                                  : QStringLiteral("<table>%1</table>").arg(soon));

    tell_what_to_watch(clashes, now);
    tell_sheets(now);

    date_->setText(day_words(day_) + (is_today ? now.toString(QStringLiteral(" · HH:mm")) : QString()));
    today_->setVisible(!is_today);
    tell_who_is_next(ready, is_today);
    strip_->show_day(std::move(content));
    if (!strip_->selected() && !bookings_.empty()) strip_->select(next_ ? next_ : bookings_.front().id);
    show_chosen();
}

void DayPage::tell_what_to_watch(const std::vector<schedule::Conflict>& clashes, const QDateTime& now)
{
    QString watch;
    std::map<long, long> expected; // client by booking
    for (const Booking& b : bookings_)
        if (!records::is_over(b.state)) expected[b.id] = b.client_id;
    std::set<std::pair<std::string, std::vector<long>>> told; // words and clients: the same once
    int untold = 0;
    for (const schedule::Conflict& c : clashes) {
        std::vector<long> clients;
        for (long id : c.visits)
            if (const auto b = expected.find(id); b != expected.end()) clients.push_back(b->second);
        if (clients.empty() || told.count({c.words, clients})) continue;
        if (told.size() == most_clashes) {
            ++untold;
            continue;
        }
        told.emplace(c.words, clients);
        QStringList who;
        for (long id : clients) who << lab_.name_of(id, true);
        watch += bullet(QStringLiteral("◆"), QStringLiteral("%1 %2").arg(q(c.words), who.join(QStringLiteral(", "))));
    }
    if (untold) watch += bullet(QStringLiteral("◆"), QStringLiteral("And %1 more clashes this day.").arg(untold));
    for (const records::Instrument& i : instruments_) {
        if (!i.in_use) continue;
        const quality::Chart chart = lab_.checks.chart(i);
        if (chart.sign == quality::Sign::drift || chart.sign == quality::Sign::step ||
            chart.sign == quality::Sign::outside)
            watch += bullet(QStringLiteral("◆"), i.name + QStringLiteral(": ") + q(chart.words).section(". ", 0, 0));
        const QDate due = QDate::fromString(i.calibration_due, Qt::ISODate);
        if (due.isValid() && now.date().daysTo(due) <= 14)
            watch += bullet(QStringLiteral("◆"),
                due < now.date() ? QStringLiteral("%1: calibration was due on %2")
                                       .arg(i.name, records::date_words(i.calibration_due.toStdString()))
                                 : QStringLiteral("%1: calibration due on %2")
                                       .arg(i.name, records::date_words(i.calibration_due.toStdString())));
    }
    if (!incoming_.trouble().isEmpty()) watch += bullet(QStringLiteral("◆"), incoming_.trouble());
    watch_->setText(watch.isEmpty() ? QStringLiteral("Nothing. Instruments are steady, no visits clash.")
                                    : QStringLiteral("<table>%1</table>").arg(watch));
}

/// Those of the next seven days that nobody has sent.
void DayPage::tell_sheets(const QDateTime& now)
{
    const Minute minute = records::minute_of(now);
    const bool is_today = day_ == now.date();
    QString sheets;
    int unsent = 0;
    for (int ahead = 0; ahead <= 7; ++ahead) {
        const QDate d = now.date().addDays(ahead);
        int n = 0;
        for (const Booking& b : ahead == 0 && is_today ? bookings_ : lab_.diary->day(d))
            n += b.state == BookingState::booked && b.sheet_sent_at.isEmpty() && b.from() > minute;
        if (!n) continue;
        unsent += n;
        sheets += bullet(
            QString::number(n), ahead == 0 ? QStringLiteral("for today") : QStringLiteral("for %1").arg(day_words(d)));
    }
    sheets_->setText(unsent ? QStringLiteral("<table>%1</table>").arg(sheets)
                            : QStringLiteral("Every sheet of the next seven days is sent."));
    send_->setEnabled(unsent > 0);
}

void DayPage::tell_who_is_next(const std::map<std::string, bench::Readiness>& ready, bool is_today)
{
    const QTimeZone zone = lab_.diary->zone();
    const auto next = std::find_if(bookings_.begin(), bookings_.end(), [&](const Booking& b) { return b.id == next_; });
    if (next != bookings_.end()) {
        const auto who_comes = [&](bool brief) {
            return QStringLiteral("Next: %1 at %2, %3")
                .arg(lab_.name_of(next->client_id, brief),
                    records::local_of(next->from(), zone).toString(QStringLiteral("HH:mm")),
                    work::methods_words(*next));
        };
        title_->setText(who_comes(title_->fontMetrics().horizontalAdvance(who_comes(false)) > title_->width()));
        QString words = next->sheet_sent_at.isEmpty() ? QStringLiteral("Has not had the preparation sheet.")
                                                      : QStringLiteral("Has the preparation sheet.");
        for (const schedule::Slot& s : next->parts)
            if (const auto at = ready.find(s.instrument); at != ready.end() && !at->second.ready)
                words += QStringLiteral("  %1 is not ready: %2")
                             .arg(lab_.instrument_name(s.instrument), q(at->second.words).section(". ", 0, 0) + '.');
        if (!next->note.isEmpty()) words += QStringLiteral("  Note: ") + next->note;
        hint_->setText(words);
    } else {
        const auto visits = bookings_.size();
        title_->setText(is_today
                            ? (visits ? QStringLiteral("Nobody more today") : QStringLiteral("Nobody is booked today"))
                        : visits == 0 ? QStringLiteral("Nobody is booked")
                        : visits == 1 ? QStringLiteral("One visit")
                                      : QStringLiteral("%1 visits").arg(visits));
        hint_->setText(QStringLiteral("B books a visit; times are proposed."));
    }
}

void DayPage::show_chosen()
{
    const auto b =
        std::find_if(bookings_.begin(), bookings_.end(), [&](const Booking& x) { return x.id == strip_->selected(); });
    const bool any = b != bookings_.end(),
               open = any && (b->state == BookingState::booked || b->state == BookingState::arrived);
    go_->setEnabled(open && day_ == lab_.today());
    for (KeyButton* k : {move_, missed_, cancel_}) k->setEnabled(open);
    chosen_->setVisible(any && !held_);
    if (!any) return;
    const auto screened = lab_.diary->last_screening(b->client_id, b->id);
    go_->set_words(screened ? QStringLiteral("go on with %1").arg(lab_.name_of(b->client_id, true))
                            : QStringLiteral("screen %1").arg(lab_.name_of(b->client_id, true)));
    QStringList parts;
    for (const schedule::Slot& s : b->parts)
        parts << QStringLiteral("%1 %2 (%3)")
                     .arg(records::local_of(s.at.from, lab_.diary->zone()).toString(QStringLiteral("HH:mm")),
                         QString::fromLatin1(s.method->title), lab_.instrument_name(s.instrument));
    chosen_->setText(QStringLiteral("%1   %2   ·   %3")
                         .arg(lab_.name_of(b->client_id), parts.join(QStringLiteral("  →  ")),
                             records::is_over(b->state)   ? QString::fromLatin1(records::title(b->state))
                             : screened                   ? QStringLiteral("screened")
                             : b->sheet_sent_at.isEmpty() ? QStringLiteral("sheet not sent")
                                                          : QStringLiteral("sheet sent")));
}

void DayPage::choose(long booking)
{
    strip_->select(booking);
    const QRect card = strip_->place_of(booking);
    strip_scroll_->ensureVisible(0, card.center().y(), 0, card.height());
    setFocus(Qt::OtherFocusReason);
    show_chosen();
}

void DayPage::step(int by)
{
    if (bookings_.empty()) return;
    int at = 0;
    for (std::size_t i = 0; i < bookings_.size(); ++i)
        if (bookings_[i].id == strip_->selected()) at = static_cast<int>(i);
    choose(bookings_[static_cast<std::size_t>(std::clamp(at + by, 0, static_cast<int>(bookings_.size()) - 1))].id);
}

void DayPage::act(BookingState state)
{
    const long id = strip_->selected();
    const auto b = lab_.diary->booking(id);
    if (!b || !(b->state == BookingState::booked || b->state == BookingState::arrived)) return;
    if (const auto why = lab_.diary->set_state(id, state)) return emit trouble(q(why->text));
    emit note(
        QStringLiteral("%1: %2. The time is free again.")
            .arg(lab_.name_of(b->client_id),
                state == BookingState::cancelled ? QStringLiteral("cancelled") : QStringLiteral("noted as not come")));
    refresh();
}

void DayPage::send_sheets()
{
    const QString who = who_ ? who_() : QString();
    if (who.isEmpty()) return;
    const Minute minute = records::minute_of(lab_.now());
    int sent = 0;
    QStringList by_hand;
    for (int ahead = 0; ahead <= 7; ++ahead)
        for (const Booking& b : lab_.diary->day(lab_.today().addDays(ahead))) {
            if (b.state != BookingState::booked || !b.sheet_sent_at.isEmpty() || b.from() <= minute) continue;
            const auto put = report::send_sheet(lab_, b, who);
            if (!put) return emit trouble(q(put.messages().front().text));
            ++sent;
            if (!put.messages().empty()) by_hand << lab_.name_of(b.client_id);
        }
    emit note(
        QStringLiteral("%1 put into %2.%3")
            .arg(sent == 1 ? QStringLiteral("One sheet") : QStringLiteral("%1 sheets").arg(sent), report::outbox(lab_),
                by_hand.isEmpty()
                    ? QString()
                    : QStringLiteral(" No e-mail address, print for: ") + by_hand.join(QStringLiteral(", ")) + '.'));
    refresh();
}

} // namespace fusain::desk
