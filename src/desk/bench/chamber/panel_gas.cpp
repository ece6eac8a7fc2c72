// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/chamber/chamber_take.h"
#include "desk/bench/chamber/chamber_panels.h"
#include "desk/bench/chamber/chamber_view.h"

#include <cmath>

namespace fusain::desk {
namespace {

using What = bench::ChamberWhat;
using displacement::LungRoute;

/// Gas in the chest: predicted, or measured by puffing against a shut valve, judged while the client does it.
class GasPanel : public Panel {
public:
    explicit GasPanel(work::Session& s)
        : Panel(s, bench::step::lung_gas, QString(), QString()), view_(new PuffView), equation_(new ChoiceBox)
    {
        auto* routes = new WrappedRow;
        routes->setSpacing(22);
        const char* words[] = {
            "1  predicted from age and height", "2  measured: puffs in the chamber", "3  measured: type it"};
        for (int i = 0; i < 3; ++i) {
            route_[i] = new WordButton(QString::fromUtf8(words[i]), 16);
            route_[i]->setShortcut(QKeySequence(Qt::Key_1 + i));
            route_[i]->setObjectName(QStringLiteral("gas_route_%1").arg(i + 1));
            route_[i]->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
            routes->addWidget(route_[i]);
            connect(route_[i], &QAbstractButton::clicked, this, [this, i] {
                if (!bench::chamber_shown(session_.live()).what) choose(i);
            });
        }
        body_->addLayout(routes);
        body_->addSpacing(14);
        pages_ = new Pages;
        auto* predicted = new QWidget;
        auto* p = new QVBoxLayout(predicted);
        p->setContentsMargins(0, 0, 0, 0);
        equation_->setObjectName(QStringLiteral("gas_equation"));
        equation_->setMaximumWidth(430);
        for (const auto& row : lung::gas_equations())
            equation_->addItem(QString::fromUtf8(row.title), QString::fromLatin1(row.id));
        p->addWidget(label("small", QStringLiteral("Equation")));
        p->addWidget(equation_);
        p->addStretch();
        pages_->addWidget(predicted);
        auto* measured = new QWidget;
        auto* m = new QVBoxLayout(measured);
        m->setContentsMargins(0, 0, 0, 0);
        m->addWidget(view_, 1);
        judged_ = label("number");
        judged_->setObjectName(QStringLiteral("puffs"));
        m->addWidget(judged_);
        pages_->addWidget(measured);
        auto* read = new QWidget;
        auto* r = new QVBoxLayout(read);
        r->setContentsMargins(0, 0, 0, 0);
        typed_ = new NumberField("air_displacement.lung.thoracic_gas_volume_l", Measure::none);
        r->addWidget(label("small", QStringLiteral("Thoracic gas volume as the instrument gave it")));
        r->addWidget(typed_);
        r->addStretch();
        pages_->addWidget(read);
        connect(typed_, &NumberField::edited, this, &GasPanel::direct);
        connect(typed_->edit(), &QLineEdit::returnPressed, this, &GasPanel::use);
        body_->addWidget(pages_, 1);
        body_->addSpacing(12);
        result_ = label("heading");
        result_->setObjectName(QStringLiteral("gas_result"));
        body_->addWidget(result_);
        body_->addSpacing(8);
        main_ = key(QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QString(), true, "gas_main");
        stop_ = key(QKeySequence(Qt::Key_X), QStringLiteral("X"), QStringLiteral("stop, take the tube away"), false,
            "gas_stop");
        use_ = key(QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("use it"), false, "use_gas");
        connect(main_, &QAbstractButton::clicked, this, &GasPanel::main_key);
        connect(stop_, &QAbstractButton::clicked, this, [this] { end(QStringLiteral("stopped by hand")); });
        connect(use_, &QAbstractButton::clicked, this, &GasPanel::use);
    }
    void enter() override
    {
        choose(bench::chamber_of(session_.visit()).gas_route != LungRoute::measured ? 0
               : bench::chamber_of(session_.visit()).self_calibrated()              ? 2
                                                                                    : 1);
    }
    void on_changed() override { direct(); }
    void on_live() override
    {
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        if (c.what == What::puffs) { view_->show_puffs(c.puff_trace, c.puffs); }
        direct();
    }

private:
    bool is_typed() const { return pages_->currentIndex() == 2; }
    void use()
    {
        bench::event::LungGas gas{route(), equation_->currentData().toString().toStdString(), {}, {}};
        if (is_typed()) {
            gas.l = typed_->metric();
            if (!gas.l) return;
            gas.source = "typed";
        }
        session_.act(gas);
        session_.say(QStringLiteral("chamber_leave"));
    }
    LungRoute route() const { return pages_->currentIndex() >= 1 ? LungRoute::measured : LungRoute::predicted; }
    void choose(int i)
    {
        for (int k = 0; k < 3; ++k) route_[k]->setChecked(k == i);
        pages_->setCurrentIndex(i);
        direct();
        if (i == 2) typed_->edit()->setFocus();
    }
    void direct()
    {
        const bench::Visit& v = session_.visit();
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        const auto gas = bench::chamber_of(v).measured_gas(v);
        const bool puffing = c.what == What::puffs, measured = pages_->currentIndex() == 1;
        main_->setVisible(measured);
        stop_->setVisible(puffing);
        use_->setEnabled(!puffing && !v.running() && (!measured || gas) && !(is_typed() && typed_->is_empty()));
        use_->set_main(use_->isEnabled());
        main_->set_main(measured && !use_->isEnabled());
        if (is_typed()) {
            const auto litres = typed_->peek();
            result_->setText(litres ? QStringLiteral("Lung gas %1 L (± %2), measured elsewhere and typed")
                                          .arg(*litres, 0, 'f', 2)
                                          .arg(lung::measured_gas_error_l, 0, 'f', 2)
                                    : QString());
            return say(QStringLiteral("Type the lung gas that was measured"),
                QStringLiteral("The mean gas in the chest while breathing quietly, at body conditions."));
        }
        if (!measured) {
            const auto* row = lung::find_gas(equation_->currentData().toString().toStdString());
            result_->setText(row ? QStringLiteral("Lung gas %1 L (± %2), for age, height and sex")
                                       .arg(row->predict(v.subject.sex, v.height_cm(), v.age_y()), 0, 'f', 2)
                                       .arg(row->error_l, 0, 'f', 2)
                                 : QString());
            return say(QStringLiteral("Lung gas: predicted, or measured?"),
                QStringLiteral(
                    "Predicted is usual in service work; measured has far less doubt, and is used for research."));
        }
        result_->setText(
            gas ? QStringLiteral("Lung gas %1 L (± %2), measured").arg(gas->litres, 0, 'f', 2).arg(gas->u_l, 0, 'f', 2)
                : QString());
        judged_->setText(puffing && c.puffs.count > 0
                             ? QStringLiteral("puff %1 of 3 · merit %2 (under 1.0) · airway up to %3 cmH₂O (under 35)")
                                   .arg(std::min(3, c.puffs.count))
                                   .arg(std::min(99.0, c.puffs.merit), 0, 'f', 2)
                                   .arg(c.puffs.peak_cmh2o, 0, 'f', 0)
                             : QString());
        if (!c.connected) {
            say(QStringLiteral("The chamber is not heard"),
                QStringLiteral(
                    "Check its cable; it is opened again by itself. The prediction can be used instead (1)."));
            return main_->setEnabled(false);
        }
        if (!puffing) {
            const auto& trials = v.trials;
            const bool failed = !trials.empty() && trials.back().is(bench::take::puffs) &&
                                trials.back().status != bench::Trial::Status::taken && !v.running();
            if (gas && trials.back().is(bench::take::puffs) && trials.back().status == bench::Trial::Status::taken)
                say(QStringLiteral("Good puffs: use it"), QStringLiteral("Or measure again."));
            else if (c.door_open)
                say(QStringLiteral("Client seated, tube at hand: close the door"),
                    QStringLiteral("Nose clip on, lips tight round the tube, hands on the cheeks."));
            else
                say(failed ? QStringLiteral("Again: %1").arg(q(trials.back().reason))
                           : QStringLiteral("Tube in the mouth, nose clip on"),
                    QStringLiteral("Breathe quietly through the tube. The valve shuts half-way out; then three gentle "
                                   "puffs against it."));
            main_->set_words(gas ? QStringLiteral("measure again") : QStringLiteral("they breathe through the tube"));
            return main_->setEnabled(!c.door_open && !v.running());
        }
        if (c.puff_trace.empty()) {
            say(QStringLiteral("Quiet breaths … then shut the valve"),
                QStringLiteral("A few breaths first. Shut it half-way out."));
            main_->set_words(QStringLiteral("shut the valve"));
            return main_->setEnabled(c.tube && !c.valve_shut && !shutting_);
        }
        shutting_ = false;
        if (!c.complete) {
            say(c.puffs.complaint.empty() ? QStringLiteral("Good so far") : q(c.puffs.complaint),
                QStringLiteral("Gently, as if fogging a mirror; throat open, cheeks held."));
            main_->set_words(QStringLiteral("puffing …"));
            return main_->setEnabled(false);
        }
        const bool good = c.puffs.complaint.empty();
        say(good ? QStringLiteral("Got it") : q(c.puffs.complaint),
            good ? QStringLiteral("The two pressures lie on each other.")
                 : QStringLiteral("Let them breathe, then once more."));
        main_->set_words(good ? QStringLiteral("take it") : QStringLiteral("throw out, again"));
        main_->set_main(true);
        main_->setEnabled(true);
    }
    void main_key()
    {
        const bench::ChamberShown& c = bench::chamber_shown(session_.live());
        if (c.what != What::puffs) {
            view_->show_puffs({}, {});
            session_.begin(bench::take::puffs);
            return session_.say(QStringLiteral("tube"));
        }
        if (c.puff_trace.empty()) {
            shutting_ = true;
            main_->setEnabled(false);
            return session_.say(QStringLiteral("valve"));
        }
        if (!c.complete) return;
        if (c.puffs.complaint.empty()) {
            session_.take();
            return session_.say(QStringLiteral("tube_away"));
        }
        end(c.puffs.peak_cmh2o >= chamber::airway_limit_cmh2o
                ? QStringLiteral("puffs too hard")
                : QStringLiteral("chamber and airway did not move alike"));
    }
    void end(const QString& reason)
    {
        shutting_ = false;
        if (session_.live().trial) session_.throw_out(session_.live().trial, reason);
        session_.say(QStringLiteral("tube_away"));
    }
    PuffView* view_;
    ChoiceBox* equation_;
    WordButton* route_[3];
    NumberField* typed_;
    Pages* pages_;
    QLabel *judged_, *result_;
    KeyButton *main_, *stop_, *use_;
    bool shutting_ = false;
};

} // namespace

Panel* make_gas_panel(work::Session& s) { return new GasPanel(s); }

} // namespace fusain::desk
