// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/typed_row.h"
#include "work/visit/session.h"

namespace fusain::desk {

/// What an analyser without a line shows, typed: resistance and reactance at 50 kHz of the whole body or of five
/// segments; or its file.
class TypedSpectrum : public QWidget {
    Q_OBJECT
public:
    explicit TypedSpectrum(work::Session& session);
    void open();
    /// A file of spectra or of the instrument's own numbers; refused with line and column on the page.
    void read(const QString& path);

signals:
    void left();

private:
    void show_row();
    void take();
    work::Session& session_;
    ChoiceBox* what_;
    TypedRow *whole_, *segments_;
    std::vector<NumberField*> whole_fields_, segment_fields_;
    QLabel* said_;
};

} // namespace fusain::desk
