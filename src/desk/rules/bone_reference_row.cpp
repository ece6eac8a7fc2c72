// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/rules/bone_reference_row.h"

#include "bench/files/bone_reference.h"
#include "records/file/regular.h"

#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>

namespace fusain::desk {
namespace {

const QString setting = QStringLiteral("bone_reference");
constexpr qint64 most_bytes = 2 << 20;

} // namespace

BoneReferenceRow::BoneReferenceRow(work::Lab& lab, QWidget* parent)
    : QWidget(parent), lab_(lab), now_(label("text")), said_(label("trouble"))
{
    auto* grid = new QGridLayout(this);
    grid->setContentsMargins(0, 8, 0, 8);
    grid->setHorizontalSpacing(24);
    grid->setColumnStretch(0, 2);
    grid->setColumnStretch(1, 10);
    grid->addWidget(label("heading", QStringLiteral("Bone mineral, reference")), 0, 0, Qt::AlignTop);
    now_->setObjectName(QStringLiteral("bone_reference_now"));
    said_->setObjectName(QStringLiteral("bone_reference_said"));
    grid->addWidget(now_, 0, 1);
    grid->addWidget(said_, 1, 1);
    auto* keys = new WrappedRow;
    auto* load = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+B")), QStringLiteral("Ctrl B"), QStringLiteral("load a table (CSV)"));
    load->setObjectName(QStringLiteral("bone_reference_load"));
    none_ = new KeyButton({}, QStringLiteral("×"), QStringLiteral("none any more"));
    none_->setObjectName(QStringLiteral("bone_reference_none"));
    keys->addWidget(load);
    keys->addWidget(none_);
    grid->addLayout(keys, 2, 1);
    connect(load, &QAbstractButton::clicked, this, [this] {
        const QString path = QFileDialog::getOpenFileName(
            this, QStringLiteral("A reference for bone mineral"), QString(), QStringLiteral("Tables (*.csv *.txt)"));
        if (!path.isEmpty()) take_file(path);
    });
    connect(none_, &QAbstractButton::clicked, this, [this] {
        if (const auto why = lab_.store->set_setting(setting, {})) said_->setText(q(why->text));
        show_it();
    });
    show_it();
}

void BoneReferenceRow::take_file(const QString& path)
{
    said_->clear();
    const auto bytes = records::read_regular(path, most_bytes);
    if (!bytes) return said_->setText(q(bytes.messages().front().text));
    const auto rows = bench::read_bone_reference(bytes->toStdString(), QFileInfo(path).fileName().toStdString());
    if (!rows) return said_->setText(q(rows.messages().front().text));
    if (const auto why = lab_.store->set_setting(setting, QString::fromUtf8(*bytes)))
        return said_->setText(q(why->text));
    show_it();
}

void BoneReferenceRow::show_it()
{
    const auto rows = bench::read_bone_reference(lab_.store->setting(setting).toStdString(), "the lab's reference");
    none_->setVisible(static_cast<bool>(rows));
    if (!rows)
        return now_->setText(
            QStringLiteral("None: no Z-score is shown by itself; one may be typed at a visit, with its "
                           "source. Heading: sex, age_y, mean_kg, sd_kg, source."));
    QStringList sources;
    for (const bench::BoneRow& r : *rows)
        if (!sources.contains(q(r.source))) sources << q(r.source);
    now_->setText(QStringLiteral("%1 lines. Source: %2. It applies to new visits.")
                      .arg(rows->size())
                      .arg(sources.join(QStringLiteral("; "))));
}

} // namespace fusain::desk
