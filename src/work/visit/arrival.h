// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/time/alike.h"
#include "work/lab/lab.h"
#include "work/study/in_force.h"

/// A client has arrived: what is asked, what follows from the answers, and what is kept of it. No widgets.
namespace fusain::work {

/// The screening of one booking: answers, verdicts, overrides, and whether it is kept already.
class Arrival {
public:
    explicit Arrival(Lab& lab) : lab_(lab) {}

    /// Refuses when there is no such booking. A screening of this visit that is there already is taken up.
    [[nodiscard]] std::optional<Message> begin(long booking_id);
    /// All over again, with what seldom changes known from before.
    void ask_again();
    /// `at` is the place of the question. A reason for going on that was given for other answers is gone.
    /// Returned: why a draft of it is not on the disk; it counts all the same.
    [[nodiscard]] std::optional<Message> answer(int at, const screening::Answer& a);
    /// What is still open, to be read out together; empty: nothing is.
    std::vector<screening::Line> health_page() const;
    std::vector<screening::Line> preparation_page() const;
    /// Answers a page at once: what is `marked` applies. A clock time that is marked stays open.
    [[nodiscard]] std::optional<Message> answer(
        const std::vector<screening::Line>& page, const std::set<std::string>& marked);
    /// A consent that is missing on record is signed today: the client's own, or of a minor the guardian's too.
    enum class Consent { own, guardian };
    std::optional<Consent> missing_consent() const;
    /// Noted in the record and in the client's log. `signed_by`: the guardian; of the own consent it is the client.
    [[nodiscard]] std::optional<Message> sign(const QString& signed_by, const QString& who);
    /// What was typed for a question: a clock time, "never", a number of its unit. The refusal says what is allowed.
    Outcome<screening::Answer> read(int at, const QString& text) const;
    /// What this lab knows of its own about a question, for who asks it; empty: nothing.
    QString aside(int at) const;
    /// The first question without an answer; nothing when all have one.
    std::optional<int> first_open() const;

    /// An override never reaches past a stop, also one that was answered after it.
    bool may_go(const screening::MethodVerdict& v) const;
    /// Refused without a reason that says something. For every method that may be overridden.
    [[nodiscard]] std::optional<Message> go_all_the_same(const QString& who, const QString& reason);
    std::vector<Method> not_going() const;
    /// Stores the screening; the client has arrived. A refusal keeps everything as it is.
    [[nodiscard]] std::optional<Message> keep(const QString& who);
    /// The next method that may go and is measured at a bench here.
    std::optional<Method> next_on_the_bench() const;
    /// A method whose visit was begun and is still measured: it is gone on with before anything is closed.
    std::optional<Method> unfinished_on_the_bench() const;
    /// Ends the booking: what may go and has no bench here was measured on another instrument's own screen.
    [[nodiscard]] std::optional<Message> close();
    /// What the log of the visit keeps of the screening: the body of `stops`.
    bench::event::Stops stops_event(Method method) const;

    struct Override {
        QString who, reason;
    };
    bool is_open() const { return booking_.has_value(); }
    const records::Booking& booking() const { return *booking_; }
    const records::Client& client() const { return *client_; }
    const screening::Person& person() const { return person_; }
    const protocol::Book& book() const { return book_; }
    const protocol::HouseRules& house() const { return house_; }
    const std::vector<const protocol::Question*>& questions() const { return questions_; }
    const protocol::Question& question(int at) const { return *questions_[static_cast<std::size_t>(at)]; }
    const screening::Answers& answers() const { return answers_; }
    /// Known from the record or the last visit, and not asked today.
    const std::set<std::string>& known() const { return known_; }
    /// A repeat of a study: what is known was answered then, before the person's last test; invalid otherwise.
    const QDateTime& answered_at() const { return answered_at_; }
    const std::vector<screening::MethodVerdict>& verdicts() const { return verdicts_; }
    const Override* overridden(Method method) const;
    /// Beside the client's last visit by the method; null: there was none.
    const alike::Comparability* likeness(Method method) const;
    const QDateTime& asked_at() const { return asked_at_; }
    bool kept() const { return kept_; }

private:
    /// These are known; the rest is asked.
    void know(screening::Answers answers);
    /// Today's screening before a test that this one is a repeat of, by a study that awaits it.
    std::optional<records::ScreeningRow> screening_of_repeat() const;
    void judge();
    [[nodiscard]] std::optional<Message> take(); ///< answers have changed
    std::vector<const protocol::Question*> open() const;

    Lab& lab_;
    std::optional<records::Booking> booking_;
    std::optional<records::Client> client_;
    screening::Person person_;
    protocol::Book book_;
    protocol::HouseRules house_;
    std::vector<const protocol::Question*> questions_;
    screening::Answers answers_;
    std::set<std::string> known_;
    std::vector<screening::MethodVerdict> verdicts_;
    std::map<Method, Override> overrides_;
    std::map<Method, screening::Conditions> last_;
    std::map<Method, alike::Comparability> likeness_;
    InForce in_force_; ///< studies as they stood when the screening began
    QDateTime asked_at_, answered_at_;
    bool kept_ = false;
};

} // namespace fusain::work
