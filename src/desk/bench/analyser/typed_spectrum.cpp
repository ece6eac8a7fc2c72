// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/bench/analyser/typed_spectrum.h"

#include "bench/analyser/analyser.h"
#include "bench/files/spectrum_file.h"
#include "records/file/regular.h"

#include <QCryptographicHash>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QVBoxLayout>

namespace fusain::desk {
namespace {
constexpr qint64 most_bytes = 8 << 20;
}

TypedSpectrum::TypedSpectrum(work::Session& session) : session_(session), what_(new ChoiceBox), said_(label("trouble"))
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    what_->setObjectName(QStringLiteral("analyser_shows"));
    what_->addItem(QStringLiteral("the whole body, at 50 kHz"));
    what_->addItem(QStringLiteral("five segments, at 50 kHz"));
    what_->setSizeAdjustPolicy(QComboBox::AdjustToContents);
    column->addWidget(label("small", QStringLiteral("What the analyser shows")));
    column->addWidget(what_, 0, Qt::AlignLeft);
    const auto field = [](std::vector<NumberField*>& list, const char* limit) {
        return list.emplace_back(new NumberField(limit, Measure::none));
    };
    whole_ = new TypedRow({{QStringLiteral("resistance R, Ω"), "typed_r", field(whole_fields_, "impedance.r_ohm")},
        {QStringLiteral("reactance Xc, Ω"), "typed_x", field(whole_fields_, "impedance.x_ohm")}});
    std::vector<TypedRow::Field> ten;
    static const char* names[] = {"typed_r_ra", "typed_x_ra", "typed_r_la", "typed_x_la", "typed_r_tr", "typed_x_tr",
        "typed_r_rl", "typed_x_rl", "typed_r_ll", "typed_x_ll"};
    for (std::size_t i = 0; i < impedance::segment_count; ++i) {
        const QString segment = QString::fromLatin1(impedance::segment_rows[i].title);
        ten.push_back({segment + QStringLiteral(", R, Ω"), names[2 * i], field(segment_fields_, "impedance.r_ohm")});
        ten.push_back({QStringLiteral("its Xc, Ω"), names[2 * i + 1], field(segment_fields_, "impedance.x_ohm")});
    }
    segments_ = new TypedRow(std::move(ten), 2); // resistance and reactance of a segment side by side
    auto* file = new KeyButton(QKeySequence(QStringLiteral("Ctrl+O")), QStringLiteral("Ctrl O"),
        QStringLiteral("from a file: its spectra, or "
                       "its own numbers"));
    file->setObjectName(QStringLiteral("spectrum_file"));
    said_->setObjectName(QStringLiteral("spectrum_said"));
    column->addWidget(whole_);
    column->addWidget(segments_);
    column->addWidget(said_);
    column->addWidget(file, 0, Qt::AlignLeft);
    column->addStretch();
    connect(what_, &QComboBox::activated, this, [this] { show_row(); });
    connect(file, &QAbstractButton::clicked, this, [this] {
        const QString path =
            QFileDialog::getOpenFileName(this, QStringLiteral("Spectra, or the instrument's own numbers"), QString(),
                QStringLiteral("Tables (*.csv *.txt)"));
        if (!path.isEmpty()) read(path);
    });
    for (TypedRow* row : {whole_, segments_}) {
        connect(row, &TypedRow::typed, this, &TypedSpectrum::take);
        connect(row, &TypedRow::left, this, &TypedSpectrum::left);
    }
    connect(&session_, &work::Session::stored, this, [this](const bench::Event& e) {
        if (!e.is<bench::event::TrialTyped>() && !e.is<bench::event::OwnNumbers>()) return;
        whole_->clear();
        segments_->clear();
        if (e.is<bench::event::OwnNumbers>())
            said_->setText(QStringLiteral("%1 numbers of the instrument are kept with the visit. They are shown beside "
                                          "the result, never computed with.")
                               .arg(bench::analyser_of(session_.visit()).own_numbers.size()));
    });
    connect(&session_, &work::Session::refused, this, [this](const Message& why) {
        if (isVisible()) said_->setText(q(why.text));
    });
}

void TypedSpectrum::open()
{
    show();
    said_->clear();
    show_row();
}

void TypedSpectrum::show_row()
{
    const bool whole = what_->currentIndex() == 0;
    (whole ? segments_ : whole_)->close_row();
    (whole ? whole_ : segments_)->open();
}

void TypedSpectrum::take()
{
    said_->clear();
    const bool whole = what_->currentIndex() == 0;
    std::vector<double> values;
    for (NumberField* f : whole ? whole_fields_ : segment_fields_) {
        const auto value = f->metric();
        if (!value) return; // the field says why
        values.push_back(*value);
    }
    const auto points = [&](std::size_t i) {
        return std::vector<impedance::Point>{{impedance::equations_khz, values[2 * i], values[2 * i + 1]}};
    };
    bench::event::SpectraTyped typed;
    typed.what = bench::take::body;
    typed.source = "typed";
    if (whole)
        typed.whole_body = points(0);
    else
        for (std::size_t i = 0; i < impedance::segment_count; ++i) typed.segments[i].points = points(i);
    session_.act(typed);
}

void TypedSpectrum::read(const QString& path)
{
    said_->clear();
    const auto bytes = records::read_regular(path, most_bytes);
    if (!bytes) return said_->setText(q(bytes.messages().front().text));
    const QString name = records::plain_name(path);
    const auto found = bench::read_spectrum_file(bytes->toStdString(), name.toStdString());
    if (!found) return said_->setText(q(found.messages().front().text));
    const std::string sha = QCryptographicHash::hash(*bytes, QCryptographicHash::Sha256).toHex().toStdString();
    const bench::event::OfFile from{name.toStdString(), sha};
    if (!found->own.empty()) session_.act(bench::event::OwnNumbers{from, found->own});
    if (found->spectra.empty()) return;
    bench::event::SpectraTyped typed;
    static_cast<bench::Spectra&>(typed) = found->spectra;
    static_cast<bench::event::OfFile&>(typed) = from;
    typed.what = bench::take::body;
    typed.source = "file";
    session_.act(typed);
}

} // namespace fusain::desk
