// SPDX-License-Identifier: GPL-3.0-or-later
// Whole client records: doubles, merging, handing out, deleting, importing lists.
#include "bench/tank/tank_take.h"
#include "../lab.h"
#include "records/people/also_held.h"
#include "records/people/people.h"
#include "records/people/results_import.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <QJsonArray>

using namespace fusain;
using namespace fusain::records;

namespace {

Client person(const QString& given, const QString& family, const QString& born = "1995-05-02",
    const QString& phone = "", const QString& email = "")
{
    Client c;
    c.given_name = given;
    c.family_name = family;
    c.birth_date = born;
    c.height_cm = 171;
    c.phone = phone;
    c.email = email;
    return c;
}

long visit_of(Store& store, const Client& c, const QString& note)
{
    bench::event::Started e;
    e.client_id = c.id;
    e.number = c.number.toStdString();
    e.name = c.full_name().toStdString();
    e.birth_date = c.birth_date.toStdString();
    e.height_cm = 171;
    e.software = note.toStdString();
    const auto id =
        store.begin_visit(c.id, "hydrostatic", bench::logged({1, "2026-03-01T08:00:00.000Z", "M. Tanguy"}, e));
    EXPECT_TRUE(id);
    EXPECT_FALSE(store.append_signal({*id, 1, 0, bench::signal_of({{0, 2.5}, {0.01, 2.6}})}));
    return *id;
}

QString write(const Lab& lab, const QByteArray& bytes)
{
    const QString path = lab.dir.path() + "/list.csv";
    QFile f(path);
    EXPECT_TRUE(f.open(QIODevice::WriteOnly));
    f.write(bytes);
    return path;
}

} // namespace

TEST(People, LikelyTheSamePerson)
{
    Lab lab;
    auto store = lab.open();
    ASSERT_TRUE(store->save(person("Aliénor", "Quéméner", "1995-05-02", "0151 01", "a@pointe-grise.example")));
    struct Row {
        Client c;
        const char* why; ///< empty: nobody is thought the same
    };
    const Row rows[] = {
        {person("Aliénor", "Quéméner"), "same name and date of birth"},
        {person("alienor", "QUEMENER"), "same name and date of birth"},
        {person("Quéméner", "Aliénor"), "same name and date of birth"},
        {person("Aliénor", "Quéméner", "1990-01-01"), "same name, born"},
        {person("Nora", "Quemenner"), "name alike"},
        {person("Gwenn", "Riou", "1992-03-08", "015101"), "same phone"},
        {person("Gwenn", "Riou", "1992-03-08", "", "A@pointe-grise.example"), ""},
        {person("Gwenn", "Riou", "1992-03-08", "", "a@pointe-grise.example"), "same e-mail"},
        {person("Gwenn", "Riou", "1995-05-02"), ""},
        {person("Aliénor", "Riou", "1992-03-08"), ""},
    };
    for (const Row& row : rows) {
        const auto found = likely_same(*store, row.c);
        ASSERT_EQ(found.size(), *row.why ? 1u : 0u) << row.c.full_name().toStdString() << row.c.email.toStdString();
        if (*row.why) EXPECT_TRUE(found[0].why.contains(row.why)) << found[0].why.toStdString();
    }
    // two people of one name may both be stored; the second is only warned about
    ASSERT_TRUE(store->save(person("Aliénor", "Quéméner", "1970-01-01")));
    EXPECT_EQ(store->find_clients("quemener").size(), 2u);
}

TEST(People, MergingLosesNoVisit)
{
    Lab lab;
    auto store = lab.open();
    auto a = person("Aliénor", "Quéméner");
    auto b = person("Alienor", "Quemener", "1995-05-02", "0151 01");
    b.facts = QStringList{"metal_implant"};
    const Client keep = *store->save(a), away = *store->save(b);
    visit_of(*store, keep, "one");
    visit_of(*store, away, "two");
    visit_of(*store, away, "three");
    EXPECT_TRUE(merge(*store, keep.id, keep.id));
    ASSERT_FALSE(merge(*store, keep.id, away.id));
    EXPECT_EQ(store->visits_of(keep.id).size(), 3u);
    for (const auto& v : store->visits_of(keep.id)) EXPECT_TRUE(store->replay(v.id)) << "the logs stay as they were";
    const auto found = store->find_clients(away.number);
    ASSERT_EQ(found.size(), 1u) << "the old number still finds the person";
    EXPECT_EQ(found[0].id, keep.id);
    EXPECT_EQ(found[0].phone, "0151 01");
    EXPECT_TRUE(found[0].facts.contains("metal_implant"));
    EXPECT_FALSE(store->client(away.id));

    const Client other = *store->save(person("Gwenn", "Riou", "1992-03-08"));
    const auto why = merge(*store, keep.id, other.id);
    ASSERT_TRUE(why);
    EXPECT_EQ(why->field, "birth_date");
    EXPECT_TRUE(store->client(other.id));
}

TEST(People, WhatElseHoldsWhoIsDeletedIsNamedAndAReaderIsWaitedFor)
{
    Lab lab;
    auto store = lab.open();
    const Client gone = *store->save(person("Xanthippe", "Zwyrtekson")), stays = *store->save(person("Gwenn", "Riou"));
    const auto put = [&](const QString& name, const QString& text) {
        const QString path = lab.dir.path() + '/' + name;
        QDir().mkpath(QFileInfo(path).path());
        QFile f(path);
        EXPECT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(text.toUtf8());
        return path;
    };
    const QString handed = lab.dir.path() + QStringLiteral("/handed-out/client%1-20260301-080000").arg(gone.id);
    put(QStringLiteral("handed-out/client%1-20260301-080000/person.json").arg(gone.id), "Xanthippe Zwyrtekson");
    put(QStringLiteral("handed-out/client%1-20260301-080000/person.json").arg(stays.id), "Gwenn Riou");
    const QString copy = put("lab.fusain.before-v9-20260101-080000", "SQLite"),
                  list = put("exports/crew.csv", "name,number\n\"Zwyrtekson, Xanthippe\",77\n"),
                  letter = put("outbox/later.eml", "number " + gone.number + " is asked to come");
    put("exports/others.csv", "number\n" + gone.number + "-2\n1" + gone.number + "\n");
    const AlsoHeld held = also_held(store->file(), gone, false);
    EXPECT_EQ(held.only_theirs, QStringList{handed});
    EXPECT_EQ(held.whole_labs, QStringList{copy});
    EXPECT_EQ(held.tables, (QStringList{list, letter})) << held.tables.join(' ').toStdString();
    EXPECT_TRUE(remove_all(held.deletable()).isEmpty());
    EXPECT_FALSE(QFile::exists(handed) || QFile::exists(copy));

    // a lab whose guard somebody took away, and somebody who reads it meanwhile
    ASSERT_TRUE(sql(lab.file(), {QStringLiteral("DROP TRIGGER snapshot_stays")}));
    std::optional<Message> why;
    {
        QSqlDatabase reader = QSqlDatabase::addDatabase(QStringLiteral("QSQLITE"), QStringLiteral("reader"));
        reader.setDatabaseName(lab.file());
        ASSERT_TRUE(reader.open());
        QSqlQuery reading(reader);
        reading.exec(QStringLiteral("BEGIN"));
        reading.exec(QStringLiteral("SELECT id FROM client"));
        ASSERT_TRUE(reading.next());
        why = erase(*store, gone.id, "M. Tanguy", QTimeZone("Europe/Paris"));
        reading.finish();
        reader.close();
    }
    QSqlDatabase::removeDatabase(QStringLiteral("reader"));
    ASSERT_TRUE(why);
    EXPECT_EQ(why->code, "bytes_remain") << why->text;
    EXPECT_FALSE(store->client(gone.id)) << "the record is gone all the same";
}

TEST(People, DeletedIsGoneFromTheFileAndCounted)
{
    Lab lab;
    auto store = lab.open();
    const Client stays = *store->save(person("Gwenn", "Riou", "1992-03-08"));
    visit_of(*store, stays, "stays");
    auto c = person("Xanthippe", "Zwyrtekson");
    c.note = "unmistakable-note-text";
    const Client gone = *store->save(c);
    visit_of(*store, gone, "unmistakable-visit-text");
    const QString sheets = lab.dir.path() + "/sheets";
    QDir().mkpath(sheets);
    // somebody whose number begins alike keeps theirs
    QFile other(sheets + "/" + gone.number + "-2-2026-03-01-visit9-client.pdf");
    ASSERT_TRUE(other.open(QIODevice::WriteOnly));
    other.close();
    QFile sheet(sheets + QStringLiteral("/visit2-2026-03-01-client.pdf"));
    ASSERT_TRUE(sheet.open(QIODevice::WriteOnly));
    sheet.close();
    const QTimeZone paris("Europe/Paris");
    EXPECT_EQ(erase(*store, gone.id, "M. Tanguy", paris)->code, "visit_open")
        << "an open visit is not deleted from under the one who measures";
    for (const auto& v : store->visits_of(gone.id))
        ASSERT_FALSE(store->append(v.id, {2, "2026-03-01T08:30:00.000Z", "M. Tanguy", "given_up",
                                             bench::written(bench::event::GivenUp{"went home"})}));
    // what hangs on the client goes too: bookings, screenings, letters
    ASSERT_TRUE(sql(lab.file(),
        {QStringLiteral("INSERT INTO instrument (id, kind, name, serial) VALUES (1, 'hydrostatic', 'T', 'T1')"),
            QStringLiteral(
                "INSERT INTO booking (id, client_id, made_at, made_by) VALUES (5, %1, '', ''), (6, %2, '', '')")
                .arg(gone.id)
                .arg(stays.id),
            QStringLiteral(
                "INSERT INTO booking_part (booking_id, seq, method, instrument_id, from_minute, to_minute) VALUES (5, "
                "1, 'hydrostatic', 1, 29539200, 29539240), (6, 1, 'hydrostatic', 1, 29539260, 29539300)"),
            QStringLiteral("INSERT INTO screening (client_id, booking_id, at, who, body) VALUES (%1, 5, '', '', '{}'), "
                           "(%2, 6, '', '', '{}')")
                .arg(gone.id)
                .arg(stays.id)}));
    const QString outbox = lab.dir.path() + "/outbox";
    QDir().mkpath(outbox);
    for (const QString& name :
        {QStringLiteral("booking5-20260301-0900.pdf"), QStringLiteral("booking6-20260301-1000.pdf"),
            gone.number + "-20260301-0900.eml", gone.number + "-20260301-1000.eml"}) {
        QFile f(outbox + '/' + name);
        ASSERT_TRUE(f.open(QIODevice::WriteOnly));
    }
    ASSERT_FALSE(erase(*store, gone.id, "M. Tanguy", paris));
    EXPECT_EQ(QDir(outbox).entryList(QDir::Files),
        (QStringList{gone.number + "-20260301-1000.eml", "booking6-20260301-1000.pdf"}))
        << "exactly this client's letters";
    QVariant left;
    for (const char* table : {"booking", "booking_part", "screening"}) {
        sql(lab.file(), {QStringLiteral("SELECT COUNT(*) FROM %1").arg(QString::fromLatin1(table))}, &left);
        EXPECT_EQ(left.toInt(), 1) << table;
    }
    EXPECT_FALSE(store->client(gone.id));
    EXPECT_EQ(erased_count(*store), 1);
    EXPECT_FALSE(QFile::exists(sheet.fileName()));
    EXPECT_TRUE(QFile::exists(other.fileName()));
    EXPECT_EQ(store->visits_of(stays.id).size(), 1u);
    EXPECT_TRUE(sql(lab.file(), {"DELETE FROM visit_event"}) == false) << "the guard of the logs stands again";
    store.reset();
    for (const char* trace : {"Zwyrtekson", "unmistakable-note-text", "unmistakable-visit-text"})
        for (const QString& file : {lab.file(), lab.file() + "-wal"})
            if (QFile::exists(file)) EXPECT_FALSE(bytes(file).contains(trace)) << trace << " in " << file.toStdString();
    auto again = lab.open();
    EXPECT_NE(again->save(person("Neu", "Neu"))->number, gone.number) << "a deleted number is not given again";
}

TEST(People, AMergedNumberIsNeverGivenAgainAndMergingMovesEverything)
{
    Lab lab;
    auto store = lab.open();
    const Client keep = *store->save(person("Aliénor", "Quéméner"));
    Client b = person("Alienor", "Quemener");
    b.number = "900";
    const Client away = *store->save(b);
    ASSERT_TRUE(sql(lab.file(),
        {QStringLiteral("INSERT INTO booking (id, client_id, made_at, made_by) VALUES (5, %1, '', '')").arg(away.id),
            QStringLiteral("INSERT INTO screening (client_id, booking_id, at, who, body) VALUES (%1, 5, '', '', '{}')")
                .arg(away.id)}));
    ASSERT_FALSE(merge(*store, keep.id, away.id));
    for (const char* table : {"booking", "screening"}) {
        QVariant owner;
        sql(lab.file(), {QStringLiteral("SELECT client_id FROM %1").arg(QString::fromLatin1(table))}, &owner);
        EXPECT_EQ(owner.toLongLong(), keep.id) << table;
    }
    Client other = person("Gwenn", "Riou", "1992-03-08");
    other.number = "900";
    const auto refused = store->save(other);
    ASSERT_FALSE(refused);
    EXPECT_EQ(refused.messages().front().code, "number_taken");
    EXPECT_NE(refused.messages().front().text.find(keep.number.toStdString()), std::string::npos);
    other.number = "90";
    EXPECT_TRUE(store->save(other)) << "a part of that number is another number";
    EXPECT_TRUE(store->save(*store->client(keep.id))) << "its owner may still be changed";
}

TEST(People, ExportHoldsEverything)
{
    Lab lab;
    auto store = lab.open();
    const Client c = *store->save(person("Aliénor", "Quéméner"));
    visit_of(*store, c, "x");
    const auto place = export_person(*store, c.id, lab.dir.path() + "/exports");
    ASSERT_TRUE(place);
    QFile f(*place + "/person.json");
    ASSERT_TRUE(f.open(QIODevice::ReadOnly));
    const QJsonObject all = QJsonDocument::fromJson(f.readAll()).object();
    EXPECT_EQ(all["client"].toObject()["family_name"].toString(), "Quéméner");
    EXPECT_EQ(all["visits"].toArray().size(), 1);
    EXPECT_EQ(all["visit_events"].toArray()[0].toObject()["body"].toObject()["software"].toString(), "x");
    QFile csv(*place + "/signals/visit1-trial1.csv");
    ASSERT_TRUE(csv.open(QIODevice::ReadOnly));
    EXPECT_EQ(csv.readAll().split('\n').size(), 4);
    EXPECT_FALSE(export_person(*store, c.id, "/proc/nowhere"));
}

TEST(Import, ListsAsTheyComeFromOtherPrograms)
{
    struct Row {
        const char* name;
        QByteArray bytes;
        std::size_t good, bad, doubles;
        const char* words; ///< in the first trouble
        char separator = ',';
        const char* encoding = "UTF-8";
    };
    const Row rows[] = {
        {"plain", "Given name,Family name,Date of birth,Sex,Height\nGwenn,Riou,1992-03-08,f,168.5\n", 1, 0, 0, ""},
        {"semicolons, decimal comma, dots in dates",
            "Vorname;Nachname;Geburtsdatum;Geschlecht;Grösse\nGwenn;Riou;08.03.1992;w;168,5\n", 1, 0, 0, "", ';'},
        {"windows letters", "Pr\xE9nom;Nom;Date de naissance;Sexe;Taille\nMa\xEBlle;Sala\xFCn;30/12/1998;F;173\n", 1, 0,
            0, "", ';', "Windows-1252"},
        {"byte order mark", "\xEF\xBB\xBFGiven name,Family name,DOB,Sex,Height\nGwenn,Riou,1992-03-08,f,168\n", 1, 0, 0,
            ""},
        {"tabs", "given\tfamily\tborn\tsex\theight\nGwenn\tRiou\t1992-03-08\tF\t168\n", 1, 0, 0, "", '\t'},
        {"quoted newline and comma",
            "given,family,born,sex,height,note\nGwenn,Riou,1992-03-08,f,168,\"first line\nsecond, with "
            "comma\"\nAlan,Guillou,1959-05-27,m,172,\n",
            2, 0, 0, ""},
        {"carriage returns and empty lines", "given,family,born,sex,height\r\n\r\nGwenn,Riou,1992-03-08,f,168\r\n\r\n",
            1, 0, 0, ""},
        {"bad rows are named",
            "given,family,born,sex,height\nGwenn,Riou,1992-13-08,f,168\nA,B,1990-01-01,x,168\nC,D,1990-01-01,f,1.68\nE,"
            "F,1990-01-01,f\n,G,1990-01-01,m,170\nH,I,1990-01-01,m,tall\n",
            0, 6, 0, "1992-13-08"},
        {"the same person twice",
            "given,family,born,sex,height\nGwenn,Riou,1992-03-08,f,168\ngwenn,RIOU,08.03.1992,f,168\n", 1, 0, 1,
            "already there"},
        {"a number that is no file name",
            "given,family,born,sex,height,number\nGwenn,Riou,1992-03-08,f,168,*\nAlan,Guillou,1959-05-27,m,172,../7\n",
            0, 2, 0, "cannot be used"},
        {"a number twice",
            "given,family,born,sex,height,number\nGwenn,Riou,1992-03-08,f,168,7\nAlan,Guillou,1959-05-27,m,172,7\n", 1,
            0, 1, "number 7"},
    };
    for (const Row& row : rows) {
        Lab lab;
        auto store = lab.open();
        const auto table = read_table(write(lab, row.bytes));
        ASSERT_TRUE(table) << row.name;
        EXPECT_EQ(table->separator, row.separator) << row.name;
        EXPECT_EQ(table->encoding, row.encoding) << row.name;
        const auto check = check_import(*store, *table, guess_mapping(table->header), "2026-11-23");
        ASSERT_TRUE(check) << row.name << check.messages().front().text;
        EXPECT_EQ(check->good.size(), row.good)
            << row.name << (check->bad.empty() ? "" : check->bad[0].text.toStdString());
        EXPECT_EQ(check->bad.size(), row.bad) << row.name;
        EXPECT_EQ(check->doubles.size(), row.doubles) << row.name;
        if (*row.words) {
            const auto& first = check->bad.empty() ? check->doubles[0] : check->bad[0];
            EXPECT_TRUE(first.text.contains(row.words)) << first.text.toStdString();
            EXPECT_GE(first.line, 2);
        }
        ASSERT_FALSE(import_clients(*store, check->good));
        EXPECT_EQ(store->count_clients({}), static_cast<int>(row.good)) << row.name;
    }
    Lab lab;
    auto store = lab.open();
    EXPECT_EQ(read_table(lab.dir.path() + "/none.csv").messages().front().code, "file_unreachable");
    EXPECT_EQ(read_table(write(lab, "a,b\n\"never closed,1\n")).messages().front().code, "bad_csv");
    EXPECT_EQ(read_table(write(lab, "one column\nx\n")).messages().front().code, "bad_csv");
    const auto no_sex = read_table(write(lab, "given,family,born,height\nGwenn,Riou,1992-03-08,168\n"));
    EXPECT_EQ(
        check_import(*store, *no_sex, guess_mapping(no_sex->header), "2026-11-23").messages().front().field, "sex");
}

TEST(Import, AHundredThousandRowsAllOrNothing)
{
    Lab lab;
    auto store = lab.open();
    ASSERT_TRUE(store->save(person("Gwenn", "Riou", "1992-03-08")));
    QByteArray list = "given,family,born,sex,height\n";
    for (int i = 0; i < 100000; ++i)
        list += "Given" + QByteArray::number(i) + ",Family" + QByteArray::number(i % 977) + ",19" +
                QByteArray::number(50 + i % 50) + "-03-08,f,168\n";
    const QString path = write(lab, list);
    std::size_t told = 0;
    EXPECT_EQ(read_table(path,
                  [&](std::size_t n) {
                      told = n;
                      return n < 30000;
                  })
                  .messages()
                  .front()
                  .code,
        "cancelled");
    EXPECT_EQ(told, 30000u);
    const auto table = read_table(path);
    ASSERT_TRUE(table);
    const auto check = check_import(*store, *table, guess_mapping(table->header), "2026-11-23");
    ASSERT_TRUE(check);
    ASSERT_EQ(check->good.size(), 100000u);
    // stopped in the middle: nothing
    const auto stopped = import_clients(*store, check->good, [](std::size_t n) { return n < 4000; });
    ASSERT_TRUE(stopped);
    EXPECT_EQ(stopped->code, "cancelled");
    EXPECT_EQ(store->count_clients({}), 1);
    ASSERT_FALSE(import_clients(*store, check->good));
    EXPECT_EQ(store->count_clients({}), 100001);
    EXPECT_EQ(store->find_clients("given4711 fam").size(), 11u) << "4711 and 47110 to 47119";
    // one bad row among the good ones, found only by the lab itself: nothing of the second import stays
    auto twice = check->good;
    for (auto& c : twice) c.number.clear();
    twice.resize(1000);
    twice[900].number = "101";
    EXPECT_TRUE(import_clients(*store, twice));
    EXPECT_EQ(store->count_clients({}), 100001);
}

TEST(Results, AMethodIsKnownByWhatOtherPeopleCallIt)
{
    Lab lab;
    const auto store = lab.open();
    const Client client = *store->save(person("Aliénor", "Quéméner"));
    const std::pair<const char*, const char*> names[] = {{"BIA", "impedance"}, {"analyser", "impedance"},
        {"impedance", "impedance"}, {"DXA", "absorptiometry"}, {"DEXA", "absorptiometry"}, {"X-ray", "absorptiometry"},
        {"ADP", "air_displacement"}, {"Air displacement", "air_displacement"}, {"Chamber", "air_displacement"},
        {"air_displacement", "air_displacement"}, {"HW", "hydrostatic"}, {"Underwater weighing", "hydrostatic"},
        {"hydrostatic weighing", "hydrostatic"}, {"Tank", "hydrostatic"}, {"by eye", ""}};
    for (const auto& [name, word] : names) {
        Table table;
        table.header = QStringList{"Number", "Test date", "Time", "Method", "Weight", "Body fat %"};
        table.rows = {{client.number, "12.03.2026", "08:30", name, "69.0", "26.1"}};
        table.lines = {2};
        const auto read = results::check(*store, table, results::guess(table.header),
            {"before.csv", QString(64, 'a'), "M. Tanguy", QTimeZone("Europe/Paris"),
                QDateTime(QDate(2026, 11, 23), QTime(9, 0), QTimeZone("Europe/Paris"))});
        ASSERT_TRUE(read) << name;
        if (!*word) {
            ASSERT_EQ(read->bad.size(), 1u);
            EXPECT_TRUE(read->bad.front().text.contains("impedance, absorptiometry, air_displacement, hydrostatic"))
                << read->bad.front().text.toStdString();
            continue;
        }
        ASSERT_EQ(read->good.size(), 1u) << name;
        EXPECT_EQ(bench::read<bench::event::Started>(read->good.front().events.front().body)->method, word) << name;
    }
}
