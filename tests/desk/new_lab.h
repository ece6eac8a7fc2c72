// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "gui.h"

#include "desk/bench/signal_file.h"
#include "desk/instruments/connect_page.h"

#include <QPlainTextEdit>

namespace fusain::desk {

using Kind = const bench::InstrumentKind*;

inline void type_in(Bench& b, const char* field, const char* text)
{
    QTest::keyClicks(b.field(field), text);
    QTest::keyClick(b.field(field), Qt::Key_Return);
}

inline void choose(Bench& b, const char* name, const QVariant& data)
{
    for (auto* box : b.window->findChildren<QComboBox*>(name))
        if (box->isVisible()) {
            const int row = box->findData(data);
            ASSERT_GE(row, 0) << name << " has no " << data.toString().toStdString();
            box->setCurrentIndex(row);
            emit box->activated(row);
            return;
        }
    FAIL() << "no " << name;
}

/// An empty lab, just opened, without a line.
struct NewLab : Bench {
    explicit NewLab(double speed = 4, const StandInProcesses::Foreign& foreign = {}) : Bench(speed, 7, false)
    {
        for (const char* key : {"technician", "lab_name"}) EXPECT_FALSE(store->set_setting(key, ""));
        window.reset();
        if (!foreign.empty()) room = std::make_unique<VirtualRoom>(clock, speed, 7, foreign);
        reopen({});
    }
    /// The three first steps by keys: a scale, the instrument of the method, the first client.
    void first_steps(Kind kind, const char* way)
    {
        ASSERT_TRUE(text("first_title").contains("Welcome")) << text("first_title").toStdString();
        ASSERT_TRUE(key("first_lab", Qt::Key_1));
        type("lab_name", "Pointe-Grise");
        type("new_staff", "M. Tanguy");
        ASSERT_TRUE(key("save_hours", Qt::Key_S, Qt::ControlModifier));
        for (Kind each : {&bench::scale_kind(), kind}) {
            ASSERT_TRUE(wait([&] { return !text("first_title").isEmpty(); }));
            ASSERT_TRUE(key("first_instruments", Qt::Key_2));
            choose(*this, "instrument_kind", QString(each->id));
            type("name", each->title);
            choose(*this, "instrument_way", QString(way));
            if (each != &bench::scale_kind() && std::string(way) != "line") choose(*this, "instrument_shows", "");
            ASSERT_TRUE(key("instrument_more", Qt::Key_M, Qt::ControlModifier));
            type("serial", QString("S-") + each->id);
            if (each == &bench::instrument_of(method::absorptiometry)) type("profile", "stand_in_table_1");
            ASSERT_TRUE(key("save_instrument", Qt::Key_S, Qt::ControlModifier));
            if (std::string(way) == "line") // a new one that speaks is connected right away; here later
                for (const char* leave : {"line_leave", "lines_back"}) ASSERT_TRUE(key(leave, Qt::Key_Escape)) << leave;
        }
        ASSERT_TRUE(wait([&] { return text("first_title").contains("first client"); }))
            << text("first_title").toStdString();
        shot(way[0] == 't' ? "first-day-2" : "first-day-3");
        ASSERT_TRUE(key("first_client", Qt::Key_3));
        for (const auto& [field, words] : {std::pair{"given_name", "Maud"}, {"family_name", "Guillou"},
                 {"birth_date", "1995-05-02"}, {"consent_on", "2026-01-10"}})
            type(field, words);
        choose(*this, "sex", QString("female"));
        auto* height = window->findChild<QWidget*>("height_box")->findChild<QLineEdit*>();
        height->setFocus();
        QTest::keyClicks(height, "171");
        ASSERT_TRUE(key("save_client", Qt::Key_S, Qt::ControlModifier));
        // chosen, not typed: the only one who works here is the technician
        EXPECT_EQ(store->setting("technician"), "M. Tanguy");
        work::Lab lab(store);
        if (kind == &bench::instrument_of(method::absorptiometry)) {
            auto people = lab.diary->staff();
            people[0].xray_licence = true;
            ASSERT_TRUE(lab.diary->save(people[0]));
        }
        for (const auto& i : lab.diary->instruments()) work::pass_check(lab, i);
    }
    void typed_mass()
    {
        ASSERT_TRUE(key("confirm_who", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return !text("live_mass").isEmpty(); }));
        type_in(*this, "mass_kg", "68.44");
        ASSERT_TRUE(wait([&] { return visit().mass_kg.has_value(); })) << title().toStdString();
    }
    void typed_breath()
    {
        for (std::size_t i = 1; i <= 3; ++i) {
            ASSERT_TRUE(key("type_blow", Qt::Key_T));
            type_in(*this, "hydrostatic.lung.vital_capacity_l", "3.75");
            ASSERT_TRUE(wait([&] { return tank().blows.size() == i; }));
        }
        type("hydrostatic.lung.gas_temp_c", "22.4");
        type("hydrostatic.lung.barometric_mmhg", "757");
        window->setFocus();
        ASSERT_TRUE(key("use_lungs", Qt::Key_Return));
        ASSERT_TRUE(wait([&] { return tank().lungs_done; }));
    }
    void predicted_gas()
    {
        ASSERT_TRUE(key("runs_done", Qt::Key_Return));
        ASSERT_TRUE(key("gas_route_1", Qt::Key_1));
        ASSERT_TRUE(key("use_gas", Qt::Key_Return));
    }
    QString file(const char* name, const std::string& text)
    {
        const QString path = dir.path() + '/' + name;
        QFile f(path);
        EXPECT_TRUE(f.open(QIODevice::WriteOnly));
        f.write(QByteArray::fromStdString(text));
        return path;
    }
    void bring(const char* what, const QString& path)
    {
        for (auto* f : window->findChildren<SignalFile*>(what))
            if (qobject_cast<QWidget*>(f->parent())->isVisible()) return f->read(path);
        FAIL() << "nothing on the screen takes " << what;
    }
    /// Connects a line by the form, as a technician would: where it is, listened to, kept.
    void connect_line(const QString& place, const char* decoder, const char* feeds, int baud)
    {
        window->show_instruments();
        ASSERT_TRUE(key("lab_lines", Qt::Key_L));
        ASSERT_TRUE(key("connect_one", Qt::Key_N));
        choose(*this, "line_place", place.startsWith("tcp:") ? "tcp:" : "other");
        type("line_other", place.startsWith("tcp:") ? place.mid(4) : place);
        if (!place.startsWith("tcp:")) choose(*this, "line_baud", QString::number(baud));
        ASSERT_TRUE(key("line_listen", Qt::Key_L, Qt::AltModifier));
        const auto title = q(bench::shipped_decoder(decoder)->title);
        if (bench::shipped_decoder(decoder)->when == bench::Decoder::When::asked) {
            ASSERT_TRUE(wait([&] { return text("line_said").contains("nothing arrives"); }))
                << text("line_said").toStdString();
            ASSERT_TRUE(key("line_ask", Qt::Key_A, Qt::AltModifier));
        }
        ASSERT_TRUE(wait([&] { return text("line_said").contains(title); }, 8000))
            << text("line_said").toStdString() << "\n"
            << window->findChild<QPlainTextEdit*>("line_bytes")->toPlainText().toStdString();
        if (*feeds) choose(*this, "line_feeds", QString(feeds));
        ASSERT_TRUE(wait([&] { return !text("line_reads").isEmpty(); })) << "what it says now, with its unit";
        shot((std::string("connect-") + decoder).c_str());
        ASSERT_TRUE(key("line_keep", Qt::Key_S, Qt::ControlModifier));
        ASSERT_TRUE(wait([&] { return button("connect_one") != nullptr; })) << text("line_wrong").toStdString();
        ASSERT_TRUE(wait([&] {
            const auto& lines = window->session().live().lines;
            return std::any_of(lines.begin(), lines.end(),
                [&](const auto& l) { return l.connected && l.place == place.toStdString(); });
        })) << "the lab's own link hears it";
    }
    void ends_with_a_result()
    {
        ASSERT_TRUE(wait([&] { return !text("result_title").isEmpty(); })) << title().toStdString();
        ASSERT_NO_FATAL_FAILURE(give_out());
        ASSERT_TRUE(wait([&] { return visit().finished; })) << text("said").toStdString();
        const auto stored = store->replay(window->session().visit_id());
        ASSERT_TRUE(stored);
        ASSERT_TRUE(store->snapshot(window->session().visit_id()));
        EXPECT_EQ((*stored->result())[quantity::fat_percent].value, (*visit().result())[quantity::fat_percent].value);
    }
    void all_from(const char* source)
    {
        for (const auto& t : visit().trials)
            if (t.status == bench::Trial::Status::taken) EXPECT_EQ(t.source, source) << t.number;
    }
};

} // namespace fusain::desk
