// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/audition.h"
#include "desk/parts/parts.h"
#include "work/lab/lab.h"
#include "work/lab/lines.h"
#include "work/visit/session.h"

class QPlainTextEdit;

namespace fusain::desk {

/// Connecting one instrument: where its line is, what arrives, who understands it, what it feeds.
class ConnectForm : public QWidget {
    Q_OBJECT
public:
    ConnectForm(work::Lab& lab, work::Session& session, QWidget* parent = nullptr);
    /// Whose line it is to be, where that is known.
    struct Wanted {
        QString name;
        std::optional<bench::Channel> feeds;
    };
    /// A line that is kept, or nothing for a new one.
    void begin(const std::optional<bench::LineSetup>& line, const Wanted& wanted);

signals:
    void done(); ///< kept, or left

private:
    void show_places();
    void listen();
    void hear();
    void show();
    void choose(int trial);
    void keep();
    void leave();
    void say_wrong(const std::optional<Message>& why);
    bench::LineSetup line() const; ///< as it stands on the form
    const bench::Audition::Trial* chosen() const;
    work::Lab& lab_;
    work::Session& session_;
    Wanted wanted_;
    std::string before_; ///< place of the line that is changed
    work::Decoders decoders_;
    bench::Audition audition_;
    std::optional<bench::LineSetup> to_hear_;       ///< once the lab's own link has let go of it
    std::shared_ptr<const bench::Decoder> decoder_; ///< chosen; null while none is, and for the bench line
    bool any_ = false, by_hand_ = false;            ///< one is chosen; by the technician
    QLabel *title_, *said_, *reads_, *fixed_, *wrong_, *measures_, *in_;
    ChoiceBox *place_, *baud_, *bits_, *parity_, *stop_, *flow_, *feeds_, *unit_;
    QLineEdit *other_, *name_;
    QWidget *serial_, *feeding_;
    QPlainTextEdit* bytes_;
    QListWidget* understood_;
    std::vector<int> shown_; ///< of the list's rows: which trial
    KeyButton *listen_, *speeds_, *ask_, *keep_, *leave_;
};

/// The lines of this lab at this computer, and connecting another.
class ConnectPage : public QWidget {
    Q_OBJECT
public:
    ConnectPage(work::Lab& lab, work::Session& session, QWidget* parent = nullptr);
    void refresh();
    void connect_one(const ConnectForm::Wanted& wanted = {}) { begin({}, wanted); }

signals:
    void left();

private:
    void begin(const std::optional<bench::LineSetup>& line, const ConnectForm::Wanted& wanted = {});
    void show_states();
    std::optional<bench::LineSetup> current() const;
    work::Lab& lab_;
    work::Session& session_;
    work::KeptLines kept_;
    Pages* pages_;
    QListWidget* list_;
    QLabel *none_, *wrong_, *known_;
    KeyButton *add_, *change_, *forget_;
    ConnectForm* form_;
    bool asked_ = false; ///< whether to forget
};

} // namespace fusain::desk
