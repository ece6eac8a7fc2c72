// SPDX-License-Identifier: GPL-3.0-or-later
#include "work/reading/own_group.h"

namespace fusain::work {

OwnGroup::OwnGroup(const QString& lab_file) : file_(lab_file), worker_(new QObject)
{
    thread_.setObjectName(QStringLiteral("own group"));
    worker_->moveToThread(&thread_);
    connect(&thread_, &QThread::finished, worker_, &QObject::deleteLater);
    thread_.start(QThread::LowPriority);
}

OwnGroup::~OwnGroup()
{
    stop_ = true;
    thread_.quit();
    thread_.wait();
}

void OwnGroup::look_again()
{
    QMetaObject::invokeMethod(worker_, [this] { load(); });
}

void OwnGroup::load()
{
    auto rows = records::newest_results(file_, stop_);
    if (stop_) return;
    {
        const std::lock_guard lock(mutex_);
        rows_ = std::move(rows);
        read_ = true;
    }
    emit looked();
}

std::optional<group::Standing> OwnGroup::standing(const Whom& whom, const Quantity& q, double value) const
{
    using Row = records::NewestResult;
    const auto kept = &q == &quantity::fat_percent ? &Row::fat_percent
                      : &q == &quantity::ffmi      ? &Row::ffmi
                      : &q == &quantity::fmi       ? &Row::fmi
                                                   : nullptr;
    if (!kept || !read_) return std::nullopt;
    std::vector<double> values;
    {
        const std::lock_guard lock(mutex_);
        for (const Row& row : rows_)
            if (row.client_id != whom.but_client && row.sex == whom.sex && row.method == whom.method && row.*kept &&
                (whom.role.isEmpty() || row.role == whom.role))
                values.push_back(*(row.*kept));
    }
    return group::standing(values, value);
}

} // namespace fusain::work
