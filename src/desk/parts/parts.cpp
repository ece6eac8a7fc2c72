// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/parts/parts.h"

#include "core/base/limits.h"
#include "core/printout/number.h"
#include "core/printout/typed.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QScrollBar>
#include <QStylePainter>
#include <QStyledItemDelegate>
#include <QVBoxLayout>
#include <QWheelEvent>

namespace fusain::desk {

using look::Voice;

KeyButton::KeyButton(const QKeySequence& key, const QString& cap, const QString& words, QWidget* parent)
    : QAbstractButton(parent), cap_(cap)
{
    setText(words);
    setAccessibleName(words);
    if (!key.isEmpty()) setShortcut(key);
    setCursor(Qt::PointingHandCursor);
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    with_theme(this, [this] { updateGeometry(); });
}

void KeyButton::set_main(bool on)
{
    main_ = on;
    updateGeometry();
    update();
}

void KeyButton::set_words(const QString& words)
{
    if (text() == words) return;
    const QKeySequence key = shortcut(); // setText drops it
    setText(words);
    setShortcut(key);
    setAccessibleName(words);
    updateGeometry();
}

Mark::Mark(const QKeySequence& key, const QString& cap, const QString& words, const QString& when_on)
    : KeyButton(key, cap, words)
{
    setCheckable(true);
    connect(this, &QAbstractButton::toggled, this,
        [this, words, when_on](bool on) { set_words(on ? words + QStringLiteral("  ") + when_on : words); });
}

bool KeyButton::event(QEvent* e)
{
    if (e->type() != QEvent::Shortcut) return QAbstractButton::event(e);
    click();
    return true;
}

QSize KeyButton::sizeHint() const
{
    const Theme& t = Theme::get();
    const QFontMetrics words(look::font(Voice::text, t.px(16), main_)), cap(look::font(Voice::measured, t.px(14)));
    return {
        words.horizontalAdvance(text()) + cap.horizontalAdvance(cap_) + t.px(main_ ? 50 : 38), t.px(main_ ? 46 : 36)};
}

void KeyButton::paintEvent(QPaintEvent*)
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const QColor ink = isEnabled() ? c.ink : c.faint;
    QRectF inside = QRectF(rect()).adjusted(1, 1, -1, -1);
    if (main_ && isEnabled()) {
        p.setPen(Qt::NoPen);
        p.setBrush(c.ink);
        p.drawRoundedRect(inside, 5, 5);
    } else if (hasFocus() || underMouse()) {
        p.setPen(QPen(c.line, 1));
        p.setBrush(c.sheet);
        p.drawRoundedRect(inside, 5, 5);
    }
    if (main_ && hasFocus()) {
        p.setPen(QPen(c.live, 2));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(inside, 5, 5);
    }
    const QColor front = main_ && isEnabled() ? c.paper : ink;
    const QFont cap_font = look::font(Voice::measured, t.px(14));
    const double cap_width = QFontMetricsF(cap_font).horizontalAdvance(cap_) + t.px(14);
    const QRectF cap(inside.left() + t.px(main_ ? 12 : 2), inside.center().y() - t.px(13), cap_width, t.px(26));
    p.setPen(QPen(front, 1.2));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(cap, 4, 4);
    p.setFont(cap_font);
    p.drawText(cap, Qt::AlignCenter, cap_);
    p.setFont(look::font(Voice::text, t.px(16), main_));
    p.drawText(QRectF(cap.right() + t.px(8), inside.top(), inside.right() - cap.right(), inside.height()),
        Qt::AlignLeft | Qt::AlignVCenter, text());
}

WordButton::WordButton(const QString& words, double size, QWidget* parent) : QAbstractButton(parent), size_(size)
{
    setText(words);
    setCheckable(true);
    setCursor(Qt::PointingHandCursor);
    setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Expanding);
    with_theme(this, [this] { updateGeometry(); });
}

WordButton* toggle(const QString& words, double size)
{
    auto* b = new WordButton(QString(), size);
    b->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    b->setFocusPolicy(Qt::StrongFocus);
    b->setAccessibleName(words);
    const auto mark = [b, words](bool on) {
        const QKeySequence key = b->shortcut(); // setText drops it
        b->setText((on ? QStringLiteral("● ") : QStringLiteral("○ ")) + words);
        b->setShortcut(key);
        b->updateGeometry();
    };
    mark(false);
    QObject::connect(b, &QAbstractButton::toggled, b, mark);
    return b;
}

bool WordButton::event(QEvent* e)
{
    if (e->type() != QEvent::Shortcut) return QAbstractButton::event(e);
    click();
    return true;
}

QSize WordButton::sizeHint() const
{
    const Theme& t = Theme::get();
    const QFontMetrics m(look::font(voice_, t.px(size_)));
    return {m.horizontalAdvance(text()) + t.px(8), m.height() + t.px(12)};
}

void WordButton::paintEvent(QPaintEvent*)
{
    const Theme& t = Theme::get();
    const look::Palette& c = t.palette();
    QPainter p(this);
    p.setFont(look::font(voice_, t.px(size_)));
    p.setPen(!isEnabled() ? c.line : isChecked() || underMouse() ? c.ink : c.smudge);
    p.drawText(rect(), Qt::AlignCenter, text());
    if (isChecked()) p.fillRect(QRectF(0, height() - 3, width(), 3), c.ink);
    if (hasFocus()) {
        p.setPen(QPen(c.live, 1.5));
        p.drawRect(rect().adjusted(1, 1, -2, -4));
    }
}

NumberField::NumberField(const std::string& limit_field, Measure measure, QWidget* parent)
    : QWidget(parent), field_(limit_field), measure_(measure), edit_(new QLineEdit), unit_(label("small")),
      trouble_(label("trouble"))
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(3);
    auto* row = new QHBoxLayout;
    row->setSpacing(8);
    edit_->setMaximumWidth(150);
    edit_->setObjectName(q(limit_field));
    row->addWidget(edit_);
    row->addWidget(unit_);
    row->addStretch();
    column->addLayout(row);
    trouble_->hide();
    column->addWidget(trouble_);
    connect(edit_, &QLineEdit::textEdited, this, [this] {
        metric_.reset();
        touched_ = true;
        typed_ = read();
        trouble_->hide();
        edit_->setProperty("wrong", false);
        edit_->style()->polish(edit_);
        emit edited();
    });
    connect(&Units::get(), &Units::changed, this, [this] {
        if (!metric_) metric_ = typed_; // what was typed in the other unit keeps its meaning
        show_value();
    });
    show_value();
}

void NumberField::show_value()
{
    const limits::Limit& limit = limits::of(field_);
    const Units& u = Units::get();
    const int decimals = limit.decimals + (u.imperial(measure_) ? 1 : 0);
    const QString two = metric_ ? u.two_units(measure_, *metric_, decimals) : QString();
    unit_->setText(!two.isEmpty()      ? QString()
                   : u.split(measure_) ? u.chosen(measure_)
                                       : u.unit(measure_, QString::fromUtf8(limit.unit)));
    if (!two.isEmpty())
        edit_->setText(two);
    else if (metric_)
        edit_->setText(q(limits::plain(u.shown(measure_, *metric_), decimals)));
}

void NumberField::set_metric(std::optional<double> value)
{
    metric_ = value;
    typed_.reset();
    touched_ = false;
    if (value)
        show_value();
    else
        edit_->clear();
    trouble_->hide();
    edit_->setProperty("wrong", false);
    edit_->style()->polish(edit_);
}

/// A number with a unit of its own, whatever unit is chosen: "5 ft 7 in", "11 st 4 lb", "1.71 m". Metric.
std::optional<double> with_unit(Measure measure, const QString& text)
{
    if (measure == Measure::temperature || measure == Measure::none) return std::nullopt;
    if (measure != Measure::mass)
        if (const auto cm = printout::feet_and_inches_cm(text.toStdString())) return cm;
    printout::Field metric;
    metric.unit = measure == Measure::mass ? "kg" : "cm";
    const auto value = printout::typed_value(metric, text.toStdString());
    return value && value->has_value() ? std::optional((*value)->value) : std::nullopt;
}

std::optional<double> NumberField::read() const
{
    const QString text = edit_->text().trimmed().replace(',', '.').replace(QChar(0x2212), '-');
    bool number = false;
    const double value = text.toDouble(&number);
    if (number) return value == value ? std::optional(Units::get().stored(measure_, value)) : std::nullopt;
    const auto two = Units::get().of_two(measure_, text);
    return two ? two : with_unit(measure_, text);
}

std::optional<double> NumberField::parse(Message& why) const
{
    const limits::Limit& limit = limits::of(field_);
    if (!metric_ && is_empty()) {
        why = {"missing_field", Level::error, field_, std::string(limit.title) + " is missing."};
        return std::nullopt;
    }
    const auto value = metric_ ? metric_ : read();
    const Units& u = Units::get();
    if (!value) {
        why = {"not_a_number", Level::error, field_,
            std::string(limit.title) + " \"" + edit_->text().trimmed().toStdString() + "\" is not a number" +
                (u.split(measure_) ? (measure_ == Measure::mass ? "; allowed is as 11 st 4, 11 4, or 158 lb."
                                                                : "; allowed is as 5 ft 7, 5 7, or 67 in.")
                                   : ".")};
        return std::nullopt;
    }
    if (auto m = limits::check(field_, *value)) {
        why = *m;
        if (u.imperial(measure_))
            why.text += " That is " + limits::plain(u.shown(measure_, limit.low), 1) + " to " +
                        limits::plain(u.shown(measure_, limit.high), 1) + ' ' + u.unit(measure_).toStdString() + '.';
        return std::nullopt;
    }
    return value;
}

std::optional<double> NumberField::peek() const
{
    Message ignored;
    return parse(ignored);
}

std::optional<double> NumberField::metric()
{
    Message why;
    const auto value = parse(why);
    if (!value)
        show_trouble(q(why.text));
    else
        trouble_->hide();
    return value;
}

void NumberField::show_trouble(const QString& text)
{
    trouble_->setText(text);
    trouble_->show();
    edit_->setProperty("wrong", true);
    edit_->style()->polish(edit_);
    edit_->setFocus();
}

QSize ChoiceBox::sizeHint() const { return QComboBox::sizeHint() + QSize(Theme::get().px(16), 0); }

void ChoiceBox::paintEvent(QPaintEvent*)
{
    QStyleOptionComboBox option;
    initStyleOption(&option);
    if (currentIndex() < 0) option.currentText = placeholderText();
    option.currentText = fontMetrics().elidedText(option.currentText, Qt::ElideRight, width() - Theme::get().px(36));
    QStylePainter p(this);
    p.drawComplexControl(QStyle::CC_ComboBox, option);
    p.drawControl(QStyle::CE_ComboBoxLabel, option);
    p.setFont(look::font(Voice::text, Theme::get().px(13)));
    p.setPen(isEnabled() ? Theme::get().palette().smudge : Theme::get().palette().line);
    p.drawText(rect().adjusted(0, 0, -Theme::get().px(10), 0), Qt::AlignRight | Qt::AlignVCenter, QStringLiteral("▾"));
}

Scroll::Scroll(QWidget* content, QWidget* parent) : QScrollArea(parent), edges_(new Edges(this))
{
    setWidgetResizable(true);
    setFrameShape(QFrame::NoFrame);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    setFocusPolicy(Qt::NoFocus);
    setWidget(content);
    connect(verticalScrollBar(), &QScrollBar::valueChanged, edges_, qOverload<>(&QWidget::update));
    connect(verticalScrollBar(), &QScrollBar::rangeChanged, edges_, qOverload<>(&QWidget::update));
    edges_->setAttribute(Qt::WA_TransparentForMouseEvents);
    edges_->raise();
}

void Scroll::resizeEvent(QResizeEvent* e)
{
    QScrollArea::resizeEvent(e);
    edges_->setGeometry(viewport()->geometry());
}

void Scroll::Edges::paintEvent(QPaintEvent*)
{
    const QScrollBar* bar = scroll_->verticalScrollBar();
    const int deep = Theme::get().px(26);
    QColor paper = Theme::get().palette().paper, none = paper;
    none.setAlpha(0);
    QPainter p(this);
    const auto fade = [&](int from, int to) {
        QLinearGradient g(0, from, 0, to);
        g.setColorAt(0, none);
        g.setColorAt(1, paper);
        p.fillRect(QRect(0, std::min(from, to), width(), deep), g);
    };
    if (bar->value() < bar->maximum()) fade(height() - deep, height());
    if (bar->value() > bar->minimum()) fade(deep, 0);
}

void ChoiceBox::wheelEvent(QWheelEvent* event) { event->ignore(); }

Figure::Figure(std::function<void(QPainter&, const QRectF&)> paint, QWidget* parent)
    : QWidget(parent), paint_(std::move(paint))
{
    connect(&Theme::get(), &Theme::changed, this, qOverload<>(&QWidget::update));
}

void Figure::paintEvent(QPaintEvent*)
{
    QPainter p(this);
    paint_(p, QRectF(rect()));
}

report::MassUnit mass_unit() { return {Units::get().shown(Measure::mass, 1.0), Units::get().unit(Measure::mass)}; }

namespace {

/// Lines as high as their words need: the style's own reckoning forgets the padding when it wraps.
class WrappedLines : public QStyledItemDelegate {
public:
    using QStyledItemDelegate::QStyledItemDelegate;
    QSize sizeHint(const QStyleOptionViewItem& option, const QModelIndex& index) const override
    {
        const auto* list = qobject_cast<const QListWidget*>(option.widget);
        const int width = list->viewport()->width() - 2 * list->spacing();
        const QRect words = QFontMetrics(list->font())
                                .boundingRect(0, 0, width - 2 * Theme::get().px(8) - 11, QWIDGETSIZE_MAX,
                                    Qt::TextWordWrap, index.data().toString());
        return {width, words.height() + 2 * Theme::get().px(6)};
    }
};

} // namespace

QListWidget* list_of_words()
{
    auto* list = new QListWidget;
    list->setItemDelegate(new WrappedLines(list));
    list->setWordWrap(true);
    list->setTextElideMode(Qt::ElideNone);
    list->setResizeMode(QListView::Adjust);
    list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    return list;
}

QWidget* hairline(bool upright, QWidget* parent)
{
    auto* f = new QFrame(parent);
    f->setProperty("line", true);
    if (upright)
        f->setFixedWidth(1);
    else
        f->setFixedHeight(1);
    return f;
}

} // namespace fusain::desk
