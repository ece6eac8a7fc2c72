// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "work/lab/lab.h"
#include "desk/parts/parts.h"
#include "desk/parts/typed_row.h"
#include "work/visit/session.h"

#include <QListWidget>
#include <QPlainTextEdit>
#include <QStackedWidget>
#include <QTimer>

namespace fusain::desk {

/// A guided check, one step at a time. Every step is stored when it is done; readings come from the line.
class CheckPanel : public QWidget {
    Q_OBJECT
public:
    CheckPanel(work::Lab& lab, work::Session& session, QWidget* parent = nullptr);
    void set_technician(std::function<QString()> who) { who_ = std::move(who); }
    /// Begins a check, or goes on with the one that is under way.
    [[nodiscard]] std::optional<Message> begin(const records::Instrument& instrument);

signals:
    void done();
    void trouble(const QString& text);

private:
    void redraw();
    void tick();
    void confirm();
    void ask();
    void reading(double value, std::optional<double> reactance = {});
    void add(bench::Act what);
    void finish();
    void close_typing();
    const bench::CheckStep* step() const;
    work::Lab& lab_;
    work::Session& session_;
    std::function<QString()> who_;
    std::optional<records::Instrument> instrument_;
    long check_id_ = 0;
    bench::CheckRun run_{bench::scale_kind()};
    bool asking_ = false, weighing_ = false;
    QLabel *title_, *hint_, *big_, *steps_, *result_;
    QLineEdit* remark_;
    NumberField* value_;
    TypedRow* typed_;
    ChoiceBox* who_measured_;
    KeyButton *main_, *type_, *repeat_, *remark_key_, *leave_, *give_up_;
    bench::Beat timer_;
};

/// Adding or changing an instrument.
class InstrumentForm : public QWidget {
    Q_OBJECT
public:
    explicit InstrumentForm(work::Lab& lab, QWidget* parent = nullptr);
    void edit(const records::Instrument& instrument);

    enum class Then { stay, connect, teach };

signals:
    /// `then`: how a new one goes on: its line is connected, or it is said what it shows
    void saved(long id, fusain::desk::InstrumentForm::Then then);
    void cancelled();

private:
    void save();
    void show_kind();
    void fill_shows();
    void fill_checks();
    const bench::InstrumentKind& kind() const;
    work::Lab& lab_;
    records::Instrument now_;
    QLabel *heading_, *reference_title_, *reference_x_title_, *rated_title_, *shows_title_;
    QComboBox *kind_, *way_, *shows_, *check_by_;
    KeyButton* more_;
    std::vector<QWidget*> seldom_; ///< what few need, under "more"
    QLineEdit *name_, *serial_, *profile_, *location_, *due_, *reference_, *reference_x_, *duration_, *rated_;
    WordButton* in_use_;
    std::map<std::string, QLabel*> troubles_;
};

/// Opening hours, and who works here.
class HoursForm : public QWidget {
    Q_OBJECT
public:
    explicit HoursForm(work::Lab& lab, QWidget* parent = nullptr);
    void refresh();

signals:
    void kept();

private:
    void save();
    work::Lab& lab_;
    QLineEdit* days_[7];
    QLineEdit *new_name_, *lab_name_, *zone_;
    QListWidget* staff_;
    QLineEdit *person_hours_, *let_; ///< let_: why somebody may measure without the practice that is asked for
    QWidget* each_;                  ///< what is said of one of them
    WordButton *licence_, *active_;
    QLabel *said_, *new_title_, *let_title_;
    std::vector<records::StaffMember> people_;
};

/// The register of instruments: what they are, whether they are ready, what their checks show over weeks.
class ConnectPage;
class LayoutPage;
class StudyPage;

class InstrumentsPage : public QWidget {
    Q_OBJECT
public:
    InstrumentsPage(work::Lab& lab, work::Session& session, QWidget* parent = nullptr);
    void refresh();
    void select(long instrument_id);
    void set_technician(std::function<QString()> who);
    void begin_check();
    /// Studies of the instrument that is shown, or of the one that the visit was made on.
    void show_studies();
    StudyPage& studies() { return *studies_; }
    /// What the instrument that is shown prints or shows.
    void teach_layout();
    LayoutPage& layouts() { return *layouts_; }
    void show_lines();
    /// `instrument_id`: for whom; 0: not said.
    void connect_one(long instrument_id = 0);
    void add_one();
    void show_people();

signals:
    void check_left(long instrument_id);
    void kept(); ///< an instrument or the lab's people
    void trouble(const QString& text);
    void note(const QString& text);
    void measure(long client_id, Method method); ///< a repeat of a study

private:
    QWidget* make_list();
    QWidget* make_record();
    void connect_pages();
    void connect_record();
    void list_all(); ///< the list beside
    void show_instrument();
    work::Lab& lab_;
    std::vector<records::Instrument> all_;
    long shown_ = 0;
    QListWidget* list_;
    QStackedWidget* right_;
    QLabel *name_, *facts_, *ready_, *chart_words_, *history_;
    Figure* chart_;
    quality::Chart chart_now_;
    std::vector<quality::Point> points_;
    KeyButton *check_key_, *edit_, *baseline_, *study_key_, *layout_key_;
    QLineEdit* service_;
    std::function<QString()> who_;
    CheckPanel* check_;
    InstrumentForm* form_;
    HoursForm* hours_;
    ConnectPage* lines_;
    StudyPage* studies_;
    LayoutPage* layouts_;
};

} // namespace fusain::desk
