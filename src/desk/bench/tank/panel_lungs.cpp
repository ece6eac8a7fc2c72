// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/tank/tank.h"
#include "desk/bench/tank/tank_panels.h"
#include "core/air_and_water/lung.h"
#include "core/base/limits.h"

#include <QGridLayout>
#include <QStackedWidget>

namespace fusain::desk {
namespace {

using hydrostatic::LungRoute;

/// Residual volume: several blows with the best kept, a measured value, or age and height.
class LungsPanel : public Panel {
public:
    explicit LungsPanel(work::Session& s)
        : Panel(s, bench::step::lungs, QString(), QString()),
          gas_(new NumberField("hydrostatic.lung.gas_temp_c", Measure::temperature)),
          barometer_(new NumberField("hydrostatic.lung.barometric_mmhg", Measure::none)),
          measured_(new NumberField("hydrostatic.lung.residual_volume_l", Measure::none)), equation_(new ChoiceBox),
          typed_(new NumberField("hydrostatic.lung.vital_capacity_l", Measure::none))
    {
        auto* routes = new WrappedRow;
        routes->setSpacing(22);
        const char* words[] = {
            "1  largest breath (spirometer)", "2  measured by gas dilution", "3  from age and height"};
        for (int i = 0; i < 3; ++i) {
            route_[i] = new WordButton(QString::fromUtf8(words[i]), 16);
            route_[i]->setShortcut(QKeySequence(Qt::Key_1 + i));
            route_[i]->setObjectName(QStringLiteral("route_%1").arg(i + 1));
            route_[i]->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
            routes->addWidget(route_[i]);
            connect(route_[i], &QAbstractButton::clicked, this, [this, i] { choose(i); });
        }
        body_->addLayout(routes);
        body_->addSpacing(14);
        pages_ = new Pages;
        pages_->addWidget(blow_page());
        pages_->addWidget(measured_page());
        pages_->addWidget(equation_page());
        pages_->setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Maximum);
        body_->addWidget(pages_);
        body_->addSpacing(18);
        result_ = label("heading");
        result_->setObjectName(QStringLiteral("lung_result"));
        body_->addWidget(result_);
        body_->addStretch();
        ask_ = key(
            QKeySequence(Qt::Key_Space), QStringLiteral("Space"), QStringLiteral("ask for a blow"), false, "ask_blow");
        out_ = key(
            QKeySequence(Qt::Key_X), QStringLiteral("X"), QStringLiteral("throw out the last"), false, "throw_blow");
        type_ = key(QKeySequence(Qt::Key_T), QStringLiteral("T"), QStringLiteral("type a blow"), false, "type_blow");
        use_ =
            key(QKeySequence(Qt::Key_Return), QStringLiteral("⏎"), QStringLiteral("use the best"), true, "use_lungs");
        connect(ask_, &QAbstractButton::clicked, this, [this] {
            blowing_ = true;
            session_.say(QStringLiteral("blow"));
            redraw();
        });
        connect(out_, &QAbstractButton::clicked, this, [this] {
            const auto& blows = bench::tank_of(session_.visit()).blows;
            for (std::size_t i = blows.size(); i-- > 0;)
                if (!blows[i].thrown_out)
                    return session_.act(bench::event::BlowThrownOut{static_cast<int>(i) + 1, "poor effort"});
        });
        connect(type_, &QAbstractButton::clicked, this, [this] {
            typed_row_->show();
            typed_->edit()->setFocus();
            redraw();
        });
        connect(typed_->edit(), &QLineEdit::returnPressed, this, [this] {
            const auto litres = typed_->metric();
            if (!litres) return;
            session_.act(bench::event::Blow{*litres, "typed"});
            typed_->set_metric(std::nullopt);
            typed_row_->hide();
            setFocus();
        });
        connect(use_, &QAbstractButton::clicked, this, &LungsPanel::use);
        for (NumberField* f : {gas_, barometer_, measured_}) {
            connect(f, &NumberField::edited, this, &LungsPanel::redraw);
            connect(f->edit(), &QLineEdit::returnPressed, this, &LungsPanel::use);
        }
        connect(equation_, &QComboBox::currentIndexChanged, this, &LungsPanel::redraw);
    }

    void enter() override
    {
        const bench::Visit& v = session_.visit();
        const bench::TankState& tank = bench::tank_of(v);
        session_.say(QStringLiteral("step_down"));
        if (tank.gas_temp_c) gas_->set_metric(tank.gas_temp_c);
        if (tank.barometric_mmhg) barometer_->set_metric(tank.barometric_mmhg);
        if (tank.measured_rv_l) measured_->set_metric(tank.measured_rv_l);
        for (int i = 0; i < equation_->count(); ++i)
            if (equation_->itemData(i).toString().toStdString() == tank.lung_equation) equation_->setCurrentIndex(i);
        blowing_ = false;
        typed_row_->hide();
        typed_->set_metric(std::nullopt);
        choose(tank.lung_route == LungRoute::measured ? 1 : tank.lung_route == LungRoute::age_height ? 2 : 0);
    }
    void on_changed() override
    {
        if (static_cast<int>(bench::tank_of(session_.visit()).blows.size()) != seen_) blowing_ = false;
        seen_ = static_cast<int>(bench::tank_of(session_.visit()).blows.size());
        redraw();
    }
    void on_live() override
    {
        const bench::Live& l = session_.live();
        bool moved = false;
        // what the room says now, until somebody types; what was heard too long ago is shown as such, and not used
        const auto follow = [&](NumberField* field, std::optional<double> value, bench::Channel channel, Measure m) {
            if (field->is_touched() || bench::tank_of(session_.visit()).lungs_done) return;
            field->edit()->setPlaceholderText(old_words(l, channel, m));
            const auto shown = field->peek();
            if (value.has_value() == shown.has_value() && (!value || std::abs(*value - *shown) < 0.05)) return;
            field->set_metric(value);
            moved = true;
        };
        follow(gas_, l.gas_temp_c, bench::Channel::gas_temp, Measure::temperature);
        follow(barometer_, l.barometric_mmhg, bench::Channel::barometer, Measure::none);
        if (moved) redraw();
    }

private:
    QWidget* blow_page()
    {
        auto* page = new QWidget;
        auto* v = new QVBoxLayout(page);
        v->setContentsMargins(0, 0, 0, 0);
        auto* grid = new QGridLayout;
        grid->setHorizontalSpacing(14);
        grid->addWidget(label("small", QStringLiteral("Gas in the spirometer")), 0, 0);
        grid->addWidget(gas_, 0, 1);
        grid->addWidget(label("small", QStringLiteral("Barometer")), 0, 2);
        grid->addWidget(barometer_, 0, 3);
        grid->setColumnStretch(3, 1);
        v->addLayout(grid);
        v->addSpacing(12);
        rows_ = new QGridLayout;
        rows_->setHorizontalSpacing(30);
        v->addLayout(rows_);
        typed_row_ = new QWidget;
        auto* h = new QHBoxLayout(typed_row_);
        h->setContentsMargins(0, 8, 0, 0);
        h->addWidget(label("small", QStringLiteral("Blow read off another spirometer, at room conditions")));
        h->addWidget(typed_, 1);
        typed_row_->hide();
        v->addWidget(typed_row_);
        v->addStretch();
        return page;
    }
    QWidget* measured_page()
    {
        auto* page = new QWidget;
        auto* v = new QVBoxLayout(page);
        v->setContentsMargins(0, 0, 0, 0);
        v->addWidget(
            label("small", QStringLiteral("Residual volume as the gas analyser gave it, at body conditions (BTPS)")));
        v->addWidget(measured_);
        v->addStretch();
        return page;
    }
    QWidget* equation_page()
    {
        auto* page = new QWidget;
        auto* v = new QVBoxLayout(page);
        v->setContentsMargins(0, 0, 0, 0);
        v->addWidget(label("small", QStringLiteral("Equation")));
        equation_->setObjectName(QStringLiteral("lung_equation"));
        equation_->setMaximumWidth(430);
        for (const auto& row : lung::equations())
            equation_->addItem(QString::fromUtf8(row.title), QString::fromLatin1(row.id));
        v->addWidget(equation_);
        v->addStretch();
        return page;
    }
    void choose(int i)
    {
        for (int k = 0; k < 3; ++k) route_[k]->setChecked(k == i);
        pages_->setCurrentIndex(i);
        ask_->setVisible(i == 0);
        out_->setVisible(i == 0);
        type_->setVisible(i == 0);
        redraw();
    }
    LungRoute route() const
    {
        constexpr LungRoute in_order[] = {LungRoute::vital_capacity, LungRoute::measured, LungRoute::age_height};
        return in_order[pages_->currentIndex()];
    }
    bench::event::Lungs by() const
    {
        return {route(), equation_->currentData().toString().toStdString(), gas_->peek(), barometer_->peek(),
            measured_->peek()};
    }

    void show_blows(const bench::TankState& tank, const bench::event::Lungs& by)
    {
        while (QLayoutItem* item = rows_->takeAt(0)) {
            delete item->widget();
            delete item;
        }
        for (std::size_t i = 0; i < tank.blows.size(); ++i) {
            const auto& b = tank.blows[i];
            const int row = static_cast<int>(i);
            const bool best = !b.thrown_out && tank.best_blow_l() == b.volume_l;
            const auto in_the_body = b.in_the_body_l(by.gas_temp_c, by.barometric_mmhg);
            rows_->addWidget(label(b.thrown_out ? "small" : "text", QStringLiteral("blow %1").arg(i + 1)), row, 0);
            rows_->addWidget(
                label(b.thrown_out ? "small" : "number", QStringLiteral("%1 L").arg(b.volume_l, 0, 'f', 2)), row, 1);
            rows_->addWidget(
                label(
                    "small", in_the_body ? QStringLiteral("%1 L in the body").arg(*in_the_body, 0, 'f', 2) : QString()),
                row, 2);
            rows_->addWidget(
                label(best ? "text" : "small", b.thrown_out ? QStringLiteral("thrown out: %1").arg(q(b.reason))
                                               : best       ? QStringLiteral("best, kept")
                                                            : QString()),
                row, 3);
        }
        rows_->setColumnStretch(3, 1);
    }

    void redraw()
    {
        const bench::Visit& v = session_.visit();
        const bench::TankState& tank = bench::tank_of(v);
        const bench::event::Lungs as_typed = by();
        show_blows(tank, as_typed);
        const auto volume = bench::residual_volume(v, as_typed);
        QString text = volume ? QStringLiteral("Residual volume %1 L (± %2)")
                                    .arg(volume->litres, 0, 'f', 2)
                                    .arg(volume->u_l, 0, 'f', 2)
                              : QString();
        bool ready = false;
        const bool blown = route() == LungRoute::vital_capacity;
        use_->set_words(blown ? QStringLiteral("use the best") : QStringLiteral("use it"));
        if (blown) {
            if (volume)
                text +=
                    QStringLiteral(", %1 of the best breath").arg(lung::wilmore_1969_rv(v.subject.sex, 1.0), 0, 'f', 2);
            const int kept = tank.blows_kept();
            ready = kept >= bench::least_blows;
            say(blowing_ ? QStringLiteral("Breathe in all the way, then blow out everything")
                : ready  ? QStringLiteral("Three blows: use the best, or take another")
                         : QStringLiteral("Blow %1 of 3: ask for the largest breath").arg(kept + 1),
                blowing_
                    ? QStringLiteral("Seal the lips, keep pushing. The value comes by itself.")
                    : QStringLiteral(
                          "Nose clip on. The best of at least three counts; room gas is brought to body conditions."));
        } else if (route() == LungRoute::measured) {
            ready = !measured_->is_empty();
            say(QStringLiteral("Type the measured residual volume"),
                QStringLiteral("Gas dilution gives the smallest doubt of the three."));
        } else {
            ready = volume.has_value();
            say(QStringLiteral("Residual volume from age and height"),
                QStringLiteral("The largest doubt of the three. Use it when nothing can be blown."));
        }
        result_->setText(text);
        const bool typing = blown && !typed_row_->isHidden(); // its Enter must not go past the blow being typed
        use_->setEnabled(ready && !typing);
        use_->set_main(ready);
        ask_->set_main(!ready && blown);
        ask_->setEnabled(!blowing_);
        out_->setEnabled(tank.blows_kept() > 0);
    }

    void use()
    {
        if (!use_->isEnabled()) return;
        // what is asked for and cannot be read stays marked in its field
        const bool blown = route() == LungRoute::vital_capacity;
        if (blown && (!gas_->metric() || !barometer_->metric())) return;
        if (route() == LungRoute::measured && !measured_->metric()) return;
        bench::event::Lungs used = by(); // what belongs to the route alone
        if (route() != LungRoute::vital_capacity) used.gas_temp_c = used.barometric_mmhg = std::nullopt;
        if (route() != LungRoute::measured) used.rv_l = std::nullopt;
        session_.act(used);
    }

    NumberField *gas_, *barometer_, *measured_;
    QComboBox* equation_;
    WordButton* route_[3];
    QStackedWidget* pages_;
    QGridLayout* rows_;
    QLabel* result_;
    NumberField* typed_;
    QWidget* typed_row_;
    KeyButton *ask_, *out_, *type_, *use_;
    bool blowing_ = false;
    int seen_ = 0;
};

} // namespace

Panel* make_lungs_panel(work::Session& s) { return new LungsPanel(s); }

} // namespace fusain::desk
