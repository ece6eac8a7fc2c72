// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/printout/layout.h"
#include "work/lab/long_work.h"
#include "desk/parts/parts.h"
#include "work/lab/lab.h"
#include "work/files/printout_file.h"

#include <QPlainTextEdit>

namespace fusain::desk {

/// A sheet of paper whose numbers can be clicked.
class PaperView : public QWidget {
    Q_OBJECT
public:
    explicit PaperView(QWidget* parent = nullptr);
    void show_page(const printout::Page& words, const bench::paper::Grey& picture);
    /// Outlined: what is known already.
    void mark(std::vector<std::size_t> words);
    QPointF on_screen(std::size_t word) const; ///< its middle
    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    QSize sizeHint() const override { return {500, heightForWidth(500)}; }

signals:
    void clicked(std::size_t word);

protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;

private:
    double scale() const; ///< pixels a millimetre
    std::optional<std::size_t> under(const QPointF& at) const;
    printout::Page words_;
    QImage image_;
    std::vector<std::size_t> marked_;
    std::optional<std::size_t> hovered_;
};

/// The lab's own layout of what an instrument shows, made with the technician: names typed in order, or a first
/// printout shown and its values clicked.
class LayoutPage : public QWidget {
    Q_OBJECT
public:
    explicit LayoutPage(work::Lab& lab, QWidget* parent = nullptr);
    /// Of this instrument: its layout, or a new one.
    void begin(const records::Instrument& instrument);
    /// Shows a printout to click on; read in a thread of its own.
    Q_INVOKABLE void show_paper(const QString& path);
    bool is_reading() const { return reading_.is_running(); }
    PaperView& paper() { return *paper_; }
    const work::PaperPages* pages() const { return pages_ ? &*pages_ : nullptr; }

signals:
    void kept(long instrument_id);
    void left();
    void read_done();

protected:
    void resizeEvent(QResizeEvent*) override;

private:
    struct Row {
        QWidget* whole = nullptr;
        QLineEdit *label = nullptr, *unit = nullptr;
        ChoiceBox *what = nullptr, *decimals = nullptr;
        WordButton *limits = nullptr, *away = nullptr;
        std::string under;
        std::optional<std::pair<std::size_t, std::size_t>> at; ///< page and word it was taught on
        double value = 0;                                      ///< that stands there
    };
    void add(const printout::Field& field, const std::string& what);
    void place(const Row& row) const;
    void type_name();
    void taught(std::size_t word);
    void remove(const QWidget* whole);
    void clear();
    void turn(int by);
    void mark();
    printout::Layout made() const;
    /// Reads the shown printout by what was taught: what is not found again; empty: everything is.
    QStringList not_found_again(const printout::Layout& layout) const;
    void keep();
    void tell();

    work::Lab& lab_;
    records::Instrument instrument_;
    printout::Layout before_; ///< as it was: what this page does not show of it is kept
    work::LongWork reading_;
    std::optional<work::PaperPages> pages_;
    std::size_t page_ = 0;
    QLabel *title_, *hint_, *said_;
    QLineEdit *name_, *next_;
    QVBoxLayout* rows_column_;
    QScrollArea* scroll_;
    std::vector<Row> rows_;
    PaperView* paper_;
    QScrollArea* paper_room_;
    KeyButton *keep_, *show_, *turn_, *stop_;
};

} // namespace fusain::desk
