// SPDX-License-Identifier: GPL-3.0-or-later
#include "desk/clients/client_form.h"

#include "work/lab/lab.h"

#include <QDate>
#include <QVBoxLayout>

namespace fusain::desk {

namespace {

/// Standing facts: ids as in data/protocols/questions.json, words as they stand in a record.
constexpr std::pair<const char*, const char*> standing_facts[] = {
    {"powered_implant", "powered implant"},
    {"metal_implant", "metal implant"},
    {"prosthesis", "prosthesis, amputation"},
    {"pregnancy_possible", "pregnancy possible"},
    {"water_medicine", "medicine that moves water"},
    {"eating_disorder", "eating disorder, or a worry"},
    {"kidney_disease", "kidney disease"},
    {"sugar_medicine", "insulin, sugar medicine"},
    {"breathing_illness", "breathing illness"},
    {"unstable_heart_or_lung", "unstable heart or lung"},
    {"seizure_or_fainting", "seizures, fainting"},
    {"closed_spaces", "fear of closed spaces"},
    {"fear_of_water", "fear of water"},
    {"uneasy_under_water", "not at ease under water"},
};

} // namespace

ClientForm::ClientForm(std::shared_ptr<records::Store> store, QWidget* parent)
    : QWidget(parent), store_(std::move(store)), heading_(label("title")), sex_(new ChoiceBox),
      height_(new NumberField("height_cm", Measure::height)), general_(label("trouble")), doubles_(label("trouble"))
{
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(34, 22, 24, 14);
    column->addWidget(heading_);
    column->addSpacing(4);
    auto* inside = new QWidget;
    auto* all = new QVBoxLayout(inside);
    all->setContentsMargins(0, 0, 14, 0);
    sides_ = new QBoxLayout(QBoxLayout::LeftToRight);
    sides_->setSpacing(26);
    QVBoxLayout* half[2] = {new QVBoxLayout, new QVBoxLayout};
    for (QVBoxLayout* h : half) {
        h->setSpacing(2);
        sides_->addLayout(h, 1);
    }
    all->addLayout(sides_);
    const auto field = [&](int side, const char* title, const char* name, QWidget* input,
                           const char* object = nullptr) {
        input->setObjectName(QString::fromLatin1(object ? object : name));
        troubles_[name] = label("trouble");
        troubles_[name]->hide();
        for (QWidget* w : {static_cast<QWidget*>(label("small", QString::fromUtf8(title))), input,
                 static_cast<QWidget*>(troubles_[name])})
            half[side]->addWidget(w);
    };
    const auto line = [&](int side, const char* title, const char* name, QLineEdit*& edit) {
        field(side, title, name, edit = new QLineEdit);
    };
    sex_->addItem(QStringLiteral("choose"), QString());
    sex_->addItem(QStringLiteral("female"), QStringLiteral("female"));
    sex_->addItem(QStringLiteral("male"), QStringLiteral("male"));
    line(0, "Given name", "given_name", given_);
    line(0, "Family name", "family_name", family_);
    line(0, "Date of birth", "birth_date", birth_);
    field(0, "Sex used by the equations", "sex", sex_);
    field(0, "Height, measured", "height_cm", height_, "height_box");
    line(0, "Role", "role", role_);
    line(0, "Phone", "phone", phone_);
    line(0, "E-mail", "email", email_);
    line(1, "Consent signed on", "consent_on", consent_);
    line(1, "Guardian (under 18)", "guardian", guardian_);
    line(1, "Guardian's consent signed on", "guardian_consent_on", guardian_consent_);
    line(1, "Conditions", "conditions", conditions_);
    line(1, "Medicines that move water", "medicines", medicines_);
    line(1, "Sport", "sport", sport_);
    line(1, "Goal", "goal", goal_);
    line(1, "Note", "note", note_);
    for (QLineEdit* day : {birth_, consent_, guardian_consent_})
        day->setPlaceholderText(QStringLiteral("year-month-day"));
    for (QVBoxLayout* h : half) h->addStretch();
    all->addWidget(label("small", QStringLiteral("Standing facts; they answer the screening beforehand")));
    auto* facts = new WrappedRow;
    for (const auto& [id, words] : standing_facts) {
        auto* b = toggle(QString::fromUtf8(words));
        b->setObjectName(QStringLiteral("fact_") + QString::fromLatin1(id));
        facts_.emplace_back(QString::fromLatin1(id), b);
        facts->addWidget(b);
    }
    all->addLayout(facts);
    all->addStretch();
    column->addWidget(new Scroll(inside), 1);
    doubles_->setObjectName(QStringLiteral("doubles"));
    doubles_->hide();
    column->addWidget(doubles_);
    general_->hide();
    column->addWidget(general_);
    column->addSpacing(6);
    auto* keys = new WrappedRow;
    save_key_ = new KeyButton(QKeySequence(QStringLiteral("Ctrl+S")), QStringLiteral("Ctrl S"), QStringLiteral("keep"));
    save_key_->setObjectName(QStringLiteral("save_client"));
    save_key_->set_main(true);
    open_double_ = new KeyButton(
        QKeySequence(QStringLiteral("Ctrl+R")), QStringLiteral("Ctrl R"), QStringLiteral("open that record"));
    open_double_->setObjectName(QStringLiteral("open_double"));
    open_double_->hide();
    auto* cancel =
        new KeyButton(QKeySequence(Qt::Key_Escape), QStringLiteral("Esc"), QStringLiteral("leave without keeping"));
    cancel->setObjectName(QStringLiteral("leave_client"));
    keys->addWidget(save_key_);
    keys->addWidget(open_double_);
    keys->addWidget(cancel);
    column->addLayout(keys);
    connect(save_key_, &QAbstractButton::clicked, this, &ClientForm::save);
    connect(cancel, &QAbstractButton::clicked, this, &ClientForm::cancelled);
    connect(open_double_, &QAbstractButton::clicked, this, [this] { emit open_record(double_id_); });
    for (QLineEdit* e : {given_, family_, birth_, phone_, email_}) {
        connect(e, &QLineEdit::editingFinished, this, &ClientForm::look_for_doubles);
        connect(e, &QLineEdit::textEdited, this, [this] { warned_ = false; });
    }
}

void ClientForm::resizeEvent(QResizeEvent*)
{
    sides_->setDirection(width() < Theme::get().px(620) ? QBoxLayout::TopToBottom : QBoxLayout::LeftToRight);
}

void ClientForm::edit(const records::Client& c)
{
    client_ = c;
    warned_ = false;
    heading_->setText(
        c.id ? QStringLiteral("Change the record of %1").arg(c.full_name()) : QStringLiteral("Add a client"));
    for (const auto& [edit, text] :
        {std::pair{given_, c.given_name}, std::pair{family_, c.family_name}, std::pair{birth_, c.birth_date},
            std::pair{role_, c.role}, std::pair{phone_, c.phone}, std::pair{email_, c.email}, std::pair{note_, c.note},
            std::pair{consent_, c.consent_on}, std::pair{guardian_, c.guardian},
            std::pair{guardian_consent_, c.guardian_consent_on}, std::pair{conditions_, c.conditions},
            std::pair{medicines_, c.medicines}, std::pair{sport_, c.sport}, std::pair{goal_, c.goal}}) {
        edit->setText(text);
        edit->setCursorPosition(0);
    }
    sex_->setCurrentIndex(c.id ? (c.sex == Sex::female ? 1 : 2) : 0);
    height_->set_metric(c.height_cm > 0 ? std::optional<double>(c.height_cm) : std::nullopt);
    for (auto& [id, b] : facts_) b->setChecked(c.facts.contains(id));
    for (auto& [field, trouble] : troubles_) trouble->hide();
    for (QWidget* w :
        {static_cast<QWidget*>(general_), static_cast<QWidget*>(doubles_), static_cast<QWidget*>(open_double_)})
        w->hide();
    save_key_->set_words(QStringLiteral("keep"));
    given_->setFocus();
}

records::Client ClientForm::typed() const
{
    records::Client c = client_;
    for (const auto& [edit, text] :
        {std::pair{given_, &c.given_name}, std::pair{family_, &c.family_name}, std::pair{birth_, &c.birth_date},
            std::pair{role_, &c.role}, std::pair{phone_, &c.phone}, std::pair{email_, &c.email},
            std::pair{note_, &c.note}, std::pair{consent_, &c.consent_on}, std::pair{guardian_, &c.guardian},
            std::pair{guardian_consent_, &c.guardian_consent_on}, std::pair{conditions_, &c.conditions},
            std::pair{medicines_, &c.medicines}, std::pair{sport_, &c.sport}, std::pair{goal_, &c.goal}})
        *text = edit->text().trimmed();
    c.sex = sex_->currentData().toString() == "male" ? Sex::male : Sex::female;
    // facts the form does not know stay as they are
    for (const auto& [id, b] : facts_) {
        if (b->isChecked() && !c.facts.contains(id)) c.facts << id;
        if (!b->isChecked()) c.facts.removeAll(id);
    }
    return c;
}

void ClientForm::look_for_doubles()
{
    if (client_.id) return;
    const auto found = records::likely_same(*store_, typed());
    double_id_ = found.empty() ? 0 : found.front().client.id;
    doubles_->setVisible(!found.empty());
    open_double_->setVisible(!found.empty());
    if (found.empty()) return save_key_->set_words(QStringLiteral("keep"));
    QStringList words;
    for (std::size_t i = 0; i < found.size() && i < 3; ++i)
        words << QStringLiteral("%1, number %2 (%3)")
                     .arg(found[i].client.full_name(), found[i].client.number, found[i].why);
    doubles_->setText(QStringLiteral("◆ May already be there: %1.").arg(words.join(QStringLiteral("; "))));
}

void ClientForm::save()
{
    for (auto& [field, trouble] : troubles_) trouble->hide();
    general_->hide();
    records::Client c = typed();
    const auto height = height_->metric();
    c.height_cm = height.value_or(170); // its own message is shown at the field
    Messages bad = records::check(c, work::clock_now().date().toString(Qt::ISODate));
    if (sex_->currentData().toString().isEmpty())
        bad.push_back({"missing_field", Level::error, "sex", "Choose which sex the equations use."});
    for (const Message& m : bad) {
        const auto at = troubles_.find(m.field);
        if (at == troubles_.end()) continue;
        at->second->setText(q(m.text));
        at->second->show();
    }
    if (!bad.empty() || !height) return;
    look_for_doubles();
    if (double_id_ && !client_.id && !warned_) {
        warned_ = true;
        save_key_->set_words(QStringLiteral("keep: another person"));
        return;
    }
    const auto stored = store_->save(c);
    if (!stored) {
        general_->setText(q(stored.messages().front().text));
        general_->show();
        return;
    }
    emit saved(stored->id);
}

} // namespace fusain::desk
