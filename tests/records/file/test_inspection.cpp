// SPDX-License-Identifier: GPL-3.0-or-later
// What grows with every visit is looked through after the lab is open.
#include "records/file/inspection.h"
#include "../lab.h"

#include <QElapsedTimer>

using namespace fusain;
using namespace fusain::records;

namespace {

/// The fixture with its visit many times over.
void fill(const Lab& lab, int times)
{
    QFile fixture(QStringLiteral(TEST_SOURCE_DIR "/tests/records/fixtures/v10.sql"));
    ASSERT_TRUE(fixture.open(QIODevice::ReadOnly));
    QStringList all = QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts);
    all << QStringLiteral("INSERT INTO visit (id, client_id, method, started_at, technician, finished) WITH RECURSIVE "
                          "c(i) AS (SELECT 10 UNION ALL SELECT i + 1 FROM c WHERE i < %1) SELECT i, 7, 'hydrostatic', "
                          "'2026-01-01', 'M. Tanguy', 1 FROM c")
               .arg(10 + times)
        << "INSERT INTO visit_event SELECT v.id, e.seq, e.at, e.who, e.kind, e.body FROM visit v, visit_event e WHERE "
           "v.id >= 10 AND e.visit_id = 3";
    ASSERT_TRUE(sql(lab.file(), all));
}

/// What it says: the code and table, or "fine"; "nothing" when it never came to an end.
std::string inspect(const Lab& lab)
{
    std::string said = "nothing";
    Inspection inspection(lab.file());
    QObject::connect(&inspection, &Inspection::damaged, [&](const Message& why) { said = why.code + ' ' + why.text; });
    QObject::connect(&inspection, &Inspection::finished, [&] { said = "fine"; });
    inspection.begin();
    QElapsedTimer t;
    t.start();
    while (said == "nothing" && t.elapsed() < 20000) QCoreApplication::processEvents(QEventLoop::AllEvents, 10);
    return said;
}

} // namespace

TEST(Inspection, FindsWhatOpeningDoesNotLookThrough)
{
    {
        Lab lab;
        ASSERT_NO_FATAL_FAILURE(fill(lab, 1000));
        ASSERT_TRUE(lab.open());
        EXPECT_EQ(inspect(lab), "fine");
    }
    for (const char* table : {"visit_event", "snapshot"}) { // the last of many
        Lab lab;
        ASSERT_NO_FATAL_FAILURE(fill(lab, 300));
        ASSERT_TRUE(sql(lab.file(), {QStringLiteral("DROP TRIGGER %1_is_final").arg(table),
                                        QStringLiteral("UPDATE %1 SET body = '{\"kg\": 6' WHERE visit_id = (SELECT "
                                                       "MAX(visit_id) FROM %1) AND seq = (SELECT MAX(seq) FROM %1)")
                                            .arg(table)}));
        ASSERT_TRUE(lab.open()) << "what can be read is shown";
        const std::string said = inspect(lab);
        EXPECT_EQ(said.find("lab_damaged"), 0u) << said;
        EXPECT_NE(said.find(table), std::string::npos) << said;
    }
    { // pages of the log overwritten
        Lab lab;
        ASSERT_NO_FATAL_FAILURE(fill(lab, 3000));
        QVariant pages;
        sql(lab.file(), {"PRAGMA page_count"}, &pages);
        QFile f(lab.file());
        ASSERT_TRUE(f.open(QIODevice::ReadWrite));
        f.seek(4096LL * (pages.toInt() - 40));
        f.write(QByteArray(4096 * 20, '\x5a'));
        f.close();
        ASSERT_TRUE(lab.open());
        const std::string said = inspect(lab);
        EXPECT_EQ(said.find("lab_damaged The lab file is damaged: it was looked through twice"), 0u) << said;
        EXPECT_NE(said.find("(table visit_event"), said.npos) << said;
    }
}

TEST(Inspection, IsStoppedAtOnceAndChangesNothing)
{
    Lab lab;
    ASSERT_NO_FATAL_FAILURE(fill(lab, 3000));
    const QByteArray before = bytes(lab.file());
    for (int i = 0; i < 20; ++i) {
        Inspection stopped(lab.file());
        stopped.begin();
    }
    EXPECT_EQ(bytes(lab.file()), before);
}
