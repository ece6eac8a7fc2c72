// SPDX-License-Identifier: GPL-3.0-or-later
// Big recordings: they grow in the lab file, lie beside it afterwards, and are checked when they are read.
#include "bench/base/fields.h"
#include "../lab.h"
#include "records/file/blob.h"
#include "records/people/people.h"
#include "records/visits/raw.h"
#include "records/store/recorder.h"

#include <QCryptographicHash>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>

using namespace fusain;
using namespace fusain::records;

namespace {

/// A visit with one recording that is still growing.
struct Recording : Lab {
    std::shared_ptr<Store> store = open();
    long client = 0, visit = 0, seq = 2;
    bench::Signal all{"line,point,low,high", {}};
    int chunks = 0;

    Recording()
    {
        Client c;
        c.given_name = "Aliénor";
        c.family_name = "Quéméner";
        c.birth_date = "1995-05-02";
        c.height_cm = 171;
        client = store->save(c)->id;
        visit = another();
    }
    long another()
    {
        const bench::Json who = {{"client_id", client}, {"number", "101"}, {"name", "A. Q."},
            {"birth_date", "1995-05-02"}, {"sex", "female"}, {"height_cm", 171.0}};
        return *store->begin_visit(client, "hydrostatic", event(1, "started", who));
    }
    static bench::Event event(long n, const char* kind, bench::Json body)
    {
        return {n, "2026-11-23T08:20:00.000Z", "M. Tanguy", kind, body.dump()};
    }
    void grow(int rows, long of = 0)
    {
        bench::Signal more{all.columns, {}};
        for (int i = 0; i < rows; ++i) more.add({double(chunks), double(i), 0.1 * i, 1.0 / (1 + i)});
        if (!of) all.values.insert(all.values.end(), more.values.begin(), more.values.end());
        ASSERT_FALSE(store->append_signal({of ? of : visit, 1, chunks++, more}));
    }
    void end(long of, const char* kind = "trial_broken")
    {
        ASSERT_FALSE(store->append(of, event(store->last_seq(of) + 1, kind, {{"number", 1}, {"reason", "stopped"}})));
    }
    QStringList beside() const { return QDir(dir.path() + "/raw").entryList(QDir::Files); }
    int rows_inside() const
    {
        QVariant n;
        sql(file(), {"SELECT COUNT(*) FROM signal_chunk"}, &n);
        return n.toInt();
    }
};

} // namespace

TEST(Raw, ABigRecordingMovesWhenItHasEndedAndReadsBackToTheLastBit)
{
    Recording r;
    for (int i = 0; i < 10; ++i) r.grow(1000);
    EXPECT_EQ(r.beside().size(), 0) << "while it grows it is in the lab file: a crash costs half a second";
    EXPECT_EQ(r.store->signal(r.visit, 1)->values, r.all.values);
    r.end(r.visit);
    ASSERT_EQ(r.beside().size(), 1);
    EXPECT_EQ(r.rows_inside(), 0);
    const QByteArray kept = bytes(r.dir.path() + "/raw/" + r.beside().front());
    EXPECT_EQ(
        QString::fromLatin1(QCryptographicHash::hash(kept, QCryptographicHash::Sha256).toHex()), r.beside().front());
    EXPECT_TRUE(kept.startsWith("fusain raw 1\nline,point,low,high\n"));
    r.grow(5); // the last half second comes after the event
    const auto back = r.store->signal(r.visit, 1);
    ASSERT_TRUE(back);
    EXPECT_EQ(back->values, r.all.values);
    EXPECT_EQ(back->columns, r.all.columns);
    EXPECT_EQ(r.store->recorded(r.visit), std::vector<int>{1});
    EXPECT_TRUE(r.store->signal(r.visit, 2)->empty()) << "there is none, and that is no error";
    EXPECT_EQ(QFile::permissions(r.dir.path() + "/raw/" + r.beside().front()) & 0xff, 0) << "nobody else reads it";
}

TEST(Raw, ASmallOneStays)
{
    Recording r;
    r.grow(1000);
    r.end(r.visit, "remark");
    r.end(r.visit);
    EXPECT_EQ(r.beside().size(), 0);
    EXPECT_EQ(r.store->signal(r.visit, 1)->values, r.all.values);
}

TEST(Raw, IsCheckedWhenItIsRead)
{
    Recording r;
    r.grow(9000);
    r.end(r.visit);
    const QString place = r.dir.path() + "/raw/" + r.beside().front();
    QByteArray damaged = bytes(place);
    damaged[damaged.size() - 3] = static_cast<char>(damaged[damaged.size() - 3] ^ 1);
    QFile::remove(place);
    QFile f(place);
    ASSERT_TRUE(f.open(QIODevice::WriteOnly));
    f.write(damaged);
    f.close();
    const auto read = r.store->signal(r.visit, 1);
    ASSERT_FALSE(read) << "one bit is another";
    EXPECT_EQ(read.messages().front().code, "raw_damaged");
    // everything else is handed out, and what is missing is said
    const auto out = export_person(*r.store, r.client, r.dir.path() + "/exports");
    ASSERT_TRUE(out);
    const QJsonObject all = QJsonDocument::fromJson(bytes(*out + "/person.json")).object();
    EXPECT_EQ(all["signals_not_read"].toArray()[0].toObject()["signal"].toString(), "visit1-trial1.csv");
    EXPECT_EQ(all["visit_events"].toArray().size(), 2);
    QFile::remove(place);
    const auto gone = r.store->signal(r.visit, 1);
    EXPECT_EQ(gone.messages().front().code, "raw_missing");
    EXPECT_NE(gone.messages().front().text.find("raw/"), std::string::npos) << "with the file's name";
}

TEST(Raw, StaysInTheLabWhereItCannotBeWritten)
{
    Recording r;
    QFile in_the_way(r.dir.path() + "/raw");
    ASSERT_TRUE(in_the_way.open(QIODevice::WriteOnly));
    r.grow(9000);
    r.end(r.visit);
    EXPECT_EQ(r.store->signal(r.visit, 1)->values, r.all.values);
    in_the_way.remove();
    r.end(r.visit);
    EXPECT_EQ(r.beside().size(), 1) << "and moves the next time";
    EXPECT_EQ(r.store->signal(r.visit, 1)->values, r.all.values);
}

TEST(Raw, StaysInTheLabWhereItsFileCannotBeNoted)
{
    Recording r;
    sql(r.file(), {"CREATE TRIGGER broken BEFORE INSERT ON raw_file BEGIN SELECT RAISE(ABORT, 'broken'); END"});
    for (int i = 0; i < 10; ++i) r.grow(1000);
    r.end(r.visit);
    EXPECT_EQ(r.rows_inside(), 10) << "what nobody would find beside the lab is not taken out of it";
    EXPECT_EQ(r.store->signal(r.visit, 1)->values, r.all.values);
}

TEST(Raw, GoesWithThePersonAndNobodyElses)
{
    Recording r;
    r.grow(9000);
    r.end(r.visit);
    Client c;
    c.given_name = "Gwenn";
    c.family_name = "Riou";
    c.birth_date = "1992-03-08";
    c.height_cm = 160;
    const long mine = r.client, first = r.visit;
    r.client = r.store->save(c)->id;
    const long twin = r.another();
    r.chunks = 0;
    r.grow(9000, twin); // the very same bytes
    r.end(twin);
    ASSERT_EQ(r.beside().size(), 1) << "one file";
    for (const char* name : {"orphan", "young"}) {
        QFile f(r.dir.path() + "/raw/" + name);
        ASSERT_TRUE(f.open(QIODevice::ReadWrite));
        if (*name == 'o')
            ASSERT_TRUE(f.setFileTime(QDateTime::currentDateTime().addDays(-1), QFileDevice::FileModificationTime));
    }
    for (const auto& [who, visit, left] : {std::tuple{mine, first, 3}, {r.client, twin, 2}}) {
        ASSERT_FALSE(r.store->append(
            visit, Recording::event(r.store->last_seq(visit) + 1, "given_up", {{"reason", "went home"}})));
        ASSERT_FALSE(erase(*r.store, who, "M. Tanguy", QTimeZone("Europe/Paris")));
        EXPECT_EQ(r.beside().size(), left) << "the other's stays as long as somebody refers to it";
    }
    {
        Recorder window(r.file());
        window.append_signal({0, 1, 0, {}});
    }
    EXPECT_EQ(r.beside(), QStringList{"young"}) << "the next window sweeps what nobody refers to; the young one may be "
                                                   "another window's";
}

TEST(Raw, ANameThatIsAPathLeadsNowhere)
{
    Recording r;
    r.end(r.visit);
    ASSERT_FALSE(
        r.store->append(r.visit, Recording::event(r.store->last_seq(r.visit) + 1, "given_up", {{"reason", "x"}})));
    const QString precious = r.dir.path() + "/precious";
    QFile f(precious);
    ASSERT_TRUE(f.open(QIODevice::WriteOnly) && f.write("mine") == 4);
    f.close();
    for (const char* table : {"raw_file (visit_id, trial, sha256, bytes) VALUES (%1, 1,",
             "attached_file (visit_id, sha256, bytes) VALUES (%1,"})
        sql(r.file(), {QStringLiteral("INSERT INTO %1 '../precious', 4)").arg(QString(table).arg(r.visit))});
    EXPECT_EQ(r.store->signal(r.visit, 1).messages().front().code, "raw_missing");
    ASSERT_FALSE(erase(*r.store, r.client, "M. Tanguy", QTimeZone("Europe/Paris")));
    EXPECT_TRUE(QFile::exists(precious)) << "a lab from elsewhere removes nothing outside its folders";
    for (const QString& name :
        {QString(64, 'a'), QString(64, 'A'), QString(63, 'a'), QString("../" + QString(61, 'a')), QString()})
        EXPECT_EQ(blob::is_name(name), name == QString(64, 'a')) << name.toStdString();
}
