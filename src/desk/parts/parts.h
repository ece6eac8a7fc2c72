// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/base/outcome.h"
#include "desk/parts/theme.h"
#include "desk/parts/wrapped_row.h"
#include "report/page/figures.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QLineEdit>
#include <QListWidget>
#include <QScrollArea>
#include <QStackedWidget>

#include <functional>
#include <optional>

/// Small parts that every page uses.
namespace fusain::desk {

/// A key cap with what it does: reachable by the key, the mouse and the tab order.
class KeyButton : public QAbstractButton {
    Q_OBJECT
public:
    KeyButton(const QKeySequence& key, const QString& cap, const QString& words, QWidget* parent = nullptr);
    void set_main(bool on); ///< the next step: drawn stronger
    void set_words(const QString& words);
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

protected:
    bool event(QEvent* event) override; ///< a key acts at once, without the animation of a click
    void paintEvent(QPaintEvent*) override;
    void enterEvent(QEnterEvent*) override { update(); }
    void leaveEvent(QEvent*) override { update(); }

private:
    QString cap_;
    bool main_ = false;
};

/// A key button that stays down, and says so with a word.
class Mark : public KeyButton {
    Q_OBJECT
public:
    Mark(const QKeySequence& key, const QString& cap, const QString& words, const QString& when_on);
};

/// A button that is only words: navigation and switches.
class WordButton : public QAbstractButton {
    Q_OBJECT
public:
    explicit WordButton(const QString& words, double size = 15, QWidget* parent = nullptr);
    void set_voice(look::Voice voice) { voice_ = voice; }
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return sizeHint(); }

protected:
    bool event(QEvent* event) override; ///< a key acts at once
    void paintEvent(QPaintEvent*) override;

private:
    double size_;
    look::Voice voice_ = look::Voice::text;
};

/// A word that is on or off: marked, not only underlined.
WordButton* toggle(const QString& words, double size = 15);

/// A number with its unit and, under it, what is wrong with it. Shows the chosen unit, keeps the metric value exactly.
class NumberField : public QWidget {
    Q_OBJECT
public:
    NumberField(const std::string& limit_field, Measure measure, QWidget* parent = nullptr);
    void set_metric(std::optional<double> value);
    /// The metric value, or nothing with the reason shown under the field. An empty field is said to be missing.
    std::optional<double> metric();
    /// The same without showing anything.
    std::optional<double> peek() const;
    bool is_empty() const { return edit_->text().trimmed().isEmpty(); }
    bool is_touched() const { return touched_; }
    void show_trouble(const QString& text);
    QLineEdit* edit() { return edit_; }

signals:
    void edited();

private:
    void show_value();
    std::optional<double> parse(Message& why) const;
    /// What is typed, by the units shown now; nothing: it is no number.
    std::optional<double> read() const;
    std::string field_;
    Measure measure_;
    QLineEdit* edit_;
    QLabel *unit_, *trouble_;
    std::optional<double> metric_; ///< what was set; holds until the text is edited
    std::optional<double> typed_;  ///< what was typed, by the units that were shown then
    bool touched_ = false;
};

/// A combo box that shows that it opens.
class ChoiceBox : public QComboBox {
    Q_OBJECT
public:
    using QComboBox::QComboBox;
    QSize sizeHint() const override; ///< with room for its mark

protected:
    void paintEvent(QPaintEvent* event) override;
    void wheelEvent(QWheelEvent* event) override; ///< a wheel over the page must not change a choice
};

/// Pages of which one is seen. Asks nothing of the hidden ones: a plain stack lays out every page at each word that
/// changes on the one that is seen, which took 34 ms while a signal ran.
class Pages : public QStackedWidget {
    Q_OBJECT
public:
    using QStackedWidget::QStackedWidget;
    QSize sizeHint() const override { return currentWidget() ? currentWidget()->sizeHint() : QSize(); }
    QSize minimumSizeHint() const override { return {}; }
    bool hasHeightForWidth() const override { return false; }
};

/// Content that is scrolled up and down; where there is more, its edge fades.
class Scroll : public QScrollArea {
    Q_OBJECT
public:
    explicit Scroll(QWidget* content, QWidget* parent = nullptr);

protected:
    void resizeEvent(QResizeEvent* e) override;

private:
    class Edges : public QWidget {
    public:
        explicit Edges(Scroll* scroll) : QWidget(scroll), scroll_(scroll) {}

    protected:
        void paintEvent(QPaintEvent*) override;

    private:
        Scroll* scroll_;
    };
    Edges* edges_;
};

/// A figure drawn by a function.
class Figure : public QWidget {
    Q_OBJECT
public:
    explicit Figure(std::function<void(QPainter&, const QRectF&)> paint, QWidget* parent = nullptr);

protected:
    void paintEvent(QPaintEvent*) override;

private:
    std::function<void(QPainter&, const QRectF&)> paint_;
};

/// The unit of mass shown now, for the figures.
report::MassUnit mass_unit();

QWidget* hairline(bool upright, QWidget* parent = nullptr);
/// A list whose lines wrap: nothing is scrolled sideways.
QListWidget* list_of_words();

/// Sizes that go with the text: `how` runs now and whenever text or theme change.
template <class How>
void with_theme(QWidget* w, How how)
{
    how();
    QObject::connect(&Theme::get(), &Theme::changed, w, how);
}

} // namespace fusain::desk
