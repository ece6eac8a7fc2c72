// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/player/demo_player.h"

#include "bench/analyser/analyser_take.h"
#include "bench/chamber/chamber_take.h"
#include "bench/tank/tank_take.h"
#include "bench/xray/xray_take.h"

#include "report/sheets/letters.h"

#include <QApplication>
#include <QComboBox>
#include <QDir>
#include <QFile>
#include <QListWidget>
#include <QTextStream>

namespace fusain::desk {
namespace {
constexpr int step_ms = 120, standstill_steps = 3 * 60 * 1000 / step_ms;
}

DemoPlayer::DemoPlayer(MainWindow& window, const QString& out_folder, const QString& client, QObject* parent)
    : QObject(parent), window_(window), out_(out_folder), client_(client)
{
    if (!out_.isEmpty()) QDir().mkpath(out_);
    connect(&timer_, &QTimer::timeout, this, &DemoPlayer::step);
    connect(&window_.session(), &work::Session::live_changed, this, [this] { ++tells_; });
}

QAbstractButton* DemoPlayer::button(const QString& name) const
{
    for (QAbstractButton* b : window_.findChildren<QAbstractButton*>(name))
        if (b->isVisible()) return b;
    return nullptr;
}

bool DemoPlayer::can_press(const QString& name) const
{
    const QAbstractButton* b = button(name);
    return b && b->isEnabled();
}

void DemoPlayer::press(const QString& name)
{
    if (QAbstractButton* b = button(name)) b->click();
}

void DemoPlayer::add(const QString& name, std::function<bool()> ready, std::function<void()> act)
{
    moves_.push_back({name, std::move(ready), std::move(act)});
}

void DemoPlayer::add_press(const QString& name)
{
    add(
        QStringLiteral("press ") + name, [this, name] { return can_press(name); }, [this, name] { press(name); });
}

void DemoPlayer::add_start(const QString& place)
{
    const auto key = [this, place]() -> QAbstractButton* {
        for (QAbstractButton* b : window_.findChildren<QAbstractButton*>())
            if (b->isVisible() && b->isEnabled() && b->property("place").toString() == place) return b;
        return nullptr;
    };
    add(
        QStringLiteral("begin: ") + place, [key] { return key() != nullptr; }, [key] { key()->click(); });
}

void DemoPlayer::watch(const QString& name, int tells, std::function<void()> act)
{
    const auto since = std::make_shared<long>(-1);
    add(
        name,
        [this, since, tells] {
            if (*since < 0) *since = tells_;
            return tells_ - *since >= tells;
        },
        std::move(act));
}

QString DemoPlayer::progress() const
{
    const bench::Live& live = window_.session().live();
    return QStringLiteral("%1 %2 %3 %4 %5 %6")
        .arg(window_.session().visit().last_seq)
        .arg(live.trial)
        .arg(bench::xray_shown(live).rows_seen)
        .arg(bench::analyser_shown(live).state.seconds)
        .arg(bench::chamber_shown(live).state.now_s)
        .arg(bench::tank_shown(live).trace.size());
}

void DemoPlayer::give_out()
{
    const auto open = [this] { return !window_.session().visit().to_acknowledge().empty(); };
    add(
        QStringLiteral("asked to measure again?"), [this] { return can_press(QStringLiteral("client_sheet")); },
        [this, open] {
            if (open()) press(QStringLiteral("acknowledge"));
        });
    add(
        QStringLiteral("nothing left to acknowledge"), [open] { return !open(); }, [] {});
    add_press(QStringLiteral("client_sheet"));
}

void DemoPlayer::picture(const QString& name)
{
    if (out_.isEmpty()) return;
    for (int i = 0; i < 3; ++i) QCoreApplication::sendPostedEvents(nullptr, QEvent::LayoutRequest); // as it is painted
    window_.grab().save(QStringLiteral("%1/%2.png").arg(out_, name));
    const auto done = static_cast<qint64>(at_), all = static_cast<qint64>(moves_.size());
    QTextStream out(stdout);
    out << "demo: " << 100 * done / std::max<qint64>(1, all) << " %";
    if (done > all / 10)
        out << ", about " << (begun_.elapsed() * (all - done) / done + 59'999) / 60'000 << " min to go";
    out << "  " << name << Qt::endl;
}

void DemoPlayer::shot_when(const char* name, std::function<bool()> ready)
{
    add(QStringLiteral("picture %1").arg(QString::fromLatin1(name)), std::move(ready),
        [this, name] { picture(QString::fromLatin1(name)); });
}

void DemoPlayer::play()
{
    play_day();
    play_clients();
    play_chamber();
    play_tank();
    play_analyser();
    play_printout();
    play_xray();
    play_course();
    begun_.start();
    timer_.start(step_ms);
}

void DemoPlayer::shot(const char* name)
{
    shot_when(name, [] { return true; });
}

void DemoPlayer::press_room(const char* name) { add_press(QStringLiteral("room_") + QString::fromLatin1(name)); }

void DemoPlayer::pick_row(const char* list, int row)
{
    add(
        QStringLiteral("row %1 of %2").arg(row).arg(QString::fromLatin1(list)), [] { return true; },
        [this, list, row] {
            if (auto* l = window_.findChild<QListWidget*>(QString::fromLatin1(list))) l->setCurrentRow(row);
        });
}

void DemoPlayer::answer_screening(bool with_pictures)
{
    int* asked = new int(0);
    add(
        QStringLiteral("answer the screening"),
        [this, asked, with_pictures] {
            if (can_press(QStringLiteral("screening_keep"))) return true;
            if (can_press(QStringLiteral("answer_still"))) {
                press(QStringLiteral("answer_still"));
                return false;
            }
            if (can_press(QStringLiteral("ask_singly"))) {
                if (with_pictures) picture(QStringLiteral("screening-page"));
                press(QStringLiteral("ask_singly"));
                return false;
            }
            const auto* title = window_.findChild<QLabel*>(QStringLiteral("screening_title"));
            if (++*asked == 12 && with_pictures) picture(QStringLiteral("screening"));
            if (can_press(QStringLiteral("answer_never")) && !title->text().contains(QStringLiteral("scans"))) {
                if (with_pictures && title->text().contains(QStringLiteral("food"))) {
                    window_.findChild<QLineEdit*>(QStringLiteral("screening_typed"))
                        ->setText(QStringLiteral("80 min ago"));
                    picture(QStringLiteral("screening-clock"));
                    press(QStringLiteral("answer_take"));
                } else {
                    press(QStringLiteral("answer_never"));
                }
            } else if (title->text().contains(QStringLiteral("scans")) && can_press(QStringLiteral("answer_take"))) {
                window_.findChild<QLineEdit*>(QStringLiteral("screening_typed"))->setText(QStringLiteral("1"));
                press(QStringLiteral("answer_take"));
            } else if (can_press(QStringLiteral("answer_no"))) {
                press(title->text().contains(QStringLiteral("Bladder")) ||
                              title->text().contains(QStringLiteral("somebody stay"))
                          ? QStringLiteral("answer_yes")
                          : QStringLiteral("answer_no"));
            }
            return false;
        },
        [this, with_pictures] {
            if (with_pictures) picture(QStringLiteral("screening-verdict"));
        });
}

void DemoPlayer::keep_sheets(const QString& prefix)
{
    const QDir sheets(QFileInfo(window_.session().store().file()).absolutePath() + QStringLiteral("/sheets"));
    for (const QString& kind : {QStringLiteral("client"), QStringLiteral("lab")})
        for (const QString& name :
            sheets.entryList({QStringLiteral("visit%1-*-%2.pdf").arg(window_.session().visit_id()).arg(kind)})) {
            const QString kept = QStringLiteral("%1/%2%3-sheet.pdf").arg(out_, prefix, kind);
            QFile::remove(kept);
            QFile::copy(sheets.filePath(name), kept);
        }
}

void DemoPlayer::step()
{
    if (at_ == moves_.size()) {
        timer_.stop();
        emit finished(true);
        return;
    }
    const Move& move = moves_[at_];
    const QString now = progress();
    still_ = now == before_ ? still_ + 1 : 0; // in steps, of which a computer that stands still makes none
    before_ = now;
    if (move.ready()) {
        QTextStream(stdout) << "  " << move.name << "\n" << Qt::flush;
        move.act();
        ++at_;
        still_ = 0;
    } else if (still_ > standstill_steps) {
        timer_.stop();
        QTextStream(stdout) << "gave up: nothing has come for three minutes, waiting for \"" << move.name << "\"\n"
                            << Qt::flush;
        picture(QStringLiteral("gave-up"));
        emit finished(false);
    }
}

} // namespace fusain::desk
