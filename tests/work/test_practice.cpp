// SPDX-License-Identifier: GPL-3.0-or-later
// The practice folder: what is kept in it, that a lab never reads anything else of it, and the level a lab may ask for.
#include "furnish.h"
#include "records/store/overview.h"
#include "told.h"
#include "work/visit/gate.h"
#include "work/practice/practice.h"
#include "work/reading/history.h"

#include <QFile>
#include <QTemporaryDir>

using namespace fusain;
using work::DrillAnswer;

namespace {

const bench::Drill& drill(const char* id)
{
    for (const bench::Drill& d : bench::shipped_drills())
        if (d.id == id) return d;
    throw std::out_of_range(id);
}

void run(records::Store& store, const bench::Drill& d, const QString& who, bool well)
{
    const auto id = work::begin_drill(store, d, who);
    ASSERT_TRUE(id);
    for (int i = 0; i < static_cast<int>(d.items.size()); ++i) {
        DrillAnswer a;
        a.item = i;
        a.seconds = 9;
        const double off = well ? 0.001 : 20;
        a.numbers = {{2 + off, 2, 2.001, -1, 9}};
        a.calls = {{well ? "none" : "leak", "none", 9}};
        a.cost = "+0.1 % fat, \"roughly\"";
        EXPECT_FALSE(work::keep_answer(store, *id, a, who));
    }
    EXPECT_FALSE(work::end_drill(store, *id, who));
}

struct Both {
    QTemporaryDir dir;
    std::shared_ptr<records::Store> lab, practice;
    Both()
    {
        work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(15, 0), QTimeZone("Europe/Paris")));
        lab = *records::Store::open(dir.path() + "/lab.fusain");
        practice = *work::open_practice(work::practice_folder(dir.path()), {"M. Tanguy", "B. Le Goff"});
    }
};

} // namespace

TEST(Practice, ARunIsKeptAnswerByAnswerAndGoesOnWhereItWasLeft)
{
    Both b;
    const bench::Drill& d = drill("swing_calm");
    const long id = *work::begin_drill(*b.practice, d, "M. Tanguy");
    EXPECT_FALSE(
        work::keep_answer(*b.practice, id, {0, {{2.31, 2.30, 2.305, -1, 12}}, {}, 12, "+0.1 % fat"}, "M. Tanguy"));
    b.practice.reset(); // killed in mid-drill
    b.practice = *work::open_practice(work::practice_folder(b.dir.path()), {});
    auto runs = work::drill_runs(*b.practice);
    ASSERT_EQ(runs.size(), 1u);
    EXPECT_FALSE(runs[0].over);
    EXPECT_EQ(runs[0].next_item(), 1);
    EXPECT_EQ(runs[0].who, "M. Tanguy");
    EXPECT_NEAR(runs[0].numbers().bias, 0.01, 1e-12);
    EXPECT_NEAR(*runs[0].numbers().reader_rms, 0.005, 1e-12);
    EXPECT_FALSE(runs[0].passed()) << "not over";
    EXPECT_FALSE(work::end_drill(*b.practice, id, "M. Tanguy"));
    EXPECT_TRUE(work::drill_runs(*b.practice)[0].passed());
    EXPECT_FALSE(work::begin_drill(*b.practice, d, "  ")) << "nobody";
    EXPECT_TRUE(b.practice->database().tables().contains("drill_event"));
}

TEST(Practice, AFolderIsNoLabAndALabIsNoFolder)
{
    Both b;
    EXPECT_TRUE(work::is_practice(*b.practice));
    EXPECT_FALSE(work::is_practice(*b.lab));
    const auto wrong = work::open_practice(b.dir.path(), {});
    ASSERT_FALSE(wrong);
    EXPECT_EQ(wrong.messages().front().code, "no_practice_folder");
    EXPECT_FALSE(work::is_practice(*b.lab)) << "nothing was changed in it";
    EXPECT_EQ(b.practice->setting("lab_name"), "PRACTICE · nobody was measured") << "it stands on every sheet";
    EXPECT_EQ(work::Lab(b.practice).diary->staff().size(), 2u);
    const auto again = work::open_practice(work::practice_folder(b.dir.path()), {"M. Tanguy"});
    EXPECT_EQ(work::Lab(*again).diary->staff().size(), 2u) << "nobody twice";
}

TEST(Practice, NothingOfItReachesClientsChangeOrExportsOfTheLab)
{
    Both b;
    work::ToldLab told{b.practice, {}};
    told.client.given_name = "Practice";
    told.client.family_name = "Body";
    told.client.birth_date = "1995-05-02";
    told.client.height_cm = 171;
    told.client = *b.practice->save(told.client);
    told.tank("2026-11-20", 70, {2.30, 2.32, 2.31});
    told.tank("2026-11-21", 70, {2.30, 2.32, 2.31});
    run(*b.practice, drill("swing_calm"), "M. Tanguy", true);
    ASSERT_EQ(b.practice->count_clients(""), 1);
    work::Lab lab(b.lab);
    EXPECT_EQ(b.lab->count_clients(""), 0);
    EXPECT_TRUE(b.lab->find_clients("body").empty());
    EXPECT_TRUE(work::History::of(lab, told.client.id).all().empty());
    EXPECT_TRUE(records::measured_between(*b.lab, "2020", "2030").empty());
    EXPECT_TRUE(records::measured_again(*b.lab, "hydrostatic", 10).empty());
    std::atomic<bool> stop{false};
    EXPECT_TRUE(records::newest_results(b.lab->file(), stop).empty()) << "the lab's own group";
    EXPECT_TRUE(work::drill_runs(*b.lab).empty());
}

TEST(Practice, TheLevelALabAsksForIsHeldAndSomebodyElseMayAnswerForIt)
{
    Both b;
    work::Lab lab(b.lab);
    const auto missing = [&](const QString& who) {
        const auto why = work::practice_missing(lab, who, method::absorptiometry);
        return why ? why->code : "";
    };
    EXPECT_EQ(missing("M. Tanguy"), "") << "by default nothing is asked for";
    ASSERT_FALSE(lab.rules.choose("practice_level", "1", "M. Tanguy"));
    EXPECT_EQ(missing("M. Tanguy"), "not_practised");
    run(*b.practice, drill("lines_1"), "M. Tanguy", false);
    EXPECT_EQ(missing("M. Tanguy"), "not_practised") << "tried is not passed";
    run(*b.practice, drill("lines_1"), "B. Le Goff", true);
    EXPECT_EQ(missing("M. Tanguy"), "not_practised") << "somebody else's";
    run(*b.practice, drill("lines_1"), "M. Tanguy", true);
    EXPECT_EQ(missing("M. Tanguy"), "");
    EXPECT_EQ(work::not_passed(b.dir.path(), "M. Tanguy", method::hydrostatic, 1).size(), 4)
        << "of another method nothing is known";
    ASSERT_FALSE(lab.rules.choose("practice_level", "2", "M. Tanguy"));
    EXPECT_EQ(missing("M. Tanguy"), "not_practised") << "higher ones have drills of their own";

    EXPECT_EQ(work::let_measure(lab, "B. Le Goff", "B. Le  Goff", "alone on call")->code, "own_word");
    EXPECT_EQ(work::let_measure(lab, "B. Le Goff", "M. Tanguy", " ")->field, "reason");
    EXPECT_FALSE(work::let_measure(lab, "B. Le Goff", "M. Tanguy", "alone on call"));
    EXPECT_EQ(missing("B. Le Goff"), "");
    EXPECT_EQ(work::let_by(lab, "B. Le Goff"), "let by M. Tanguy on 23 November 2026: alone on call");
}

TEST(Practice, OwnDrillsAreReadAndWrongOnesAreNamedAndLeftOut)
{
    Both b;
    const QString folder = work::practice_folder(b.dir.path());
    ASSERT_TRUE(QDir().mkpath(folder + "/drills"));
    QFile shipped(TEST_SOURCE_DIR "/data/drills/runs_1.json");
    ASSERT_TRUE(shipped.open(QIODevice::ReadOnly));
    const QByteArray text = shipped.readAll();
    const auto put = [&](const char* name, const QByteArray& bytes) {
        QFile f(folder + "/drills/" + name);
        ASSERT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(bytes);
    };
    put("mine.json", QByteArray(text).replace("\"runs_1\"", "\"mine\""));
    put("same.json", text);
    put("torn.json", text.left(200));
    Messages bad;
    const auto all = work::drills_of(folder, bad);
    EXPECT_EQ(all.size(), bench::shipped_drills().size() + 1);
    ASSERT_EQ(bad.size(), 2u);
    EXPECT_NE(bad[0].text.find("there is a drill \"runs_1\" already"), std::string::npos) << bad[0].text;
    EXPECT_NE(bad[1].text.find("torn.json: line"), std::string::npos) << bad[1].text;
}

TEST(Practice, AClassIsExportedAsOneTable)
{
    Both b;
    for (int i = 0; i < 20; ++i)
        run(*b.practice, drill("runs_1"), QStringLiteral("Trainee, no. %1").arg(i + 1), i % 2 == 0);
    const auto path = work::save_drills(*b.practice);
    ASSERT_TRUE(path);
    QFile f(*path);
    ASSERT_TRUE(f.open(QIODevice::ReadOnly));
    const QStringList rows = QString::fromUtf8(f.readAll()).trimmed().split('\n');
    EXPECT_EQ(rows.size(), 1 + 20 * 5 * 2) << "a number and a call each";
    EXPECT_TRUE(rows[1].startsWith("\"Trainee, no. 1\",2026-11-23T15:0")) << rows[1].toStdString();
    EXPECT_TRUE(rows[2].contains(",none,none,,,right,9.0,\"'+0.1 % fat, \"\"roughly\"\"\",yes"))
        << rows[2].toStdString();
    EXPECT_TRUE(rows[12].endsWith(",no")) << rows[12].toStdString();
}
