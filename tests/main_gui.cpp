// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/parts/theme.h"

#include <gtest/gtest.h>

#include <QApplication>

int main(int argc, char** argv)
{
    testing::InitGoogleTest(&argc, argv);
    if (testing::GTEST_FLAG(list_tests)) return RUN_ALL_TESTS(); // asked by CTest, which has no display
    fusain::look::prepare_fonts();
    QApplication app(argc, argv);
    QApplication::setStyle("Fusion");
    if (!fusain::look::load_fonts()) return 1;
    fusain::desk::Theme::get().apply();
    return RUN_ALL_TESTS();
}
