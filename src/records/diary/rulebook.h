// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "core/before/house.h"
#include "records/store/store.h"

/// The lab's own protocols and house rules: numbered versions that never change, the newest counts; the shipped ones
/// stand until the lab has written its own.
namespace fusain::records {

struct RuleVersion {
    int version = 0;
    QString at, who, body;
};

class Rulebook {
public:
    /// `shipped`: the book and the house rules that come with the program.
    Rulebook(std::shared_ptr<Store> store, protocol::Book shipped, std::vector<house::Rule> house);

    /// Questions as shipped, each protocol in its newest version.
    protocol::Book book() const;
    /// Version `version` of a method's protocol, for a visit that was made under it.
    std::optional<protocol::Protocol> protocol(Method method, int version) const;
    /// Stores it as the next version. Refuses what protocol::check refuses.
    Outcome<protocol::Protocol> keep(protocol::Protocol protocol, const QString& who);
    /// A file from outside; refused with file, line and reason, and the last good one stays.
    Outcome<protocol::Protocol> take_file(const QString& path, const QString& who);

    const std::vector<house::Rule>& house_table() const { return house_; }
    protocol::HouseRules house() const;
    int house_version() const;
    [[nodiscard]] std::optional<Message> choose(const std::string& rule, const std::string& option, const QString& who);
    std::vector<RuleVersion> history(const QString& kind) const; ///< newest first; "house" or a method's word

private:
    std::shared_ptr<Store> store_;
    protocol::Book shipped_;
    std::vector<house::Rule> house_;
};

} // namespace fusain::records
