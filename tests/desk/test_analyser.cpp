// SPDX-License-Identifier: GPL-3.0-or-later
// The impedance analyser in the real windows: a whole test by keys, what goes wrong at it, and without a line.
#include "gui.h"

#include <QDir>

using namespace fusain;
using namespace fusain::desk;
using impedance::Segment;

namespace {

/// The demo knows the added client by name and birthday (demo/crew.json).
constexpr double true_fat = 100 * 14.6 / (14.6 + 53.8);

} // namespace

TEST(AnalyserDesk, AWholeTestByKeysAlone)
{
    Bench b(8, 3);
    b.add_client();
    ASSERT_NO_FATAL_FAILURE(b.to_current());
    b.shot("analyser-ready");
    EXPECT_EQ(b.visit().mass_source, "platform") << "its own platform";
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().state.seconds > 25; }));
    b.shot("analyser-live");
    ASSERT_TRUE(b.wait([&] { return b.seen_analyser().complete; }, 30000)) << b.title().toStdString();
    EXPECT_EQ(b.title(), "Got it") << b.text("found").toStdString();
    ASSERT_TRUE(b.key("spectrum_main", Qt::Key_Space));
    ASSERT_TRUE(b.wait([&] { return b.analyser().enough(b.visit()); }));
    b.shot("analyser-taken");
    ASSERT_TRUE(b.key("spectrum_done", Qt::Key_Return));
    ASSERT_TRUE(b.wait([&] { return b.text("result_title").contains("% fat"); })) << b.title().toStdString();
    b.shot("analyser-result");
    const long id = b.window->session().visit_id();
    const auto stored = b.store->replay(id);
    ASSERT_TRUE(stored);
    const auto result = stored->result();
    ASSERT_TRUE(result);
    EXPECT_NEAR((*result)[quantity::fat_percent].value, true_fat, 3 * (*result)[quantity::fat_percent].u);
    // every point is kept, in columns that say what they are
    const bench::Signal kept = *b.store->signal(id, 1);
    EXPECT_EQ(kept.columns, bench::analyser_columns);
    EXPECT_GT(kept.size(), 500u);
    // another equation moves every number at once, and stays with who and when
    const double before = (*result)[quantity::fat_percent].value;
    auto* box = b.window->findChild<QComboBox*>("choose_fat_free_mass");
    ASSERT_TRUE(box);
    box->setFocus();
    QTest::keyClick(box, Qt::Key_Down);
    ASSERT_TRUE(b.wait([&] { return !b.visit().choices.empty(); }));
    EXPECT_EQ(b.visit().choices.back().who, "M. Tanguy");
    const auto moved = b.visit().result();
    EXPECT_NE((*moved)[quantity::fat_percent].value, before);
    EXPECT_NE((*moved)[quantity::segment_lean[0]].value, (*result)[quantity::segment_lean[0]].value)
        << "segments follow the whole";
    b.window->findChild<QWidget*>("every_step")->setFocus();
    ASSERT_NO_FATAL_FAILURE(b.give_out());
    ASSERT_TRUE(b.wait([&] { return b.visit().finished; })) << b.text("said").toStdString();
    ASSERT_TRUE(b.key("lab_sheet", Qt::Key_L));
    EXPECT_EQ(QDir(b.dir.path() + "/sheets").entryList({"*.pdf"}).size(), 2);
    const QString title = b.text("result_title");
    b.reopen();
    ASSERT_FALSE(b.window->session().resume(id, "M. Tanguy"));
    b.window->show_result();
    EXPECT_EQ(b.text("result_title"), title) << "tomorrow: the same digits";
}
