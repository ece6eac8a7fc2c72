// SPDX-License-Identifier: GPL-3.0-or-later
// What comes from elsewhere: results of earlier tests from a table, and files that are kept with a visit.
#include "bench/brought/brought_events.h"
#include "gui.h"

#include "desk/clients/import_page.h"
#include "records/people/people.h"
#include "records/visits/attached.h"
#include "work/reading/history.h"

#include <QDropEvent>
#include <QMenu>
#include <QMimeData>
#include <QTableWidget>

using namespace fusain;
using namespace fusain::desk;

namespace {

QString file_in(Bench& b, const QString& name, const QByteArray& bytes)
{
    QFile f(b.dir.path() + '/' + name);
    EXPECT_TRUE(f.open(QIODevice::WriteOnly));
    f.write(bytes);
    return f.fileName();
}

void choose(Bench& b, const char* name, const QVariant& data)
{
    for (auto* box : b.window->findChildren<QComboBox*>(name))
        if (box->isVisible()) {
            box->setCurrentIndex(box->findData(data));
            emit box->activated(box->currentIndex());
        }
}

void read(Bench& b, const QString& path)
{
    b.window->show_clients();
    ASSERT_TRUE(b.key("import_list", Qt::Key_I, Qt::ControlModifier));
    b.window->findChild<ImportPage*>()->read(path);
}

void drop(Bench& b, const QStringList& paths)
{
    QMimeData data;
    QList<QUrl> urls;
    for (const QString& p : paths) urls << QUrl::fromLocalFile(p);
    data.setUrls(urls);
    QDragEnterEvent over(QPoint(200, 200), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(b.window.get(), &over);
    QDropEvent e(QPointF(200, 200), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(b.window.get(), &e);
}

} // namespace

TEST(Brought, ResultsOfEarlierTestsBecomeVisits)
{
    Bench b;
    const auto client = b.add_client();
    const QByteArray table =
        "Number;Test date;Time;Weight;Body fat %;FFM;Device;Equation\n" + client.number.toUtf8() +
        ";12.03.2024;08:30;150,8;24,1;114,5;BX-1;its own, 2nd\n" + client.number.toUtf8() +
        ";10.09.2024;;149,0;23,0;;BX-1;its own, 3rd\n" + "999;10.09.2024;08:30;149,0;23,0;;BX-1;\n" +
        client.number.toUtf8() + ";10.09.2030;08:30;149;23;;;\n" + client.number.toUtf8() +
        ";1.2.2024;08:30;149,0;23,0;60,0;BX-1;\n" + client.number.toUtf8() + ";2.2.2024;08:30;heavy;23,0;;BX-1;\n" +
        client.number.toUtf8() + ";12.03.2024;08:30;150,8;24,1;114,5;BX-1;its own, 2nd\n";
    ASSERT_NO_FATAL_FAILURE(read(b, file_in(b, "before.csv", table)));
    ASSERT_TRUE(b.wait([&] { return b.text("import_trouble").contains("by which method"); }))
        << b.text("import_trouble").toStdString();
    choose(b, "results_method", "impedance");
    ASSERT_TRUE(b.wait([&] { return b.text("import_trouble").contains("BMI of 5"); })) << "pounds taken for kilograms";
    choose(b, "unit_3", "lb");
    choose(b, "unit_5", "lb");
    ASSERT_TRUE(b.wait([&] { return b.button("import_now") && b.button("import_now")->isEnabled(); }))
        << b.text("import_trouble").toStdString();
    EXPECT_TRUE(b.text("import_said").contains("2 can be imported, 4 cannot be used, 1 are there"))
        << b.text("import_said").toStdString();
    b.shot("import-results");
    auto* errors = b.window->findChild<QTableWidget*>("import_errors");
    const std::pair<const char*, const char*> said[] = {{"4", "number 999"}, {"5", "still to come"},
        {"6", "in another unit"}, {"7", "Column \"Weight\": \"heavy\" is not a number"}, {"8", "already"}};
    ASSERT_EQ(errors->rowCount(), 5);
    for (int i = 0; i < 5; ++i) {
        EXPECT_EQ(errors->item(i, 0)->text(), said[i].first);
        EXPECT_TRUE(errors->item(i, 1)->text().contains(said[i].second)) << errors->item(i, 1)->text().toStdString();
    }
    EXPECT_TRUE(b.store->visits_of(client.id).empty()) << "nothing before it is asked for";
    ASSERT_TRUE(b.key("import_now", Qt::Key_Return, Qt::ControlModifier));
    ASSERT_TRUE(b.wait([&] { return b.store->visits_of(client.id).size() == 2; }))
        << b.text("import_trouble").toStdString();

    const auto rows = b.store->visits_of(client.id);
    for (const auto& row : rows) {
        EXPECT_TRUE(row.measured());
        const auto told = b.store->snapshot(row.id);
        ASSERT_TRUE(told);
        EXPECT_EQ(told->conditions.instrument, "BX-1");
        const auto log = b.store->events(row.id);
        const auto brought = bench::read<bench::event::Brought>(log[2].body);
        ASSERT_TRUE(brought);
        EXPECT_EQ(brought->file, "before.csv");
        EXPECT_EQ(brought->sha256.size(), 64u);
        ASSERT_TRUE(b.store->replay(row.id));
    }
    const auto first = b.store->snapshot(rows.back().id);
    EXPECT_NEAR(first->mass_kg, 150.8 * 0.45359237, 1e-9);
    EXPECT_EQ(first->result[quantity::fat_percent].value, 24.1) << "as it was told, to its digit";
    EXPECT_NEAR(first->result[quantity::fat_free_mass].value, 114.5 * 0.45359237, 1e-9);
    EXPECT_EQ(first->result[quantity::fat_percent].u, 3.5) << "the usual error of the method";
    EXPECT_EQ(b.store->snapshot(rows.front().id)->messages.back().code, "hour_unknown");

    EXPECT_TRUE(first->told_elsewhere);
    EXPECT_TRUE(b.wait([&] { return b.shows("impedance, told elsewhere"); }, 3000));
    // it is opened and read like any other, and nothing in it can be chosen anew
    ASSERT_FALSE(b.window->session().resume(rows.back().id, "M. Tanguy"));
    b.window->show_result();
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("24.1 % fat"); }))
        << b.text("result_title").toStdString();
    EXPECT_TRUE(b.text("equation").contains("before.csv, line 2")) << b.text("equation").toStdString();
    b.shot("told-elsewhere");
    b.window->session().act(bench::event::Choice{"conversion", "brozek_1963"});
    EXPECT_TRUE(b.text("trouble").size() > 0);
    b.window->session().act(bench::event::Reopened{"a second look"});
    EXPECT_TRUE(b.text("trouble").contains("told elsewhere")) << "there is no bench to open it at";
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    ASSERT_TRUE(b.wait([&] { return b.text("said").contains("-lab.pdf"); })) << b.text("said").toStdString();
    ASSERT_TRUE(b.key("client_sheet", Qt::Key_P));
    ASSERT_TRUE(b.wait([&] { return b.text("said").contains("-client.pdf"); })) << b.text("said").toStdString();
    const auto history = work::History::of(b.window->lab(), client.id, {}, true);
    const auto series = history.series(quantity::fat_percent, "impedance");
    ASSERT_TRUE(series);
    EXPECT_EQ(series->points.size(), 2u);
    EXPECT_TRUE(series->points[0]->recomputed_from.empty()) << "nobody knows what it was reckoned from";
    EXPECT_FALSE(series->changes.steps.front().comparable()) << "another edition of its equation";

    // a number that was mistyped gives nobody's body to somebody else
    ASSERT_NO_FATAL_FAILURE(read(b, file_in(b, "mistyped.csv",
                                        "number,family name,date,weight,body fat percent,method\n" +
                                            client.number.toUtf8() + ",Guillou,2024-05-01,68,24,impedance\n")));
    ASSERT_TRUE(b.wait([&] { return b.text("import_said").contains("0 can be imported"); }))
        << b.text("import_trouble").toStdString();
    EXPECT_TRUE(errors->item(0, 1)->text().contains("the table says Guillou"))
        << errors->item(0, 1)->text().toStdString();

    // the same layout is read the same way the next time; what is there is not taken twice
    ASSERT_NO_FATAL_FAILURE(read(b, b.dir.path() + "/before.csv"));
    ASSERT_TRUE(b.wait([&] { return b.text("import_said").contains("3 are there already"); }))
        << b.text("import_said").toStdString() << b.text("import_trouble").toStdString();
    EXPECT_FALSE(b.button("import_now")->isEnabled());
}

TEST(Brought, AFileThatIsNoTableIsSaid)
{
    Bench b;
    b.add_client();
    const std::pair<QString, const char*> files[] = {{file_in(b, "empty.csv", ""), "is empty"},
        {file_in(b, "picture.csv", QByteArray("\x89PNG\r\n\x1A\n\0\0", 10)), "not a text file"},
        {file_in(b, "one.csv", "only\n1\n"), "no heading"},
        {file_in(b, "wide.csv", "a,b\n1,2\n" + QByteArray(1000, ',') + "\n"),
            "line 3 has 1001 columns; allowed is up to 200"},
        {file_in(b, "quote.csv", "a,b\n\"x,1\n"), "quote"}, {b.dir.path() + "/none.csv", "cannot be read"}};
    QFile large(b.dir.path() + "/large.csv");
    ASSERT_TRUE(large.open(QIODevice::WriteOnly));
    ASSERT_TRUE(large.resize(2'000'000'000)); // sparse
    large.close();
    b.window->show_clients();
    ASSERT_TRUE(b.key("import_list", Qt::Key_I, Qt::ControlModifier));
    auto* page = b.window->findChild<ImportPage*>();
    for (const auto& [path, words] : files) {
        page->read(path);
        ASSERT_TRUE(b.wait([&, &w = words] { return b.text("import_trouble").contains(w); }))
            << words << " · " << b.text("import_trouble").toStdString();
    }
    page->read(large.fileName());
    ASSERT_TRUE(b.wait([&] { return b.text("import_trouble").contains("has 1908 MiB; allowed is up to 32 MiB"); }))
        << b.text("import_trouble").toStdString();
}

TEST(Brought, AFileIsKeptWithItsVisitExportedAndDeletedWithThePerson)
{
    Bench b;
    const auto client = b.add_client();
    const QString pdf = file_in(b, "printout.pdf", "%PDF-1.7\nan instrument's own sheet\n");
    drop(b, {pdf});
    EXPECT_TRUE(b.text("trouble").contains("open the visit first"));
    ASSERT_NO_FATAL_FAILURE(b.tank_result(client, 171));
    ASSERT_TRUE(b.wait([&] { return b.button("keep_file") != nullptr; }));
    const QString png = file_in(b, "chart.png", QByteArray("\x89PNG\r\n\x1A\n", 8) + QByteArray(2000, 'x'));
    drop(b, {pdf, png, file_in(b, "program.exe", QByteArray("MZ\0\1", 4)), file_in(b, "none.txt", "")});
    ASSERT_TRUE(b.wait([&] { return b.visit().attached.size() == 2; })) << b.text("trouble").toStdString();
    ASSERT_TRUE(b.wait([&] { return b.text("trouble").contains("none.txt is empty"); }))
        << b.text("trouble").toStdString();
    EXPECT_EQ(b.window->findChildren<QAbstractButton*>("kept_file").size(), 2);
    b.shot("kept-files");
    drop(b, {pdf});
    EXPECT_TRUE(b.wait([&] { return b.text("trouble").contains("kept with this visit already"); }));

    // finished: what was told stands, and a printout may still come
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; }));
    drop(b, {file_in(b, "late.csv", "a,b\n1,2\n")});
    ASSERT_TRUE(b.wait([&] { return b.visit().attached.size() == 3; })) << b.text("trouble").toStdString();

    // it belonged to somebody else: gone from the disk too
    const bench::Attached late = b.visit().attached[2];
    b.window->session().act(bench::event::Detached{late.sha256, "it belongs to somebody else"});
    ASSERT_TRUE(b.wait([&] { return !b.visit().attachment(late.sha256); }));
    const QDir attached(b.dir.path() + "/attached");
    EXPECT_FALSE(attached.exists(QString::fromStdString(late.sha256)));
    EXPECT_EQ(attached.entryList(QDir::Files).size(), 2);
    b.window->show_clients();
    EXPECT_TRUE(b.wait([&] { return b.shows("2 files kept"); }, 3000));

    // spoilt behind the program's back: said, and the numbers stand
    QFile spoilt(attached.filePath(QString::fromStdString(b.visit().attached[1].sha256)));
    ASSERT_TRUE(spoilt.open(QIODevice::Append));
    spoilt.write("!");
    spoilt.close();
    const auto read = records::attached::read(b.store->database(), b.visit().attached[1]);
    ASSERT_FALSE(read);
    EXPECT_EQ(read.messages().front().code, "attached_damaged");
    EXPECT_TRUE(b.store->replay(b.window->session().visit_id())->result());

    const auto out = records::export_person(*b.store, client.id, b.dir.path() + "/handed");
    ASSERT_TRUE(out);
    const QString folder = QStringLiteral("%1/attached/visit%2").arg(*out).arg(b.window->session().visit_id());
    EXPECT_EQ(QDir(folder).entryList(QDir::Files), QStringList{"printout.pdf"}) << "the spoilt one is noted, not given";
    ASSERT_FALSE(b.window->session().leave());
    ASSERT_FALSE(records::erase(*b.store, client.id, "M. Tanguy", QTimeZone("Europe/Paris")));
    EXPECT_TRUE(attached.entryList(QDir::Files).isEmpty());
}
