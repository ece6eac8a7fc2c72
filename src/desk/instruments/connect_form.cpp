// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/instruments/connect_page.h"

#include <QDir>
#include <QPlainTextEdit>
#include <QScrollBar>
#include <QSerialPortInfo>
#include <QVBoxLayout>

#include <algorithm>

namespace fusain::desk {
namespace {

const QString network = QStringLiteral("tcp:"), other_name = QStringLiteral("other");
constexpr int shown_bytes = 600;

ChoiceBox* box_of(const char* name, const QStringList& words)
{
    auto* box = new ChoiceBox;
    box->setObjectName(QString::fromLatin1(name));
    for (const QString& w : words) box->addItem(w, w);
    return box;
}

/// The name of a port that stays when adapters are plugged in in another order.
QString lasting_name(const QString& port)
{
    const QDir names(QStringLiteral("/dev/serial/by-id"));
    for (const QFileInfo& link : names.entryInfoList(QDir::Files | QDir::System))
        if (link.canonicalFilePath() == port) return link.filePath();
    return port;
}

void select(ChoiceBox* box, const QVariant& data) { box->setCurrentIndex(std::max(0, box->findData(data))); }

} // namespace

ConnectForm::ConnectForm(work::Lab& lab, work::Session& session, QWidget* parent)
    : QWidget(parent), lab_(lab), session_(session), audition_(session.ground()), title_(label("title")),
      said_(label("heading")), reads_(label("number")), fixed_(label("text")), wrong_(label("trouble")),
      place_(new ChoiceBox), feeds_(new ChoiceBox), unit_(new ChoiceBox), other_(new QLineEdit), name_(new QLineEdit),
      serial_(new QWidget), feeding_(new QWidget), bytes_(new QPlainTextEdit), understood_(list_of_words())
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(34, 22, 34, 14);
    v->setSpacing(7);
    v->addWidget(title_);
    const auto asked = [](const char* words) {
        auto* l = label("small", QString::fromUtf8(words));
        l->setWordWrap(false);
        return l;
    };
    auto* where = new WrappedRow;
    where->addWidget(asked("Where"));
    place_->setObjectName(QStringLiteral("line_place"));
    other_->setObjectName(QStringLiteral("line_other"));
    where->addWidget(place_);
    where->addWidget(other_);
    v->addLayout(where);
    auto* settings = new WrappedRow(serial_);
    settings->setContentsMargins(0, 0, 0, 0);
    baud_ = box_of(
        "line_baud", {"300", "600", "1200", "2400", "4800", "9600", "19200", "38400", "57600", "115200", "230400"});
    bits_ = box_of("line_bits", {"7", "8"});
    parity_ = box_of("line_parity", {"none", "even", "odd", "mark", "space"});
    stop_ = box_of("line_stop", {"1", "2"});
    flow_ = box_of("line_flow", {"none", "hardware", "software"});
    const std::pair<const char*, ChoiceBox*> boxes[] = {
        {"Speed", baud_}, {"data bits", bits_}, {"parity", parity_}, {"stop bits", stop_}, {"flow", flow_}};
    for (const auto& [words, box] : boxes) {
        settings->addWidget(asked(words));
        settings->addWidget(box);
    }
    v->addWidget(serial_);
    auto* keys = new WrappedRow;
    const auto key = [&](QKeyCombination k, const char* cap, const char* words, const char* name) {
        auto* b = new KeyButton(QKeySequence(k), QString::fromUtf8(cap), QString::fromUtf8(words));
        b->setObjectName(QString::fromLatin1(name));
        keys->addWidget(b);
        return b;
    };
    listen_ = key(Qt::ALT | Qt::Key_L, "Alt L", "listen", "line_listen");
    speeds_ = key(Qt::ALT | Qt::Key_S, "Alt S", "try the speeds", "line_speeds");
    ask_ = key(Qt::ALT | Qt::Key_A, "Alt A", "ask it", "line_ask");
    v->addLayout(keys);
    v->addWidget(hairline(false));
    said_->setObjectName(QStringLiteral("line_said"));
    v->addWidget(said_);
    auto* columns = new QHBoxLayout;
    columns->setSpacing(18);
    auto* left = new QVBoxLayout;
    left->setSpacing(4);
    left->addWidget(label("small", QStringLiteral("What arrives")));
    bytes_->setObjectName(QStringLiteral("line_bytes"));
    bytes_->setReadOnly(true);
    bytes_->setFocusPolicy(Qt::NoFocus);
    bytes_->setLineWrapMode(QPlainTextEdit::WidgetWidth);
    left->addWidget(bytes_, 1);
    columns->addLayout(left, 1);
    auto* right = new QVBoxLayout;
    right->setSpacing(4);
    right->addWidget(label("small", QStringLiteral("Who understands it")));
    understood_->setObjectName(QStringLiteral("line_understood"));
    right->addWidget(understood_, 1);
    columns->addLayout(right, 1);
    v->addLayout(columns, 1);
    reads_->setObjectName(QStringLiteral("line_reads"));
    reads_->setWordWrap(false);
    reads_->setTextFormat(Qt::RichText);
    v->addWidget(reads_);
    v->addWidget(fixed_);
    auto* feeding = new WrappedRow(feeding_);
    feeding->setContentsMargins(0, 0, 0, 0);
    feeds_->setObjectName(QStringLiteral("line_feeds"));
    unit_->setObjectName(QStringLiteral("line_unit"));
    name_->setObjectName(QStringLiteral("line_name"));
    feeding->addWidget(measures_ = asked("It measures"));
    feeding->addWidget(feeds_);
    feeding->addWidget(in_ = asked("in"));
    feeding->addWidget(unit_);
    feeding->addWidget(asked("and is called"));
    feeding->addWidget(name_);
    v->addWidget(feeding_);
    wrong_->setObjectName(QStringLiteral("line_wrong"));
    v->addWidget(wrong_);
    auto* ends = new WrappedRow;
    keep_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("keep it"));
    keep_->setObjectName(QStringLiteral("line_keep"));
    leave_ = new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("leave it"));
    leave_->setObjectName(QStringLiteral("line_leave"));
    ends->addWidget(keep_);
    ends->addWidget(leave_);
    v->addLayout(ends);
    with_theme(this, [this] {
        QFont numbers(QStringLiteral("B612"));
        numbers.setPixelSize(static_cast<int>(Theme::get().px(13)));
        bytes_->setFont(numbers);
        other_->setMinimumWidth(static_cast<int>(Theme::get().px(250)));
        name_->setMinimumWidth(static_cast<int>(Theme::get().px(180)));
    });

    connect(place_, &QComboBox::activated, this, [this] {
        show_places();
        listen();
    });
    connect(other_, &QLineEdit::returnPressed, this, &ConnectForm::listen);
    for (ChoiceBox* box : {baud_, bits_, parity_, stop_, flow_})
        connect(box, &QComboBox::activated, this, &ConnectForm::listen);
    connect(listen_, &QAbstractButton::clicked, this, &ConnectForm::listen);
    connect(speeds_, &QAbstractButton::clicked, this, [this] { audition_.try_speeds(); });
    connect(ask_, &QAbstractButton::clicked, this, [this] { audition_.ask(); });
    connect(&audition_, &bench::Audition::changed, this, &ConnectForm::show);
    connect(&session_, &work::Session::lines_are_set, this, &ConnectForm::hear);
    const auto taken = [this](QListWidgetItem* item) {
        const int row = understood_->row(item);
        by_hand_ = true;
        if (row >= 0 && row < static_cast<int>(shown_.size())) choose(shown_[static_cast<std::size_t>(row)]);
        show();
    };
    connect(understood_, &QListWidget::itemClicked, this, taken);
    connect(understood_, &QListWidget::itemActivated, this, taken); // by key: the arrows, then Enter
    for (ChoiceBox* box : {feeds_, unit_})
        connect(box, &QComboBox::activated, this, [this] {
            const auto l = line();
            audition_.assume(decoder_, l.feeds, l.unit);
            show();
        });
    connect(keep_, &QAbstractButton::clicked, this, &ConnectForm::keep);
    connect(leave_, &QAbstractButton::clicked, this, &ConnectForm::leave);
}

void ConnectForm::begin(const std::optional<bench::LineSetup>& line, const Wanted& wanted)
{
    wanted_ = wanted;
    decoders_ = work::decoders(*lab_.store);
    before_ = line ? line->place : std::string();
    decoder_ = nullptr;
    any_ = by_hand_ = false;
    title_->setText(line ? q(line->title()) : QStringLiteral("Connect an instrument"));
    place_->clear();
    for (const QSerialPortInfo& port : QSerialPortInfo::availablePorts()) {
        const QString path = lasting_name(port.systemLocation());
        place_->addItem(port.description().isEmpty()
                            ? port.portName()
                            : QStringLiteral("%1, %2").arg(port.portName(), port.description()),
            path);
    }
    place_->addItem(QStringLiteral("over the network"), network);
    place_->addItem(QStringLiteral("another port, by its name"), other_name);
    name_->setText(line ? q(line->name) : wanted.name);
    other_->clear();
    bench::SerialSettings serial;
    if (line) {
        const QString at = q(line->place);
        if (at.startsWith(network)) {
            select(place_, network);
            other_->setText(at.mid(network.size()));
        } else if (place_->findData(at) >= 0) {
            select(place_, at);
        } else {
            select(place_, other_name);
            other_->setText(at);
        }
        serial = line->serial;
        decoder_ = line->decoder;
        any_ = by_hand_ = true;
    }
    select(baud_, QString::number(serial.baud));
    select(bits_, QString::number(serial.data_bits));
    select(parity_, q(serial.parity));
    select(stop_, QString::number(serial.stop_bits));
    select(flow_, q(serial.flow));
    feeds_->clear();
    unit_->clear();
    show_places();
    say_wrong(std::nullopt);
    if (line) {
        choose(-1);
        if (line->feeds) select(feeds_, QString::fromLatin1(bench::row(*line->feeds).word));
        if (!line->unit.empty()) select(unit_, q(line->unit));
    }
    listen();
    show();
    (other_->isVisibleTo(this) && !line ? static_cast<QWidget*>(other_) : static_cast<QWidget*>(place_))->setFocus();
}

void ConnectForm::show_places()
{
    const QString at = place_->currentData().toString();
    other_->setVisible(at == network || at == other_name);
    other_->setPlaceholderText(
        at == network ? QStringLiteral("host:port, as 192.0.2.7:4001") : QStringLiteral("as /dev/ttyS4"));
    serial_->setVisible(at != network);
    speeds_->setVisible(at != network);
}

bench::LineSetup ConnectForm::line() const
{
    bench::LineSetup out;
    const QString at = place_->currentData().toString(), written = other_->text().trimmed();
    out.place = (at == network      ? (written.isEmpty() ? QString() : network + written)
                 : at == other_name ? written
                                    : at)
                    .toStdString();
    out.name = name_->text().trimmed().toStdString();
    out.decoder = decoder_;
    out.serial = {baud_->currentData().toInt(), bits_->currentData().toInt(), stop_->currentData().toInt(),
        parity_->currentData().toString().toStdString(), flow_->currentData().toString().toStdString()};
    if (decoder_ && decoder_->is_open())
        for (const bench::ChannelRow& row : bench::channels())
            if (feeds_->currentData().toString() == QString::fromLatin1(row.word)) out.feeds = row.channel;
    if (out.feeds && unit_->isVisibleTo(feeding_)) out.unit = unit_->currentData().toString().toStdString();
    return out;
}

/// The lab's own link lets go of the line while it is tried here.
void ConnectForm::listen()
{
    const bench::LineSetup l = line();
    std::vector<bench::LineSetup> others = work::kept_lines(*lab_.store).lines;
    std::erase_if(others, [&](const auto& o) { return o.place == l.place || o.place == before_; });
    session_.set_lines(others);
    say_wrong(std::nullopt);
    if (l.place.empty()) return audition_.stop();
    if (const auto why = bench::check(bench::LineSetup{l.place, {}, nullptr, {}, {}, l.serial})) {
        audition_.stop();
        return say_wrong(why);
    }
    to_hear_ = l; // see `hear`
}

/// The lab's lines are set: what the link had is free.
void ConnectForm::hear()
{
    const auto l = std::exchange(to_hear_, std::nullopt);
    if (!l || !isVisible()) return;
    audition_.listen(*l, decoders_.all);
    if (any_ && decoder_) audition_.assume(decoder_, l->feeds, l->unit);
}

const bench::Audition::Trial* ConnectForm::chosen() const
{
    if (!any_) return nullptr;
    for (const auto& t : audition_.trials())
        if (t.decoder == decoder_ || (t.decoder && decoder_ && t.decoder->id == decoder_->id)) return &t;
    return nullptr;
}

/// One of the trials; −1: the decoder that is chosen already.
void ConnectForm::choose(int trial)
{
    if (trial >= 0) {
        decoder_ = audition_.trials()[static_cast<std::size_t>(trial)].decoder;
        any_ = true;
    }
    feeds_->clear();
    unit_->clear();
    if (decoder_ && decoder_->is_open()) {
        for (const bench::Channel c : decoder_->may_feed())
            feeds_->addItem(QString::fromUtf8(bench::row(c).title), QString::fromLatin1(bench::row(c).word));
        const auto& open = decoder_->values.front();
        if (open.unit_group.empty() && !open.unit.empty()) {
            const std::string kind = bench::line_unit(open.unit)->kind;
            for (const bench::LineUnit& u : bench::line_units())
                if (u.kind == kind) unit_->addItem(QString::fromUtf8(u.word), QString::fromUtf8(u.word));
            select(unit_, q(open.unit));
        }
    }
    if (wanted_.feeds)
        if (const int row = feeds_->findData(QString::fromLatin1(bench::row(*wanted_.feeds).word)); row >= 0)
            feeds_->setCurrentIndex(row);
    if (trial >= 0) {
        const auto l = line();
        audition_.assume(decoder_, l.feeds, l.unit);
    }
}

void ConnectForm::show()
{
    using State = bench::Audition::State;
    const auto state = audition_.state();
    if (audition_.is_trying()) select(baud_, QString::number(audition_.line().serial.baud));
    said_->setText(state == State::idle ? QStringLiteral("Choose where its line is") : audition_.words());
    const QString bytes = bench::readable(audition_.bytes().right(shown_bytes));
    if (bytes_->toPlainText() != bytes) {
        bytes_->setPlainText(bytes);
        bytes_->verticalScrollBar()->setValue(bytes_->verticalScrollBar()->maximum());
    }
    if (!by_hand_)
        if (const int best = audition_.proposed(); best >= 0) {
            const auto& t = audition_.trials()[static_cast<std::size_t>(best)];
            if (!any_ || t.decoder != decoder_) choose(best);
        }
    // those that understand something, the best first
    std::vector<int> order;
    const auto& trials = audition_.trials();
    for (std::size_t i = 0; i < trials.size(); ++i)
        if (trials[i].understood > 0 && (trials[i].reading || trials[i].share() > 0.8))
            order.push_back(static_cast<int>(i));
    std::stable_sort(order.begin(), order.end(), [&](int a, int b) {
        return trials[static_cast<std::size_t>(a)].understood > trials[static_cast<std::size_t>(b)].understood;
    });
    const auto words_of = [](const bench::Reading& r) {
        const auto& row = bench::row(r.channel);
        return QStringLiteral("%1 %2").arg(r.value, 0, 'f', std::min(3, row.decimals)).arg(QString::fromUtf8(row.unit));
    };
    if (order != shown_) {
        understood_->clear();
        for (std::size_t i = 0; i < order.size(); ++i) understood_->addItem(QString());
        shown_ = order;
    }
    for (std::size_t i = 0; i < shown_.size(); ++i) {
        const auto& t = trials[static_cast<std::size_t>(shown_[i])];
        const bool is_chosen = &t == chosen();
        const QString words = QStringLiteral("%1  %2\n     %3 of %4 understood%5")
                                  .arg(is_chosen ? QStringLiteral("●") : QStringLiteral("○"),
                                      t.decoder ? q(t.decoder->title) : QStringLiteral("The bench line"))
                                  .arg(t.understood)
                                  .arg(t.understood + t.strange)
                                  .arg(t.reading ? QStringLiteral(" · reads %1").arg(words_of(*t.reading)) : QString());
        QListWidgetItem* item = understood_->item(static_cast<int>(i));
        if (item->text() != words) item->setText(words);
    }
    const auto* now = chosen();
    reads_->setVisible(now && now->reading);
    if (now && now->reading)
        reads_->setText(
            QStringLiteral("<span style='font-size:%1px'>%2</span>&nbsp;&nbsp;%3")
                .arg(Theme::get().px(38))
                .arg(words_of(*now->reading).toHtmlEscaped(), now->reading->overload ? QStringLiteral("at its end")
                                                              : now->reading->stable ? QStringLiteral("settled")
                                                                                     : QStringLiteral("moving")));
    const bool open = any_ && decoder_ && decoder_->is_open();
    feeding_->setVisible(any_);
    feeds_->setVisible(open);
    unit_->setVisible(open && unit_->count() > 0);
    measures_->setVisible(open);
    in_->setVisible(open && unit_->count() > 0);
    fixed_->setVisible(any_ && !open);
    QStringList fixed;
    if (any_ && decoder_ && !open)
        for (const bench::Channel c : decoder_->feeds({})) fixed << QString::fromUtf8(bench::row(c).title);
    fixed_->setText(any_ && !decoder_ ? QStringLiteral("It says itself what each value is.")
                    : fixed.isEmpty() ? QString()
                                      : QStringLiteral("It feeds: %1.").arg(fixed.join(QStringLiteral(", "))));
    keep_->setEnabled(any_);
    keep_->set_main(any_);
    listen_->set_main(!any_ && state == State::idle);
    ask_->setEnabled(state != State::idle && state != State::failed);
    ask_->set_main(state == State::silent);
    speeds_->set_main(state == State::garbage);
    speeds_->setEnabled(state != State::idle && state != State::failed && !audition_.is_trying());
}

void ConnectForm::say_wrong(const std::optional<Message>& why)
{
    wrong_->setText(why ? QStringLiteral("◆ ") + q(why->text) : QString());
    wrong_->setVisible(why.has_value());
}

void ConnectForm::keep()
{
    bench::LineSetup l = line();
    if (l.is_serial() && audition_.state() == bench::Audition::State::understood)
        l.serial.baud = audition_.line().serial.baud; // the one that was found
    if (const auto why = work::keep_line(*lab_.store, l, before_)) return say_wrong(why);
    leave();
}

void ConnectForm::leave()
{
    audition_.stop();
    // the port is closed in this turn of the loop; the link opens it in its own
    session_.set_lines(work::kept_lines(*lab_.store).lines);
    lab_.say_changed();
    emit done();
}

} // namespace fusain::desk
