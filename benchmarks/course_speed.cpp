// SPDX-License-Identifier: GPL-3.0-or-later
// Reading over time: a client with sixty visits with every picture (goal 100 ms), the plan while it is dragged (16 ms),
// a percentile among 200 000 (50 ms).
#include "report/reading/talk.h"
#include "work/reading/reading.h"

#include <cstdlib>
#include <benchmark/benchmark.h>

#include <QGuiApplication>
#include <QImage>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QThread>

using namespace fusain;

namespace {

/// One client with sixty impedance tests, written as they would be told.
struct Sixty {
    QTemporaryDir dir;
    std::shared_ptr<records::Store> store = *records::Store::open(dir.path() + "/lab.fusain");
    std::unique_ptr<work::Lab> lab;
    long client = 0;
    Sixty()
    {
        work::set_clock(QDateTime(QDate(2026, 11, 23), QTime(15, 0), QTimeZone("Europe/Paris")));
        if (store->set_setting("zone", "Europe/Paris")) std::abort();
        lab = std::make_unique<work::Lab>(store);
        records::Client c;
        c.given_name = "Aliénor";
        c.family_name = "Quéméner";
        c.birth_date = "1995-05-02";
        c.height_cm = 171;
        client = store->save(c)->id;
        QSqlQuery q(store->database());
        q.exec("BEGIN");
        for (int i = 0; i < 60; ++i) {
            const QDate day = QDate(2021, 12, 1).addDays(30 * i);
            const double fat = 22 - 0.05 * i, mass = 70;
            records::Snapshot told;
            const auto put = [&](const Quantity& what, double v, double u) {
                told.result.values.push_back({&what, v, u, 0.9 * u});
            };
            put(quantity::fat_percent, fat, 2.5);
            put(quantity::fat_mass, mass * fat / 100, 1.8);
            put(quantity::fat_free_mass, mass * (1 - fat / 100), 1.8);
            put(quantity::bmi, mass / 2.924, 0.1);
            put(quantity::ffmi, mass * (1 - fat / 100) / 2.924, 0.6);
            put(quantity::fmi, mass * fat / 100 / 2.924, 0.6);
            for (const Quantity* what : {&quantity::resistance, &quantity::reactance, &quantity::phase_angle,
                     &quantity::total_body_water, &quantity::skeletal_muscle})
                put(*what, 40 + i, 1);
            told.engine = "fusain";
            told.method = method::impedance;
            told.day = day.toString(Qt::ISODate).toStdString();
            told.age_y = 30;
            told.height_cm = 171;
            told.mass_kg = mass;
            told.conditions.day = "x";
            told.conditions.instrument = "I";
            told.conditions.minute_of_day = 500;
            told.conditions.equations = "kyle_2001";
            q.prepare("INSERT INTO visit (client_id, method, started_at, technician, finished, outcome) VALUES (?, "
                      "'impedance', ?, 'M. Tanguy', 1, 'measured')");
            q.addBindValue(QVariant::fromValue<qlonglong>(client));
            q.addBindValue(day.toString(Qt::ISODate) + "T07:00:00.000Z");
            q.exec();
            const qlonglong visit = q.lastInsertId().toLongLong();
            q.prepare("INSERT INTO snapshot (visit_id, seq, at, who, made_by, body) VALUES (?, 9, ?, 'M. Tanguy', "
                      "'visit', ?)");
            q.addBindValue(visit);
            q.addBindValue(day.toString(Qt::ISODate) + "T07:10:00.000Z");
            q.addBindValue(QString::fromStdString(records::stored(told)));
            q.exec();
        }
        q.exec("COMMIT");
    }
};
Sixty& sixty()
{
    static Sixty one;
    return one;
}

void open_a_client_with_sixty_visits_and_every_picture(benchmark::State& state)
{
    Sixty& s = sixty();
    QImage image(1280, 700, QImage::Format_RGB32);
    for (auto _ : state) {
        const work::History h = work::History::of(*s.lab, s.client);
        const work::Reading r = work::read(h);
        QPainter p(&image);
        report::TalkAbout about;
        about.reading = &r;
        for (const report::Slide& slide : report::talk(about))
            if (slide.picture) slide.picture(p, image.rect(), look::day(), 19);
        for (const Quantity* what : h.quantities("impedance"))
            if (const auto series = h.series(*what, "impedance"))
                report::draw_change(
                    p, image.rect(), report::change_picture(*series, 0, look::day()), {}, look::day(), 14);
    }
}
BENCHMARK(open_a_client_with_sixty_visits_and_every_picture)->Unit(benchmark::kMillisecond);

void drag_the_plan(benchmark::State& state)
{
    plan::Input in;
    in.body = {Sex::female, 34, 168, 26, 48};
    in.target = 31;
    QImage image(900, 420, QImage::Format_RGB32);
    int weeks = static_cast<int>(state.range(0));
    for (auto _ : state) {
        in.weeks = weeks;
        const auto answer = plan::compute(in);
        const double intake =
            answer->find(quantity::intake) ? (*answer)[quantity::intake].value : plan::strictest_intake(in);
        report::PlanPicture picture;
        picture.start = QDate(2026, 1, 1);
        picture.target_day = picture.start.addDays(7 * weeks);
        picture.way = plan::at_intake(in, intake, 7 * weeks + 21);
        picture.band = plan::band(in, intake, 7 * weeks + 21);
        picture.target_percent = in.target;
        picture.start_percent = 35;
        benchmark::DoNotOptimize(plan::first_seen_week(in, intake, 2.5));
        QPainter p(&image);
        report::draw_plan(p, image.rect(), picture, look::day(), 14);
    }
}
BENCHMARK(drag_the_plan)->Arg(12)->Arg(52)->Arg(150)->Unit(benchmark::kMillisecond);

void percentile_among_200_000(benchmark::State& state)
{
    std::vector<double> values(200000);
    for (std::size_t i = 0; i < values.size(); ++i) values[i] = static_cast<double>(i * 7919 % 40000) / 1000;
    for (auto _ : state) benchmark::DoNotOptimize(group::standing(values, 20));
}
BENCHMARK(percentile_among_200_000)->Unit(benchmark::kMillisecond);

} // namespace

int main(int argc, char** argv)
{
    qputenv("QT_QPA_PLATFORM", "offscreen");
    QGuiApplication app(argc, argv);
    look::load_fonts();
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
