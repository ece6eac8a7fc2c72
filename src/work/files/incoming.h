// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "bench/lines/link/clock.h"
#include "bench/visit/visit.h"
#include "work/lab/lab.h"
#include "work/lab/long_work.h"

#include <map>
#include <set>

/// Printouts that instruments, a scanner or a stick put into one folder: watched, offered, never given to anybody by
/// themselves (docs/printout-reading.md). No widgets.
namespace fusain::work {

/// A printout that appeared and that nobody has taken yet.
struct CameIn {
    QString path, name;
    QDateTime written;                             ///< the file's own time, in the lab's zone
    std::string sha256;                            ///< empty: its bytes cannot be read
    std::set<std::string> instruments;             ///< serial numbers of those whose layout it fits
    std::string number, at;                        ///< of the client, and when, as the paper says; empty: it does not
    bool unsure = false;                           ///< whether the number was read right
    QString trouble;                               ///< why none of the lab's layouts can read it
    QDateTime moment(const QTimeZone& zone) const; ///< as printed, else as written
};

/// Held against the visit at the bench.
struct Match {
    bool agrees = false;
    QString words; ///< number and hour as the paper has them; what differs, named
};
Match match(const CameIn& paper, const bench::Visit& visit, const QTimeZone& zone);

/// Whose it may be, by number and hour. Zeros: that is not known.
struct Claim {
    long client = 0, visit = 0, booking = 0;
    bool is_open = false; ///< the visit is still measured
    QString words;
};
Claim claim(const Lab& lab, const CameIn& paper);

/// The folder that is watched. It may be a share or a stick: it is looked at in a thread of its own, every two seconds,
/// and read file by file there. A file counts when it has not grown between two looks. Of what lies there already when
/// the program begins only the last week counts; a file that a visit keeps, or that was set aside, does not come again,
/// under whatever name.
class Incoming : public QObject {
    Q_OBJECT
public:
    Incoming(Lab& lab, bench::Clock& clock, QObject* parent = nullptr);
    QString folder() const { return folder_; } ///< empty: none
    /// From now on, in this lab; empty: none any more. Refusals: `folder_unreachable`, `folder_of_the_lab`.
    [[nodiscard]] std::optional<Message> watch(const QString& folder);
    /// The newest first.
    const std::vector<CameIn>& waiting() const { return waiting_; }
    std::vector<CameIn> of_instrument(const std::string& serial) const;
    /// It is of no visit here.
    [[nodiscard]] std::optional<Message> set_aside(const std::string& sha256, const QString& who);
    /// Layouts or instruments are others now.
    void read_again();
    /// What visits have taken meanwhile goes.
    void settle();
    QString trouble() const { return trouble_; } ///< why nothing can be seen there now; empty: it can

signals:
    void changed();

private:
    struct Found {
        QString path;
        qint64 bytes = 0;
        QDateTime written;
    };
    struct Known {
        qint64 bytes = 0;
        QDateTime written;
        bool looked_at = false;
    };
    void look();
    void compare(const std::optional<std::vector<Found>>& all);
    void next();
    void read(const QString& path);
    Lab& lab_;
    QString folder_, trouble_;
    bool first_look_ = true;
    std::map<QString, Known> known_;
    std::vector<QString> due_; ///< still to be read
    std::vector<CameIn> waiting_;
    LongWork work_;
    bench::Beat beat_;
};

} // namespace fusain::work
