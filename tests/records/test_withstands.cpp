// SPDX-License-Identifier: GPL-3.0-or-later
// Privacy of the files, other programs' files, and two windows on one lab.
#include "lab.h"
#include "records/file/detail.h"
#include "records/file/lab_file.h"
#include "records/file/lease.h"
#include "records/file/schema.h"
#include "records/people/people.h"
#include "records/store/recorder.h"

#include <QDirIterator>
#include <QElapsedTimer>
#include <QProcess>
#include <QThread>

#include <functional>
#include <random>
#include <sys/stat.h>

using namespace fusain;
using namespace fusain::records;

namespace {

int mode_of(const QString& path)
{
    struct stat s {};
    return ::stat(path.toLocal8Bit().constData(), &s) == 0 ? static_cast<int>(s.st_mode & 0777) : -1;
}

/// Everything under a folder that others could read.
QStringList open_to_others(const QString& folder)
{
    QStringList out;
    if (mode_of(folder) & 077) out << folder;
    QDirIterator all(folder, QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot, QDirIterator::Subdirectories);
    while (all.hasNext())
        if (const QString path = all.next(); mode_of(path) & 077) out << path + ' ' + QString::number(mode_of(path), 8);
    return out;
}

Client somebody(const QString& given = "Aliénor", const QString& family = "Quéméner")
{
    Client c;
    c.given_name = given;
    c.family_name = family;
    c.birth_date = "1995-05-02";
    c.height_cm = 171;
    return c;
}

bench::Event first(long client_id)
{
    bench::event::Started e;
    e.client_id = client_id;
    e.number = "101";
    e.name = "A. Q.";
    e.birth_date = "1995-05-02";
    e.height_cm = 171;
    return bench::logged({1, "2026-11-23T08:20:00.000Z", "M. Tanguy"}, e);
}

bench::Event remark(long seq) { return {seq, "2026-11-23T08:21:00.000Z", "M. Tanguy", "remark", R"({"text": "x"})"}; }

} // namespace

TEST(Private, WhatStandsThereAlreadyAndWhatIsMadeFromNowOn)
{
    Lab lab;
    const QString folder = QFileInfo(lab.file()).absolutePath();
    {
        const auto store = lab.open();
        ASSERT_TRUE(store->save(somebody()));
    }
    // as an older program left it
    for (const char* place :
        {"sheets", "outbox", "handed-out/client1/signals", "attached", "studies", "practice", "decoders", "drills"})
        QDir(folder).mkpath(place);
    for (const char* name : {"sheets/visit1-2026-11-23-client.pdf", "outbox/booking1-20261123-0820.eml",
             "handed-out/client1/person.json", "attached/f00", "studies/study-1-repeats.csv", "practice/lab.fusain",
             "decoders/mine.json", "handed-out/client1/signals/.hidden", "lab.fusain.before-v4-20260101"}) {
        QFile f(folder + '/' + name);
        ASSERT_TRUE(f.open(QIODevice::WriteOnly)) << name;
    }
    QDirIterator all(folder, QDir::AllEntries | QDir::Hidden | QDir::NoDotAndDotDot, QDirIterator::Subdirectories);
    while (all.hasNext()) {
        const QString path = all.next();
        ::chmod(path.toLocal8Bit().constData(), QFileInfo(path).isDir() ? 0755 : 0644);
    }
    ::chmod(folder.toLocal8Bit().constData(), 0755);
    ASSERT_GT(open_to_others(folder).size(), 8);
    const auto store = lab.open();
    EXPECT_TRUE(open_to_others(folder).isEmpty()) << open_to_others(folder).join('\n').toStdString();
    EXPECT_EQ(mode_of(lab.file()), 0600);
    EXPECT_EQ(mode_of(folder), 0700);
    // the journal that is made now, and an export
    ASSERT_TRUE(store->save(somebody("Gwenn", "Riou")));
    const mode_t before = ::umask(022);
    keep_to_this_user();
    ASSERT_TRUE(export_person(*store, 1, folder + "/handed-out"));
    EXPECT_TRUE(open_to_others(folder).isEmpty()) << open_to_others(folder).join('\n').toStdString();
    EXPECT_TRUE(QFile::exists(lab.file() + "-wal"));
    ::umask(before);
    // what is nobody's business stays as it is
    const QString other = folder + "/holiday.txt";
    QFile f(other);
    ASSERT_TRUE(f.open(QIODevice::WriteOnly));
    ::chmod(other.toLocal8Bit().constData(), 0644);
    make_private(lab.file());
    EXPECT_EQ(mode_of(other), 0644);
}

TEST(Private, ALabIsPeekedAtWithoutAByteChanged)
{
    for (const bool in_use : {false, true}) {
        Lab lab;
        QFile fixture(QStringLiteral(TEST_SOURCE_DIR "/tests/records/fixtures/v5.sql"));
        ASSERT_TRUE(fixture.open(QIODevice::ReadOnly));
        ASSERT_TRUE(sql(lab.file(), QString::fromUtf8(fixture.readAll()).split(";;\n", Qt::SkipEmptyParts)));
        ASSERT_TRUE(sql(lab.file(), {"INSERT INTO setting VALUES ('lab_name', 'The quay')"}));
        std::shared_ptr<Store> open;
        if (in_use) {
            open = lab.open();
            ASSERT_FALSE(open->set_setting("demo", "yes")); // in the journal alone
        }
        const auto state = [&] {
            QMap<QString, QByteArray> out;
            for (const QFileInfo& f : QDir(lab.dir.path()).entryInfoList(QDir::Files)) {
                if (f.fileName().endsWith("-shm")) continue; // locks, no data
                QFile file(f.filePath());
                if (file.open(QIODevice::ReadOnly)) out[f.fileName()] = file.readAll();
            }
            return out;
        };
        const auto before = state();
        const Peek there = peek(lab.file());
        EXPECT_EQ(there.setting("lab_name"), "The quay");
        EXPECT_EQ(there.setting("demo"), in_use ? "yes" : "");
        EXPECT_EQ(there.version, in_use ? newest_schema() : 5);
        EXPECT_EQ(state(), before);
    }
    EXPECT_EQ(peek("/dev/zero").version, 0);
    EXPECT_EQ(peek("/tmp/there/is/none").version, 0);
}

TEST(Private, FilesAreNamedByInternalIds)
{
    Lab lab;
    const auto store = lab.open();
    Client c = somebody();
    c.number = ".7";
    const auto kept = store->save(c);
    ASSERT_TRUE(kept);
    const QString out = QFileInfo(lab.file()).absolutePath() + "/handed-out";
    const auto place = export_person(*store, kept->id, out);
    ASSERT_TRUE(place);
    EXPECT_TRUE(QFileInfo(*place).fileName().startsWith(QStringLiteral("client%1-").arg(kept->id)));
    EXPECT_EQ(QDir(out).entryList(QDir::Dirs | QDir::NoDotAndDotDot).size(), 1) << "not hidden";
    c = somebody("Other", "Person");
    for (const char* number : {"../../x", "a/b", "a b", "ä", "x\ny"}) {
        c.number = number;
        const Messages wrong = check(c, "2026-11-23");
        EXPECT_TRUE(std::any_of(wrong.begin(), wrong.end(), [](const Message& m) { return m.field == "number"; }))
            << number;
    }
}

TEST(OtherFiles, AreLookedAtBeforeTheyAreTouched)
{
    struct Row {
        const char* name;
        std::function<void(const QString&)> make;
        const char* code; ///< empty: opens
    };
    const Row rows[] = {
        {"another program's database",
            [](const QString& f) {
                sql(f, {"CREATE TABLE recipes (x)", "PRAGMA application_id = 7"});
            },
            "lab_foreign"},
        {"one without a name", [](const QString& f) { sql(f, {"CREATE TABLE recipes (x)"}); }, "lab_foreign"},
        {"no bytes", [](const QString& f) { QFile(f).open(QIODevice::WriteOnly); }, "lab_empty"},
        {"a few bytes",
            [](const QString& f) {
                QFile file(f);
                file.open(QIODevice::WriteOnly);
                file.write("SQLite format 3");
            },
            "lab_damaged"},
        {"a folder", [](const QString& f) { QDir().mkpath(f); }, "lab_foreign"},
        {"nothing", [](const QString&) {}, ""},
    };
    for (const Row& row : rows) {
        Lab lab;
        row.make(lab.file());
        const auto content = [&] { return QFileInfo(lab.file()).isFile() ? bytes(lab.file()) : QByteArray(); };
        const QByteArray before = content();
        const QStringList around = QFileInfo(lab.file()).dir().entryList(QDir::AllEntries | QDir::NoDotAndDotDot);
        const auto opened = Store::open(lab.file());
        EXPECT_EQ(opened ? "" : opened.messages().front().code, row.code) << row.name;
        if (!*row.code) continue;
        EXPECT_EQ(content(), before) << row.name << ": not a byte of it is changed";
        EXPECT_EQ(QFileInfo(lab.file()).dir().entryList(QDir::AllEntries | QDir::NoDotAndDotDot), around)
            << row.name << ": no journal beside it";
    }
    // a lab whose beginning is in its journal still, as after a crash at the first start
    Lab lab;
    auto store = lab.open();
    ASSERT_TRUE(store->save(somebody()));
    EXPECT_FALSE(look_at(lab.file()));
}

TEST(Lease, AVisitBelongsToTheWindowThatMeasures)
{
    Lab lab;
    const auto one = lab.open(), other = lab.open();
    const Window a = Window::make(), b = Window::make();
    EXPECT_NE(a.id, b.id);
    EXPECT_FALSE(a.born.isEmpty());
    const long client = one->save(somebody())->id;
    const auto visit = one->begin_visit(client, "hydrostatic", std::vector{first(client)}, a);
    ASSERT_TRUE(visit);

    const auto why = take_lease(other->database(), *visit, b, "S. Morvan");
    ASSERT_TRUE(why);
    EXPECT_EQ(why->code, "held_elsewhere");
    EXPECT_NE(why->text.find("M. Tanguy"), std::string::npos) << "says who: " << why->text;
    EXPECT_FALSE(take_lease(one->database(), *visit, a, "M. Tanguy")) << "what one has one may take again";
    EXPECT_EQ(other->append(*visit, remark(2), b.id)->code, "held_elsewhere");
    EXPECT_EQ(other->append(*visit, remark(2))->code, "held_elsewhere") << "nor somebody without a window";
    EXPECT_EQ(other->events(*visit).size(), 1u);
    EXPECT_FALSE(one->append(*visit, remark(2), a.id));
    EXPECT_TRUE(other->replay(*visit)) << "others may look";
    ASSERT_TRUE(other->begin_visit(client, "hydrostatic", std::vector{first(client)}, b)) << "and measure others";

    // left: the next one has it
    release_leases(one->database(), a.id);
    EXPECT_FALSE(take_lease(other->database(), *visit, b, "S. Morvan"));
    EXPECT_EQ(one->append(*visit, remark(3), a.id)->code, "held_elsewhere");
    EXPECT_FALSE(other->append(*visit, remark(3), b.id));

    // two that wrote without a lease: said in words, never as SQL
    release_leases(other->database(), b.id);
    const auto behind = one->append(*visit, remark(3), a.id);
    ASSERT_TRUE(behind);
    EXPECT_EQ(behind->code, "log_moved_on");
    EXPECT_EQ(behind->text.find("SQL"), std::string::npos);
    EXPECT_EQ(behind->text.find("Unable"), std::string::npos);
}

TEST(Lease, AWindowThatOnlyWaitsIsHeardOf)
{
    Lab lab;
    const auto store = lab.open();
    const Window w = Window::make();
    const long client = store->save(somebody())->id;
    ASSERT_TRUE(store->begin_visit(client, "hydrostatic", std::vector{first(client)}, w));
    QSqlQuery q(store->database());
    ASSERT_TRUE(q.exec("UPDATE visit_lease SET beat = 'silent'"));
    const auto beat = [&] { return q.exec("SELECT beat FROM visit_lease") && q.next() ? q.value(0).toString() : ""; };
    const Recorder recorder(lab.file(), w.id); // nothing is handed over to it
    QElapsedTimer clock;
    for (clock.start(); clock.elapsed() < 20000 && beat() == "silent";) QThread::msleep(100);
    EXPECT_TRUE(QDateTime::fromString(beat(), Qt::ISODateWithMs).isValid()) << beat().toStdString();
}

TEST(Lease, AWindowThatIsGoneLosesIt)
{
    Lab lab;
    const auto store = lab.open();
    const Window mine = Window::make();
    const long client = store->save(somebody())->id;
    const long visit = *store->begin_visit(client, "hydrostatic", first(client));
    const auto held_by = [&](Window w, const QString& beat) {
        EXPECT_FALSE(take_lease(store->database(), visit, w, "S. Morvan"));
        QSqlQuery q(store->database());
        if (!beat.isEmpty()) EXPECT_TRUE(q.exec("UPDATE visit_lease SET beat = '" + beat + "'"));
        const bool held = held_elsewhere(store->database(), visit, mine.id).has_value();
        EXPECT_TRUE(q.exec("DELETE FROM visit_lease"));
        return held;
    };
    const QString now = QDateTime::currentDateTimeUtc().toString(Qt::ISODateWithMs),
                  long_ago = QDateTime::currentDateTimeUtc().addSecs(-60).toString(Qt::ISODateWithMs);
    Window w = Window::make();
    EXPECT_TRUE(held_by(w, long_ago)) << "this process lives, however long it was silent";
    w.born = "1";
    EXPECT_FALSE(held_by(w, now)) << "its number was given again to another process";
    w = Window::make();
    QProcess gone;
    gone.start("/bin/true", {});
    gone.waitForFinished();
    w.pid = 4194304 - 1; // more than this machine gives
    EXPECT_FALSE(held_by(w, now)) << "there is no such process";
    w = Window::make();
    w.machine = "another machine";
    EXPECT_TRUE(held_by(w, now));
    EXPECT_FALSE(held_by(w, long_ago)) << "not heard for a minute";
}

TEST(Recorder, WaitsForNothingAndCountsWhatIsNotWritten)
{
    Lab lab;
    const auto store = lab.open();
    const long client = store->save(somebody())->id;
    const long visit = *store->begin_visit(client, "hydrostatic", first(client));
    Recorder recorder(lab.file());
    EXPECT_EQ(recorder.unwritten(), 0u);
    {
        detail::Transaction lock(store->database());
        ASSERT_TRUE(lock.is_open());
        recorder.append(visit, remark(2));
        recorder.append(visit, remark(3));
        EXPECT_EQ(recorder.unwritten(), 2u) << "at once, whatever the disk does";
        QElapsedTimer t;
        t.start();
        while (t.elapsed() < 300) EXPECT_EQ(recorder.unwritten(), 2u);
    }
    QElapsedTimer t;
    t.start();
    while (recorder.unwritten() && t.elapsed() < 10000) QThread::msleep(10);
    EXPECT_EQ(recorder.unwritten(), 0u);
    EXPECT_EQ(store->events(visit).size(), 3u);
}

TEST(ImportWithstands, AnyBytesAreReadOrRefusedAndEveryRowIsAccountedFor)
{
    const QByteArray list = "Given name,Family name,Date of birth,Sex,Height,Note\n"
                            "Gwenn,Riou,1992-03-08,f,168.5,\n\"Ali\xC3\xA9nor\",\"Qu\xC3\xA9m\xC3\xA9ner\",1995-05-02,"
                            "f,171,\"two\nlines\"\n"
                            "Alan,Guillou,27.05.1959,m,172,x\nBrieuc,Hascoet,05/10/2003,m,181,\n";
    std::mt19937 random(4711);
    Lab lab;
    const auto store = lab.open();
    QTemporaryDir dir;
    int read = 0, refused = 0, good = 0, bad = 0;
    for (int n = 0; n < 200; ++n) {
        QByteArray bytes = list;
        for (unsigned k = 0; k < random() % 6; ++k) {
            const auto at = static_cast<qsizetype>(random() % static_cast<unsigned>(bytes.size()));
            switch (random() % 6) {
            case 0: bytes[at] = static_cast<char>(random() % 256); break;
            case 1: bytes.insert(at, '"'); break;
            case 2: bytes.insert(at, QByteArray(static_cast<qsizetype>(random() % 200), ',')); break;
            case 3: bytes.truncate(at); break;
            case 4: bytes.insert(at, QByteArray(1, '\0')); break;
            default: bytes.insert(at, bytes.mid(at, 40)); break;
            }
            if (bytes.isEmpty()) break;
        }
        const QString path = dir.path() + "/list.csv";
        QFile f(path);
        ASSERT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(bytes);
        f.close();
        const auto table = read_table(path);
        if (!table) {
            ++refused;
            EXPECT_FALSE(table.messages().front().text.empty());
            EXPECT_EQ(table.messages().front().code, "bad_csv") << bytes.toStdString();
            continue;
        }
        ++read;
        ASSERT_EQ(table->rows.size(), table->lines.size());
        const auto checked = check_import(*store, *table, guess_mapping(table->header), "2026-11-23");
        if (!checked) { // the heading was hit: said which column is missing
            EXPECT_FALSE(checked.messages().front().text.empty());
            ++refused;
            continue;
        }
        EXPECT_EQ(checked->good.size() + checked->bad.size() + checked->doubles.size(), table->rows.size())
            << "no row vanishes: " << bytes.toStdString();
        for (const Client& c : checked->good) EXPECT_TRUE(check(c, "2026-11-23").empty());
        for (const RowTrouble& t : checked->bad) EXPECT_GT(t.line, 1) << t.text.toStdString();
        good += static_cast<int>(checked->good.size());
        bad += static_cast<int>(checked->bad.size());
    }
    EXPECT_EQ(store->count_clients({}), 0) << "looking stores nothing";
    EXPECT_GT(read, 60);
    EXPECT_GT(refused, 10);
    EXPECT_GT(good, 100);
    EXPECT_GT(bad, 25);
}
