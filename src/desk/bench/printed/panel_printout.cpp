// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/printed/panel_printout.h"

#include "bench/files/layout_file.h"
#include "bench/printed/printed.h"
#include "core/printout/typed.h"

#include <QFileDialog>
#include <QKeyEvent>
#include <QScrollBar>
#include <QStyle>
#include <QTimer>

#include <algorithm>

namespace fusain::desk {
namespace {

/// How much smaller a part of the paper is shown, so that it is in the size of the text beside it.
double fit(const bench::paper::Grey& g, const QSize& most)
{
    return std::min(most.width() / double(g.width), most.height() / double(g.height));
}

/// A part of the paper as a picture, in the colours of the screen.
QPixmap picture_of(const bench::paper::Grey& g, double scale)
{
    QImage image(g.pixels.data(), g.width, g.height, g.width, QImage::Format_Indexed8);
    const look::Palette& c = Theme::get().palette();
    QList<QRgb> colours;
    for (int light = 0; light < 256; ++light) {
        const auto mixed = [light](int ink, int paper) { return ink + (paper - ink) * light / 255; };
        colours << qRgb(mixed(c.ink.red(), c.sheet.red()), mixed(c.ink.green(), c.sheet.green()),
            mixed(c.ink.blue(), c.sheet.blue()));
    }
    image.setColorTable(colours);
    return QPixmap::fromImage(
        image.convertToFormat(QImage::Format_RGB32)
            .scaled(QSize(g.width, g.height) * scale, Qt::KeepAspectRatio, Qt::SmoothTransformation));
}

/// As it is offered for looking at: in the field's unit, or with the unit that stands on the paper.
QString offered(const printout::Value& v, char decimal_mark)
{
    if (!v.printed_unit.empty()) return q(v.text + ' ' + v.printed_unit);
    return QString::number(v.value, 'f', v.decimals).replace('.', QLatin1Char(decimal_mark));
}

void mark(QLineEdit* line, bool wrong)
{
    if (line->property("wrong").toBool() == wrong) return;
    line->setProperty("wrong", wrong);
    line->style()->polish(line);
}

constexpr int most_offers = 3;

QString title_of_field(const printout::Field& f)
{
    return f.under.empty() ? q(f.label) : QStringLiteral("%1, %2").arg(q(f.label), q(f.under));
}

} // namespace

PrintoutPanel::PrintoutPanel(work::Session& session)
    : Panel(session, bench::step::printout, QString(), QString()), fields_(new QWidget),
      column_(new QVBoxLayout(fields_)), sure_(label("heading")), said_(label("trouble")), who_(label("small"))
{
    who_->setObjectName(QStringLiteral("printout_who"));
    said_->setObjectName(QStringLiteral("printout_said"));
    for (int i = 0; i < most_offers; ++i) {
        Offer o{new QWidget, new KeyButton(Qt::Key_F5 + i, QStringLiteral("F%1").arg(5 + i), QString()), label("small"),
            {}};
        o.key->setObjectName(QStringLiteral("came_in_%1").arg(i));
        o.words->setObjectName(QStringLiteral("came_in_words_%1").arg(i));
        auto* row = new QHBoxLayout(o.row);
        row->setContentsMargins(0, 2, 0, 2);
        row->setSpacing(12);
        row->addWidget(o.key, 0, Qt::AlignTop);
        row->addWidget(o.words, 1, Qt::AlignVCenter);
        o.row->hide();
        body_->addWidget(o.row);
        offers_.push_back(o);
        connect(o.key, &QAbstractButton::clicked, this, [this, i] { read(offers_[static_cast<std::size_t>(i)].path); });
    }
    body_->addWidget(more_offers_ = label("small"));
    more_offers_->hide();
    who_->setContentsMargins(0, 4, 0, 2);
    body_->addWidget(who_);
    column_->setContentsMargins(0, 4, 12, 4);
    column_->setSpacing(3);
    column_->addWidget(sure_);
    column_->addStretch();
    body_->addWidget(scroll_ = new Scroll(fields_), 1);
    body_->addWidget(said_);
    take_ = key(QKeySequence(QStringLiteral("Ctrl+Return")), QStringLiteral("⏎"), QString(), true, "take_printout");
    all_the_same_ = key(QKeySequence(QStringLiteral("Ctrl+Shift+Return")), QStringLiteral("Ctrl ⇧ ⏎"),
        QStringLiteral("the paper says so: take it all the same"), false, "take_all_the_same");
    file_ = key(QKeySequence(Qt::Key_O), QStringLiteral("O"), QStringLiteral("read its file or a picture of it"), false,
        "printout_file");
    type_ = key(QKeySequence(Qt::Key_T), QStringLiteral("T"), QStringLiteral("type it"), false, "type_printout");
    stop_ =
        key(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("stop reading"), false, "stop_reading");
    connect(take_, &QAbstractButton::clicked, this, [this] { take(false); });
    connect(all_the_same_, &QAbstractButton::clicked, this, [this] { take(true); });
    connect(type_, &QAbstractButton::clicked, this, &PrintoutPanel::type);
    connect(file_, &QAbstractButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(this, QStringLiteral("A printout"), QString(),
            QStringLiteral("Printouts and pictures (*.pdf *.png *.jpg *.jpeg *.tif *.tiff);;All files (*)"));
        if (!path.isEmpty()) read(path);
    });
    connect(stop_, &QAbstractButton::clicked, &reading_, &work::LongWork::stop);
    connect(&reading_, &work::LongWork::progressed, this, [this](double done) {
        if (reading_.is_running()) said_->setText(QStringLiteral("Reading … %1 %").arg(static_cast<int>(100 * done)));
    });
    connect(&Theme::get(), &Theme::changed, this, &PrintoutPanel::show_cuts);
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (!e.is<bench::event::Printout>() || !of_this_visit()) return;
        if (paper_ && !session_.visit().attachment(paper_->sha256)) session_.act(paper_->kept);
        emit go_on();
    });
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (e.is<bench::event::Attached>() && incoming_) incoming_->settle();
    });
    connect(&session_, &work::Session::refused, this, [this](const Message& why) {
        if (isVisible()) said_->setText(QStringLiteral("◆ ") + q(why.text));
    });
}

void PrintoutPanel::offer_from(work::Incoming& incoming)
{
    incoming_ = &incoming;
    connect(incoming_, &work::Incoming::changed, this, [this] {
        if (!isVisible() || !of_this_visit()) return;
        show_offers();
        tell_keys();
    });
}

void PrintoutPanel::show_offers()
{
    const bench::Visit& v = session_.visit();
    std::vector<std::pair<work::CameIn, work::Match>> all;
    if (incoming_ && !paper_ && !reading_.is_running())
        for (const work::CameIn& c : incoming_->of_instrument(v.instrument))
            all.emplace_back(c, work::match(c, v, session_.store().zone_of(v)));
    std::stable_partition(all.begin(), all.end(), [](const auto& each) { return each.second.agrees; });
    came_in_ = !all.empty() && all.front().second.agrees;
    for (std::size_t i = 0; i < offers_.size(); ++i) {
        Offer& o = offers_[i];
        o.row->setVisible(i < all.size());
        if (i >= all.size()) continue;
        const auto& [file, match] = all[i];
        o.path = file.path;
        o.key->set_words(QStringLiteral("look at it"));
        o.key->set_main(i == 0 && came_in_);
        o.words->setText(QStringLiteral("%1came in: %2 · %3")
                             .arg(match.agrees ? QString() : QStringLiteral("◆ "), file.name, match.words));
    }
    more_offers_->setVisible(all.size() > offers_.size());
    more_offers_->setText(QStringLiteral("%1 more wait under Day, I.")
                              .arg(static_cast<int>(all.size()) - static_cast<int>(offers_.size())));
}

void PrintoutPanel::make_rows()
{
    const bench::PrintedState& state = bench::printed_of(session_.visit());
    for (Row& row : rows_) delete row.whole;
    rows_.clear();
    for (const printout::Field& f : state.layout.fields) {
        Row row;
        row.field = f;
        row.whole = new QWidget;
        row.whole->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
        auto* grid = new QGridLayout(row.whole);
        grid->setContentsMargins(0, 0, 0, 0);
        grid->setHorizontalSpacing(12);
        grid->setVerticalSpacing(1);
        auto* name = label("text", title_of_field(f));
        row.number = new QLineEdit;
        row.number->setObjectName(QStringLiteral("printed_") + q(f.key));
        row.number->setAccessibleName(title_of_field(f));
        row.number->setAlignment(Qt::AlignRight);
        row.limits = new QLineEdit;
        row.limits->setObjectName(QStringLiteral("limits_") + q(f.key));
        row.limits->setPlaceholderText(QStringLiteral("its limits"));
        row.limits->setToolTip(
            QStringLiteral("The instrument's own limits beside the value, as 50.4 - 68.2. Tab leads here."));
        QSizePolicy keeps = row.limits->sizePolicy();
        keeps.setRetainSizeWhenHidden(true); // so that what stands beside it is in one column
        row.limits->setSizePolicy(keeps);
        row.cut = new QLabel;
        row.cut->setObjectName(QStringLiteral("cut_") + q(f.key));
        row.trouble = label("trouble");
        row.trouble->hide();
        auto* unit = label("small", q(f.unit));
        unit->setWordWrap(false);
        grid->addWidget(name, 0, 0);
        grid->addWidget(row.number, 0, 1);
        grid->addWidget(unit, 0, 2);
        grid->addWidget(row.limits, 0, 3);
        grid->addWidget(row.cut, 0, 4);
        grid->addWidget(row.trouble, 1, 0, 1, 5);
        grid->setColumnStretch(5, 1);
        row.limits->setVisible(f.range);
        with_theme(row.whole, [=, number = row.number, limits = row.limits] {
            const Theme& t = Theme::get();
            name->setFixedWidth(t.px(210));
            number->setFixedWidth(t.px(92));
            unit->setFixedWidth(t.px(54));
            limits->setFixedWidth(t.px(104));
        });
        const std::size_t at = rows_.size();
        connect(row.number, &QLineEdit::returnPressed, this, [this, at] { go_on_from(rows_[at]); });
        connect(row.limits, &QLineEdit::returnPressed, this, [this, at] { go_on_from(rows_[at]); });
        for (QLineEdit* line : {row.number, row.limits})
            connect(line, &QLineEdit::textEdited, this, &PrintoutPanel::judge);
        rows_.push_back(row);
    }
    in_order();
}

void PrintoutPanel::in_order()
{
    while (QLayoutItem* item = column_->takeAt(0)) delete item;
    bool any = false;
    for (const bool first : {true, false}) {
        if (!first) {
            column_->addWidget(sure_);
            sure_->setVisible(paper_ && any);
        }
        for (const Row& row : rows_) {
            if ((row.doubtful) != first) continue;
            column_->addWidget(row.whole);
            row.whole->show();
            any = any || first;
        }
    }
    column_->addStretch();
    // Tab and Enter go the way the eye goes
    QWidget* before = nullptr;
    for (const bool first : {true, false})
        for (const Row& row : rows_) {
            if (row.doubtful != first) continue;
            if (before) setTabOrder(before, row.number);
            setTabOrder(row.number, row.limits);
            before = row.limits;
        }
}

void PrintoutPanel::fill(Row& row, const QString& text, const printout::Value& v)
{
    row.number->setText(text);
    row.limits->setText(
        v.low ? QStringLiteral("%1 – %2").arg(*v.low, 0, 'f', v.decimals).arg(*v.high, 0, 'f', v.decimals) : QString());
}

void PrintoutPanel::enter()
{
    const bench::Visit& v = session_.visit();
    const bench::PrintedState& state = bench::printed_of(v);
    const std::string text = bench::write_layout(state.layout);
    tried_ = false;
    const bool fresh = made_for_visit_ != session_.visit_id() || made_for_ != text;
    if (fresh) {
        made_for_visit_ = session_.visit_id();
        made_for_ = text;
        paper_.reset();
        make_rows();
        for (const printout::Value& value : state.reading.values) // taken up again
            for (Row& row : rows_)
                if (row.field.key == value.key) fill(row, q(value.text), value);
    }
    who_->setText(QStringLiteral("On the display or the paper: %1, number %2, %3, %4 years, %5?")
                      .arg(q(v.subject.name), q(v.subject.number), QString::fromLatin1(word(v.subject.sex)))
                      .arg(static_cast<int>(v.age_y()))
                      .arg(Units::get().text(Measure::height, v.height_cm(), 1)));
    said_->clear();
    who_->setVisible(!paper_); // what a paper says of whom is held against the record
    show_offers();
    tell_keys();
    if (paper_) return;
    if (!state.by_file && !rows_.empty()) rows_.front().number->setFocus();
    judge();
}

void PrintoutPanel::type()
{
    paper_.reset();
    for (Row& row : rows_) {
        row.doubtful = row.looked_at = false;
        row.read.clear();
        row.cut->clear();
    }
    in_order();
    who_->show();
    show_offers();
    tell_keys();
    if (!rows_.empty()) rows_.front().number->setFocus();
    judge();
}

void PrintoutPanel::read(const QString& path)
{
    if (reading_.is_running() || !of_this_visit()) return;
    reading_.run(
        [path, lab = session_.store().file(), layout = bench::printed_of(session_.visit()).layout](
            const work::LongWork::Progress& progress) { return work::read_printout(lab, path, layout, progress); },
        [this, visit = session_.visit_id()](Outcome<work::PrintoutFile> found) {
            said_->clear();
            if (visit == session_.visit_id()) { // else another client is on the screen now
                if (found)
                    show_file(*found);
                else
                    said_->setText(QStringLiteral("◆ ") + q(found.messages().front().text));
            }
            show_offers();
            tell_keys();
            emit read_done();
        });
    said_->setText(QStringLiteral("Reading …"));
    show_offers();
    tell_keys();
}

void PrintoutPanel::show_file(const work::PrintoutFile& file)
{
    paper_ = std::make_shared<const work::PrintoutFile>(file);
    const printout::Layout& layout = bench::printed_of(session_.visit()).layout;
    for (Row& row : rows_) {
        const std::string& key = row.field.key;
        const printout::Value* v = file.reading.value(key);
        row.read = v ? offered(*v, layout.decimal).toStdString() : "";
        row.looked_at = false;
        // what was not found is asked for, unless it need not be there
        row.doubtful = v ? file.reading.is_doubtful(key) : !row.field.optional;
        fill(row, q(row.read), v ? *v : printout::Value{});
    }
    show_cuts();
    in_order();
    who_->hide();
    judge();
    if (Row* row = next_open()) {
        row->number->setFocus();
        row->number->selectAll();
        scroll_->verticalScrollBar()->setValue(0);
    } else {
        setFocus(Qt::OtherFocusReason);
    }
}

/// Beside what was read, or under it where there is no room; all in one size, but for what is too wide.
void PrintoutPanel::show_cuts()
{
    if (!paper_) return;
    const Theme& t = Theme::get();
    const int left = scroll_->viewport()->width() - t.px(530);
    const bool beside = left >= t.px(230);
    const QSize most(std::min(beside ? left : 10000, t.px(430)), t.px(30));
    std::vector<double> fits;
    for (const auto& [key, cut] : paper_->cuts)
        if (cut.width > 0 && cut.height > 0) fits.push_back(fit(cut, most));
    std::sort(fits.begin(), fits.end());
    const double usual = fits.empty() ? 1 : std::max(fits.front(), 0.6 * fits[fits.size() / 2]);
    for (Row& row : rows_) {
        auto* grid = static_cast<QGridLayout*>(row.whole->layout());
        grid->removeWidget(row.cut);
        if (beside)
            grid->addWidget(row.cut, 0, 4);
        else
            grid->addWidget(row.cut, 2, 0, 1, 6);
        const auto cut = paper_->cuts.find(row.field.key);
        const bool seen = cut != paper_->cuts.end() && cut->second.width > 0 && cut->second.height > 0;
        row.cut->setPixmap(seen ? picture_of(cut->second, std::min(usual, fit(cut->second, most))) : QPixmap());
        if (!paper_->reading.value(row.field.key) && row.doubtful)
            row.cut->setText(QStringLiteral("not found on the paper"));
    }
}

PrintoutPanel::Row* PrintoutPanel::next_open()
{
    for (Row& row : rows_)
        if (row.doubtful && !row.looked_at) return &row;
    return nullptr;
}

/// Enter in a field: it was looked at, and the next one is due.
void PrintoutPanel::go_on_from(const Row& from)
{
    Row& row = rows_[static_cast<std::size_t>(&from - rows_.data())];
    row.looked_at = true;
    in_field_ = true; // the field lets the key through to the panel: one Enter is one step
    QTimer::singleShot(0, this, [this] { in_field_ = false; });
    judge();
    if (!row.trouble->isHidden()) return;
    const auto focus = [this](Row& r) {
        r.number->setFocus();
        r.number->selectAll();
        scroll_->ensureWidgetVisible(r.whole, 0, Theme::get().px(60));
    };
    if (paper_) {
        if (Row* next = next_open()) return focus(*next);
        return setFocus(Qt::OtherFocusReason); // one Enter for all the others
    }
    if (tried_) return take(false); // what did not fit was corrected
    if (const std::size_t next = static_cast<std::size_t>(&row - rows_.data()) + 1; next < rows_.size())
        return focus(rows_[next]);
    take(false);
}

void PrintoutPanel::keyPressEvent(QKeyEvent* e)
{
    const bool enter = e->key() == Qt::Key_Return || e->key() == Qt::Key_Enter;
    if (!enter || e->modifiers() & ~Qt::KeypadModifier) return Panel::keyPressEvent(e);
    if (!in_field_ && take_->isEnabled()) take(false);
}

std::optional<printout::Reading> PrintoutPanel::typed()
{
    printout::Reading out = paper_ ? paper_->reading : printout::Reading{};
    out.values.clear();
    bool wrong = false;
    for (Row& row : rows_) {
        const auto value = printout::typed_value(row.field, row.number->text().toStdString());
        const auto limits = printout::typed_limits(row.field, row.limits->text().toStdString());
        const bool bad = !value || !limits;
        row.trouble->setText(!value    ? q(value.messages().front().text)
                             : !limits ? q(limits.messages().front().text)
                                       : QString());
        row.trouble->setVisible(bad);
        for (const auto& [line, is_bad] : {std::pair{row.number, !value}, {row.limits, !limits}}) mark(line, is_bad);
        wrong = wrong || bad;
        if (bad || !value->has_value()) continue;
        printout::Value v = **value;
        if (const auto range = *limits) v.low = range->first, v.high = range->second;
        out.values.push_back(std::move(v));
    }
    return wrong ? std::nullopt : std::optional(std::move(out));
}

QStringList PrintoutPanel::misfits(const printout::Reading& reading)
{
    QStringList out;
    const bench::Visit& v = session_.visit();
    for (const printout::Sum& sum : printout::broken(reading)) {
        out << q(sum.text);
        for (Row& row : rows_)
            if (std::count(sum.members.begin(), sum.members.end(), row.field.key)) mark(row.number, true);
    }
    if (const auto one = printout::suspects(reading); one.size() == 1) { // the others follow from it
        out.resize(1);
        for (Row& row : rows_) {
            mark(row.number, row.field.key == one.front().key);
            if (row.field.key == one.front().key)
                out.front() += QStringLiteral(" With %1 for “%2” everything would fit.")
                                   .arg(QString::number(one.front().would, 'f', reading.value(row.field.key)->decimals),
                                       title_of_field(row.field));
        }
    }
    for (const Message& m : printout::of_another(
             reading, {v.subject.number, v.day(), v.subject.sex, v.age_y(), v.height_cm(), v.subject.height_cm}))
        out << q(m.text);
    return out;
}

void PrintoutPanel::judge()
{
    const auto reading = typed();
    QStringList said;
    if (paper_)
        for (const Message& m : paper_->messages)
            if (m.code == "pages_exchanged" || m.code == "two_clients") said << q(m.text);
    if (reading) said << misfits(*reading);
    said_->setText(said.isEmpty() ? QString() : QStringLiteral("◆ ") + said.join(QStringLiteral("\n◆ ")));
    all_the_same_->setVisible(reading && !said.isEmpty() && !next_open());
    tell_keys();
}

void PrintoutPanel::take(bool all_the_same)
{
    if (reading_.is_running() || !of_this_visit()) return;
    const auto reading = typed();
    if (Row* open = next_open(); open && paper_) { // nothing is taken that nobody looked at
        open->number->setFocus();
        open->number->selectAll();
        return;
    }
    const QStringList said = reading ? misfits(*reading) : QStringList();
    if (!reading || (!said.isEmpty() && !all_the_same)) {
        tried_ = true;
        judge();
        const auto wrong =
            std::find_if(rows_.begin(), rows_.end(), [](const Row& r) { return r.number->property("wrong").toBool(); });
        if (wrong != rows_.end()) {
            wrong->number->setFocus();
            wrong->number->selectAll();
            scroll_->ensureWidgetVisible(wrong->whole);
        }
        return;
    }
    std::map<std::string, bench::PrintedNote> notes;
    for (const Row& row : rows_) {
        const printout::Value* v = reading->value(row.field.key);
        if (!v || !paper_) continue;
        bench::PrintedNote note{row.read == v->text ? std::string()
                                : row.read.empty()  ? "nothing"
                                                    : row.read,
            row.doubtful};
        if (!note.read.empty() || note.doubtful) notes[v->key] = note;
    }
    session_.act(printout_event(
        *reading, notes, paper_ ? "file" : "typed", paper_ ? paper_->name : "", paper_ ? paper_->sha256 : ""));
}

void PrintoutPanel::tell_keys()
{
    const bool reading = reading_.is_running();
    const bench::PrintedState* state = of_this_visit() ? bench::printed_if(session_.visit()) : nullptr;
    const bool empty = std::all_of(rows_.begin(), rows_.end(), [](const Row& r) { return r.number->text().isEmpty(); });
    const bool from_files = state && state->by_file && !paper_ && empty; // the file is the next thing to do
    file_->set_main(from_files && !came_in_);
    take_->set_main(!from_files && !(came_in_ && empty));
    int sure = 0, open = 0;
    for (const Row& row : rows_) (row.doubtful ? open : sure) += row.number->text().isEmpty() && !row.doubtful ? 0 : 1;
    for (QWidget* w : {static_cast<QWidget*>(take_), static_cast<QWidget*>(type_), static_cast<QWidget*>(file_)})
        w->setEnabled(!reading);
    stop_->setVisible(reading);
    type_->setVisible(paper_ != nullptr);
    take_->set_words(paper_ ? (open == 0 ? QStringLiteral("all as on the paper: take %1").arg(sure)
                                         : QStringLiteral("looked at: take all %1").arg(sure + open))
                            : QStringLiteral("take it"));
    sure_->setText(QStringLiteral("Read for sure: look over them, one ⏎ takes all"));
    if (tried_ && !said_->text().isEmpty())
        say(QStringLiteral("Something does not fit: look at it again"),
            QStringLiteral("Correct it and press ⏎; or, where it stands so on the paper, take it all the same."));
    else if (came_in_ && empty)
        say(QStringLiteral("Its printout came in: look at it"), QStringLiteral("F5. Or type what it shows, ⏎ by ⏎."));
    else if (from_files)
        say(QStringLiteral("Read its printout"),
            QStringLiteral("O: its file, or a picture of the paper. Or type it, ⏎ by ⏎.") +
                (incoming_ && incoming_->folder().isEmpty()
                        ? QStringLiteral(" Under Rules a folder can be watched in which they appear.")
                        : QString()));
    else if (!paper_)
        say(QStringLiteral("Type what it shows"),
            QStringLiteral("In its own order, ⏎ by ⏎; what it does not show stays empty. Esc, then O: from a file."));
    else if (next_open())
        say(QStringLiteral("Look at these: are they as on the paper?"),
            QStringLiteral("⏎ when it is right, or write what stands there. %1 of %2 are still open.")
                .arg(std::count_if(rows_.begin(), rows_.end(), [](const Row& r) { return r.doubtful && !r.looked_at; }))
                .arg(open));
    else
        say(QStringLiteral("Are all as on the paper?"),
            QStringLiteral("Read from %1; it is kept with the visit.").arg(q(paper_->name)));
}

} // namespace fusain::desk
