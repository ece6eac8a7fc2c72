// SPDX-License-Identifier: GPL-3.0-or-later
#include "demo/demo_strip.h"

#include "desk/parts/parts.h"
#include "virtual/analyser/analyser.h"
#include "virtual/chamber/chamber.h"
#include "virtual/table/xray_table.h"
#include "virtual/tank/tank.h"

#include <QHBoxLayout>

namespace fusain::desk {

QWidget* make_demo_strip(StandIns& room)
{
    auto* strip = new QWidget;
    strip->setObjectName(QStringLiteral("side"));
    auto* row = new QHBoxLayout(strip);
    row->setContentsMargins(22, 5, 22, 5);
    auto* words = label(
        "small", QStringLiteral(
                     "Demo: invented people, virtual instruments. The virtual client does what the screen asks for."));
    words->setWordWrap(false);
    row->addWidget(words);
    row->addStretch();
    row->addWidget(label("small", QStringLiteral("Make trouble:")));
    auto* box = new ChoiceBox;
    box->setObjectName(QStringLiteral("trouble_maker"));
    box->setFocusPolicy(Qt::ClickFocus);
    box->addItem(QStringLiteral("none"), QString());
    std::vector<QString> words_of_faults;
    const auto offer = [&](const auto& rows) {
        for (const auto& f : rows) {
            box->addItem(QString::fromUtf8(f.title), QString::fromLatin1(f.word));
            words_of_faults.push_back(QString::fromLatin1(f.word));
        }
    };
    offer(virt::faults());
    offer(virt::chamber_faults());
    offer(virt::analyser_faults());
    offer(virt::table_faults());
    box->addItem(QStringLiteral("presses the release button"), QStringLiteral("release"));
    box->addItem(QStringLiteral("line unplugged for 4 s"), QStringLiteral("unplug"));
    row->addWidget(box);
    QObject::connect(box, &QComboBox::activated, &room, [&room, box, words_of_faults] {
        for (const QString& fault : words_of_faults) room.direct(QStringLiteral("fault %1 off").arg(fault));
        const QString word_chosen = box->currentData().toString();
        if (word_chosen == QStringLiteral("unplug") || word_chosen == QStringLiteral("release")) {
            room.direct(word_chosen == QStringLiteral("unplug") ? QStringLiteral("unplug 4") : word_chosen);
            box->setCurrentIndex(0);
        } else if (!word_chosen.isEmpty()) {
            room.direct(QStringLiteral("fault %1 on").arg(word_chosen));
        }
    });
    return strip;
}

} // namespace fusain::desk
