// SPDX-License-Identifier: GPL-3.0-or-later
// The small parts of every page: rows that wrap, fields that say what is wrong, lists as high as their words.
#include "desk/screening/answer_list.h"
#include "desk/parts/parts.h"

#include <gtest/gtest.h>

#include <QBoxLayout>
#include <QScrollBar>
#include <QSignalSpy>
#include <QtTest/QTest>

#include <set>

using namespace fusain;
using namespace fusain::desk;

namespace {

/// A row of keys in a room of some width; hidden again when it is gone.
struct Row {
    explicit Row(int keys)
    {
        auto* column = new QVBoxLayout(&room);
        row = new WrappedRow;
        for (int i = 0; i < keys; ++i) {
            buttons.push_back(new KeyButton({}, QStringLiteral("F%1").arg(i), QStringLiteral("do number %1").arg(i)));
            row->addWidget(buttons.back());
        }
        column->addLayout(row);
        column->addStretch();
    }
    int lines(int width)
    {
        room.resize(width, 600);
        room.show();
        QTest::qWait(1);
        std::set<int> tops;
        for (KeyButton* b : buttons)
            if (!b->isHidden()) tops.insert(b->geometry().center().y());
        return static_cast<int>(tops.size());
    }
    QWidget room;
    WrappedRow* row;
    std::vector<KeyButton*> buttons;
};

} // namespace

TEST(Parts, KeysWrapAndNothingIsCut)
{
    Row r(5);
    const int one = r.buttons[0]->sizeHint().width(), all = r.row->sizeHint().width();
    EXPECT_GE(all, 5 * one);
    EXPECT_EQ(r.lines(all + 60), 1);
    EXPECT_EQ(r.lines(all / 2), 3) << "two and two and one";
    EXPECT_EQ(r.lines(one + 40), 5);
    for (KeyButton* b : r.buttons) {
        EXPECT_EQ(b->size(), b->sizeHint());
        EXPECT_TRUE(r.room.rect().contains(b->geometry()));
        for (KeyButton* other : r.buttons)
            if (other != b) EXPECT_FALSE(other->geometry().intersects(b->geometry()));
    }
    // what is hidden takes no room
    for (int i : {0, 2, 4}) r.buttons[static_cast<std::size_t>(i)]->hide();
    EXPECT_EQ(r.lines(all / 2), 1);
    EXPECT_LT(r.row->sizeHint().width(), all / 2);
    // larger text needs more lines
    for (KeyButton* b : r.buttons) b->show();
    EXPECT_EQ(r.lines(all + 60), 1);
    Theme::get().set_zoom(1.5);
    EXPECT_GT(r.lines(all + 60), 1);
    Theme::get().set_zoom(1);
    EXPECT_EQ(r.lines(all + 60), 1);
    // room that is left stays with the stretch: the keys stand where they are put
    EXPECT_EQ(r.row->geometry().height(), r.row->heightForWidth(r.row->geometry().width()));
    delete r.row->takeAt(0);
    EXPECT_EQ(r.row->count(), 4);
    EXPECT_EQ(r.row->takeAt(9), nullptr);
}

TEST(Parts, ANumberFieldSaysWhatIsWrongAndKeepsWhatWasTyped)
{
    struct Case {
        const char* typed;
        std::optional<double> metric;
        const char* trouble;
    };
    const Case cases[] = {
        {"171.4", 171.4, ""},
        {"171,4", 171.4, ""},
        {" 171.4 ", 171.4, ""},
        {"", {}, "missing"},
        {"tall", {}, "\"tall\" is not a number"},
        {"1.71", {}, "metres"},
        {"17140", {}, "allowed is"},
        {"-171", {}, "allowed is"},
        {"−171", {}, "allowed is"},
        {"nan", {}, "not a number"},
        {"inf", {}, "allowed is"},
        {"171 cm", 171.0, ""},
        {"171 kg", {}, "not a number"},
    };
    for (const Case& c : cases) {
        NumberField field("height_cm", Measure::length);
        field.show();
        field.edit()->insert(QString::fromUtf8(c.typed));
        const auto metric = field.metric();
        EXPECT_EQ(metric, c.metric) << c.typed;
        EXPECT_EQ(field.peek(), c.metric) << c.typed;
        EXPECT_EQ(field.edit()->text(), QString::fromUtf8(c.typed)) << "what was typed stands";
        QString said;
        for (auto* l : field.findChildren<QLabel*>())
            if (!l->isHidden() && l->property("voice") == "trouble") said = l->text();
        if (*c.trouble)
            EXPECT_TRUE(said.contains(QString::fromUtf8(c.trouble))) << c.typed << ": " << said.toStdString();
        else
            EXPECT_TRUE(said.isEmpty()) << c.typed << ": " << said.toStdString();
    }
}

TEST(Parts, ANumberMayBringItsOwnUnit)
{
    const struct {
        const char* field;
        Measure measure;
        const char* text;
        double metric;
    } rows[] = {{"height_cm", Measure::height, "5 ft 7 in", 170.18}, {"height_cm", Measure::height, "5'7\"", 170.18},
        {"height_cm", Measure::height, "67 in", 170.18}, {"height_cm", Measure::height, "1.71 m", 171},
        {"mass_kg", Measure::mass, "10 st 11 lb", 68.4924}, {"mass_kg", Measure::mass, "151 lb", 68.4924},
        {"mass_kg", Measure::mass, "68.4 kg", 68.4}};
    for (const char* units : {"kg,cm,°C", "lb,in,°C", "st lb,ft in,°C"}) {
        Units::get().restore(QString::fromUtf8(units));
        EXPECT_EQ(Units::get().words(), QString::fromUtf8(units));
        for (const auto& row : rows) {
            NumberField field(row.field, row.measure);
            QTest::keyClicks(field.edit(), row.text);
            EXPECT_NEAR(field.metric().value_or(0), row.metric, 1e-3) << row.text << ", " << units;
        }
    }
    Units::get().restore({});
}

TEST(Parts, BodiesInStonesAndHeightsInFeetWhereChosen)
{
    Units& u = Units::get();
    u.restore("st lb,ft in,°F");
    EXPECT_EQ(u.text(Measure::mass, 68.4924, 1), "10 st 11.0 lb");
    EXPECT_EQ(u.text(Measure::mass, 69.85, 1), "11 st 0.0 lb") << "never 10 st 14.0 lb";
    EXPECT_EQ(u.text(Measure::mass, 2.31, 3), "5.093 lb") << "what hangs in the water is no body";
    EXPECT_EQ(u.text(Measure::height, 170.18, 1), "5 ft 7.0 in");
    EXPECT_EQ(u.text(Measure::length, 101.6, 1), "40.0 in") << "a girth";
    const struct {
        const char* field;
        Measure measure;
        const char* text;
        double metric;
    } rows[] = {{"mass_kg", Measure::mass, "10 11", 68.4924}, {"mass_kg", Measure::mass, "10 st 11", 68.4924},
        {"mass_kg", Measure::mass, "151", 68.4924}, {"height_cm", Measure::height, "5 7", 170.18},
        {"height_cm", Measure::height, "5 ft 7", 170.18}, {"height_cm", Measure::height, "67", 170.18},
        {"height_cm", Measure::height, "5 14", 0}, {"height_cm", Measure::height, "5", 0}};
    for (const auto& row : rows) {
        NumberField field(row.field, row.measure);
        QTest::keyClicks(field.edit(), row.text);
        EXPECT_NEAR(field.metric().value_or(0), row.metric, 1e-3) << row.text;
    }
    NumberField field("height_cm", Measure::height);
    field.set_metric(170.18);
    EXPECT_TRUE(field.edit()->text().startsWith("5 ft 7")) << field.edit()->text().toStdString();
    u.restore({});
    EXPECT_EQ(field.edit()->text().toStdString(), "170.2");
}

TEST(Parts, ShowingAnotherUnitNeverChangesTheValue)
{
    struct Case {
        const char* field;
        Measure measure;
        double metric;
    };
    for (const Case& c : {Case{"height_cm", Measure::height, 171.0}, Case{"mass_kg", Measure::mass, 68.41},
             Case{"hydrostatic.water_temp_c", Measure::temperature, 34.6}}) {
        NumberField field(c.field, c.measure);
        field.set_metric(c.metric);
        const QString metric_text = field.edit()->text();
        for (int i = 0; i < 6; ++i) {
            Units::get().toggle(c.measure);
            EXPECT_EQ(field.metric(), c.metric) << c.field;
        }
        EXPECT_EQ(field.edit()->text(), metric_text);
        // typed in the other unit, it keeps its meaning when the unit is switched back
        Units::get().toggle(c.measure);
        const double shown = Units::get().shown(c.measure, c.metric);
        field.edit()->clear();
        QTest::keyClicks(field.edit(), QString::number(shown, 'f', 3));
        do Units::get().toggle(c.measure);
        while (Units::get().imperial(c.measure));
        EXPECT_NEAR(field.metric().value_or(0), c.metric, 0.002) << c.field;
        EXPECT_FALSE(field.is_empty());
    }
}

TEST(Parts, ListsAreAsHighAsTheirWords)
{
    std::unique_ptr<QListWidget> list(list_of_words());
    list->resize(260, 600);
    list->addItem("short");
    list->addItem("Monday 23 November, 08:05 to 09:00  ·  earliest, no waiting\n08:05 chamber  →  08:20 tank");
    list->show();
    QTest::qWait(1);
    EXPECT_EQ(list->horizontalScrollBar()->maximum(), 0);
    const int line = QFontMetrics(list->font()).lineSpacing();
    EXPECT_GE(list->visualItemRect(list->item(1)).height(), 3 * line);
    EXPECT_LT(list->visualItemRect(list->item(0)).height(), 3 * line);
    const int narrow = list->visualItemRect(list->item(1)).height();
    list->resize(900, 600);
    QTest::qWait(1);
    list->doItemsLayout();
    EXPECT_LT(list->visualItemRect(list->item(1)).height(), narrow) << "wider: fewer lines";
}

TEST(Parts, WhatIsHigherThanItsRoomFadesAtTheEdgeWhereMoreIs)
{
    auto* content = new QWidget;
    content->setFixedHeight(900);
    Scroll scroll(content);
    scroll.resize(300, 200);
    scroll.show();
    QTest::qWait(1);
    ASSERT_GT(scroll.verticalScrollBar()->maximum(), 0);
    EXPECT_EQ(content->width(), scroll.viewport()->width()) << "never wider than its room";
    content->setAutoFillBackground(true);
    QPalette black;
    black.setColor(QPalette::Window, Qt::black);
    content->setPalette(black);
    const auto light_at = [&](int y) { return scroll.grab().toImage().pixelColor(20, y).lightness(); };
    const auto faded = [&](int at, bool top, bool bottom) {
        scroll.verticalScrollBar()->setValue(at);
        QTest::qWait(1);
        EXPECT_EQ(light_at(1) > light_at(100) + 40, top) << at;
        EXPECT_EQ(light_at(198) > light_at(100) + 40, bottom) << at;
    };
    faded(0, false, true);
    faded(300, true, true);
    faded(scroll.verticalScrollBar()->maximum(), true, false);
}

TEST(Parts, AnAnswerIsChosenWhereItStands)
{
    AnswerList list;
    list.resize(300, 10);
    list.show_rows({{"Health", "first", "no", 1}, {"Health", "second", "", 0}, {"Worn", "third", "yes", 2, true}}, 1);
    list.show();
    QSignalSpy chosen(&list, &AnswerList::chosen);
    int last_bottom = 0;
    for (int row = 0; row < 3; ++row) {
        const QRect place = list.place_of(row);
        EXPECT_GE(place.top(), last_bottom) << "under the one before";
        EXPECT_LE(place.bottom(), list.height());
        last_bottom = place.bottom();
        QTest::mouseClick(&list, Qt::LeftButton, {}, QPoint(50, place.bottom() - 5));
        ASSERT_EQ(chosen.size(), row + 1);
        EXPECT_EQ(chosen.back().front().toInt(), row);
    }
    EXPECT_GT(list.place_of(2).height(), list.place_of(1).height()) << "a heading stands above it";
    QTest::mouseClick(&list, Qt::LeftButton, {}, QPoint(50, list.place_of(2).top() + 5));
    EXPECT_EQ(chosen.size(), 3) << "a heading is no answer";
    EXPECT_TRUE(list.place_of(7).isNull());
}

TEST(Parts, ATogglesMarkIsPartOfItsWords)
{
    std::unique_ptr<WordButton> b(toggle("works here"));
    EXPECT_EQ(b->text(), "○ works here");
    b->setShortcut(QKeySequence("Alt+W"));
    b->click();
    EXPECT_EQ(b->text(), "● works here");
    EXPECT_EQ(b->shortcut(), QKeySequence("Alt+W")) << "its key survives the new words";
    EXPECT_EQ(b->accessibleName(), "works here");
    KeyButton key(QKeySequence("Space"), "Space", "take it");
    key.set_words("take the next");
    EXPECT_EQ(key.shortcut(), QKeySequence("Space"));
    EXPECT_EQ(key.accessibleName(), "take the next");
}
