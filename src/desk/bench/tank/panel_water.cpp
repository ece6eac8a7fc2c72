// SPDX-License-Identifier: GPL-3.0-or-later
// Before the trials: the zero of chair and belt, and the water.
#include "bench/tank/tank_take.h"
#include "core/air_and_water/water.h"
#include "core/base/limits.h"
#include "desk/bench/tank/tank_panels.h"
#include "desk/parts/typed_row.h"

namespace fusain::desk {
namespace {

const QKeySequence space(Qt::Key_Space);

class ZeroPanel : public Panel {
public:
    explicit ZeroPanel(work::Session& s) : Panel(s, bench::step::zero, QString(), QString())
    {
        number_ = label("huge");
        scatter_ = label("heading");
        body_->addWidget(number_);
        body_->addWidget(scatter_);
        shown_ = new NumberField("hydrostatic.zero_kg", Measure::mass);
        typed_ = new TypedRow(
            {{QStringLiteral("display with chair and belt alone; 0 when it was set to zero"), "typed_zero", shown_}});
        body_->addWidget(typed_);
        body_->addStretch();
        take_ = key(space, QStringLiteral("Space"), QStringLiteral("this is zero"), true, "take_zero");
        type_ = key(QKeySequence(Qt::Key_T), QStringLiteral("T"), QStringLiteral("type it"), false, "type_zero");
        connect(type_, &QAbstractButton::clicked, typed_, &TypedRow::open);
        connect(typed_, &TypedRow::left, this, [this] {
            typed_->close_row();
            setFocus(Qt::OtherFocusReason);
        });
        connect(typed_, &TypedRow::typed, this, [this] {
            if (const auto kg = shown_->metric()) session_.act(bench::event::Zero{*kg, {}, "typed"});
        });
        connect(take_, &QAbstractButton::clicked, this, [this] {
            const bench::TankShown& tank = bench::tank_shown(session_.live());
            session_.act(bench::event::Zero{tank.mean_kg, tank.sd_kg});
            session_.say(QStringLiteral("belt_off"));
        });
        connect(&Units::get(), &Units::changed, this, [this] {
            if (of_this_visit()) on_live();
        });
    }
    void enter() override
    {
        session_.say(QStringLiteral("hang"));
        typed_->close_row();
        if (!session_.live().speaks(bench::Channel::load_cell)) typed_->open();
        on_live();
    }
    void on_live() override
    {
        const bench::Live& l = session_.live();
        const bench::TankShown& tank = bench::tank_shown(l);
        number_->setText(tank.cell_kg ? large(Units::get().text(Measure::mass, tank.mean_kg, 3)) : QStringLiteral("–"));
        scatter_->setText(
            tank.cell_kg ? QStringLiteral("chair and belt; scatter %1 g over 2 s").arg(1000 * tank.sd_kg, 0, 'f', 1)
                         : QString());
        for (QWidget* w : {static_cast<QWidget*>(number_), static_cast<QWidget*>(scatter_),
                 static_cast<QWidget*>(take_), static_cast<QWidget*>(type_)})
            w->setVisible(l.speaks(bench::Channel::load_cell));
        take_->setEnabled(tank.steady && !tank.overload);
        if (!tank.cell_kg)
            say(l.speaks(bench::Channel::load_cell)
                    ? QStringLiteral("The load cell is not heard: its display can be typed (T)")
                    : QStringLiteral("Chair and belt at rest: type what the display shows"),
                QStringLiteral("Chair under water, belt hooked on it, nobody touches. ⏎ takes it."));
        else if (tank.overload)
            say(QStringLiteral("The load cell is at its end"),
                QStringLiteral("Too much hangs on it. Take it off before anything else."));
        else if (tank.steady)
            say(QStringLiteral("Chair and belt hang still: make this zero"),
                QStringLiteral(
                    "Chair under water, belt hooked on it, nobody touches. Take the belt off again afterwards."));
        else
            say(QStringLiteral("Hang chair and belt, and let them come to rest"),
                QStringLiteral("Both under water, free of the wall, nobody touches."));
    }

private:
    NumberField* shown_;
    TypedRow* typed_;
    QLabel *number_, *scatter_;
    KeyButton *take_, *type_;
};

class WaterPanel : public Panel {
public:
    explicit WaterPanel(work::Session& s)
        : Panel(s, bench::step::water, QStringLiteral("How warm is the water?"),
              QStringLiteral("Stir, then read in the middle of the tank.")),
          typed_(new NumberField("hydrostatic.water_temp_c", Measure::temperature)),
          salt_(new NumberField("hydrostatic.salinity_g_per_l", Measure::none))
    {
        number_ = label("huge");
        density_ = label("heading");
        density_->setObjectName(QStringLiteral("water_density"));
        body_->addWidget(number_);
        body_->addWidget(density_);
        old_ = label("trouble");
        old_->setObjectName(QStringLiteral("old_water"));
        body_->addWidget(old_);
        body_->addSpacing(20);
        auto* grid = new QGridLayout;
        grid->addWidget(label("small", QStringLiteral("Typed instead of the thermometer")), 0, 0);
        grid->addWidget(typed_, 0, 1);
        grid->addWidget(label("small", QStringLiteral("Salt dissolved in the water")), 1, 0);
        grid->addWidget(salt_, 1, 1);
        grid->setColumnStretch(1, 1);
        body_->addLayout(grid);
        body_->addStretch();
        take_ = key(space, QStringLiteral("Space"), QStringLiteral("take it"), true, "take_water");
        salt_->set_metric(0);
        connect(take_, &QAbstractButton::clicked, this, &WaterPanel::take);
        for (NumberField* f : {typed_, salt_}) {
            connect(f, &NumberField::edited, this, &WaterPanel::on_live);
            connect(f->edit(), &QLineEdit::returnPressed, this, &WaterPanel::take);
        }
        connect(&Units::get(), &Units::changed, this, [this] {
            if (of_this_visit()) on_live();
        });
    }
    void enter() override
    {
        if (!session_.live().speaks(bench::Channel::water_temp)) typed_->edit()->setFocus();
        on_live();
    }
    void on_live() override
    {
        const auto c = typed_->is_empty() ? session_.live().water_temp_c : typed_->peek();
        const auto salt = salt_->peek();
        number_->setText(c ? large(Units::get().text(Measure::temperature, *c, 1)) : QStringLiteral("–"));
        const QString old =
            c ? QString() : old_words(session_.live(), bench::Channel::water_temp, Measure::temperature);
        old_->setText(old.isEmpty() ? QString()
                                    : QStringLiteral("◆ The thermometer is silent. %1: too old to take. Look at its "
                                                     "cable, or type what another one shows.")
                                          .arg(old));
        density_->setText(c && salt && !limits::check("hydrostatic.water_temp_c", *c)
                              ? QStringLiteral("density %1 kg/L")
                                    .arg(water::density_tanaka_2001(*c) + water::density_from_salt(*salt), 0, 'f', 5)
                              : QString());
        take_->setEnabled(c.has_value() || !typed_->is_empty());
    }

private:
    void take()
    {
        const auto salt = salt_->metric();
        const auto c = typed_->is_empty() ? session_.live().water_temp_c : typed_->metric();
        if (salt && c) session_.act(bench::event::Water{*c, *salt, typed_->is_empty() ? "thermometer" : "typed"});
    }
    NumberField *typed_, *salt_;
    QLabel *number_, *density_, *old_;
    KeyButton* take_;
};

} // namespace

Panel* make_zero_panel(work::Session& s) { return new ZeroPanel(s); }
Panel* make_water_panel(work::Session& s) { return new WaterPanel(s); }

} // namespace fusain::desk
