// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/clients/result_mapping.h"

#include <QGridLayout>
#include <QVBoxLayout>

namespace fusain::desk {

using namespace records::results;

ResultMapping::ResultMapping(QWidget* parent)
    : QWidget(parent), scroll_(new Scroll(new QWidget)), by_(new QWidget), method_(new ChoiceBox), error_(new QLineEdit)
{
    auto* v = new QVBoxLayout(this);
    v->setContentsMargins(0, 0, 0, 0);
    v->setSpacing(6);
    auto* row = new WrappedRow(by_);
    row->setContentsMargins(0, 0, 0, 0);
    const auto words = [&](const char* text) {
        auto* l = label("small", QString::fromUtf8(text));
        l->setWordWrap(false);
        row->addWidget(l);
    };
    words("Where no column says it: measured by");
    method_->setObjectName(QStringLiteral("results_method"));
    method_->addItem(QStringLiteral("choose"), QString());
    for (const Method m : all_methods()) method_->addItem(QString::fromLatin1(m->title), QString::fromLatin1(m->word));
    row->addWidget(method_);
    words("error of percent fat, ± %");
    error_->setObjectName(QStringLiteral("results_error"));
    error_->setPlaceholderText(QStringLiteral("usual"));
    row->addWidget(error_);
    v->addWidget(by_);
    v->addWidget(scroll_, 1);
    with_theme(this, [this] { error_->setFixedWidth(static_cast<int>(Theme::get().px(70))); });
    connect(method_, &QComboBox::activated, this, &ResultMapping::changed);
    connect(error_, &QLineEdit::editingFinished, this, &ResultMapping::changed);
}

void ResultMapping::fill(const records::Table& table, const std::optional<Mapping>& known)
{
    const Mapping start = known ? *known : guess(table.header);
    columns_ = new QWidget;
    lines_.clear();
    auto* grid = new QGridLayout(columns_);
    grid->setContentsMargins(0, 0, 12, 0);
    grid->setHorizontalSpacing(14);
    grid->setVerticalSpacing(4);
    grid->setColumnStretch(1, 1);
    for (int c = 0; c < table.header.size(); ++c) {
        QStringList samples;
        for (std::size_t r = 0; r < table.rows.size() && samples.size() < 3; ++r)
            if (const QString s = table.rows[r].value(c); !s.isEmpty()) samples << s;
        Line line{label("text", table.header[c]), label("small", samples.join(QStringLiteral(" · "))), new ChoiceBox,
            new ChoiceBox};
        line.what->setObjectName(QStringLiteral("what_%1").arg(c));
        line.unit->setObjectName(QStringLiteral("unit_%1").arg(c));
        line.what->addItem(QStringLiteral("not taken"), QString());
        for (const Field& f : fields()) line.what->addItem(f.title, f.id);
        const Column& column = start.columns[static_cast<std::size_t>(c)];
        line.what->setCurrentIndex(std::max(0, line.what->findData(column.what)));
        grid->addWidget(line.heading, c, 0);
        grid->addWidget(line.sample, c, 1);
        grid->addWidget(line.what, c, 2);
        grid->addWidget(line.unit, c, 3);
        lines_.push_back(line);
        const auto at = static_cast<std::size_t>(c);
        show_units(at);
        line.unit->setCurrentIndex(std::max(0, line.unit->findData(column.unit)));
        connect(line.what, &QComboBox::activated, this, [this, at] {
            show_units(at);
            emit changed();
        });
        connect(line.unit, &QComboBox::activated, this, &ResultMapping::changed);
    }
    grid->setRowStretch(static_cast<int>(table.header.size()), 1);
    scroll_->setWidget(columns_); // the one before goes with it
    method_->setCurrentIndex(std::max(0, method_->findData(start.method)));
    error_->setText(start.u_fat_percent > 0 ? QString::number(start.u_fat_percent) : QString());
}

void ResultMapping::show_units(std::size_t column)
{
    Line& line = lines_[column];
    const Field* f = field(line.what->currentData().toString());
    line.unit->clear();
    if (f)
        for (const QString& u : f->units) line.unit->addItem(u, u);
    line.unit->setVisible(line.unit->count() > 0);
}

Mapping ResultMapping::mapping() const
{
    Mapping out;
    for (const Line& line : lines_)
        out.columns.push_back({line.what->currentData().toString(), line.unit->currentData().toString()});
    out.method = method_->currentData().toString();
    out.u_fat_percent = error_->text().trimmed().replace(',', '.').toDouble();
    return out;
}

} // namespace fusain::desk
