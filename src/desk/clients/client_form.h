// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/parts/parts.h"
#include "records/people/people.h"

namespace fusain::desk {

/// Adding or changing a client: every field is checked, what is wrong is said at the field, the rest stays. A record
/// that may be the same person is shown before a second one is made.
class ClientForm : public QWidget {
    Q_OBJECT
public:
    ClientForm(std::shared_ptr<records::Store> store, QWidget* parent = nullptr);
    void edit(const records::Client& client); ///< id 0: a new one

signals:
    void saved(long client_id);
    void cancelled();
    void open_record(long client_id);

protected:
    void resizeEvent(QResizeEvent*) override; ///< one column where two have no room

private:
    QBoxLayout* sides_;
    records::Client typed() const;
    void look_for_doubles();
    void save();
    std::shared_ptr<records::Store> store_;
    records::Client client_;
    QLabel* heading_;
    QLineEdit *given_, *family_, *birth_, *role_, *phone_, *email_, *note_, *consent_, *guardian_, *guardian_consent_,
        *conditions_, *medicines_, *sport_, *goal_;
    QComboBox* sex_;
    NumberField* height_;
    std::map<std::string, QLabel*> troubles_;
    std::vector<std::pair<QString, WordButton*>> facts_;
    QLabel *general_, *doubles_;
    KeyButton *save_key_, *open_double_;
    long double_id_ = 0;
    bool warned_ = false;
};

} // namespace fusain::desk
