// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "records/store/store.h"

#include <gtest/gtest.h>

#include <QCoreApplication>
#include <QDir>
#include <QFile>
#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QVariant>

/// A lab file of its own for each test, and a way past the Store.
namespace fusain::records {

inline struct App {
    App()
    {
        static int argc = 1;
        static char name[] = "test";
        static char* argv[] = {name, nullptr};
        static QCoreApplication app(argc, argv);
    }
} app_for_plugins;

struct Lab {
    QTemporaryDir dir;
    QString file() const { return dir.path() + "/lab.fusain"; }
    std::shared_ptr<Store> open() const
    {
        auto s = Store::open(file());
        EXPECT_TRUE(s) << (s ? "" : s.messages().front().text);
        return s ? *s : nullptr;
    }
};

/// Raw SQL on the file, past the Store.
inline bool sql(const QString& file, const QStringList& statements, QVariant* first = nullptr)
{
    bool ok = true;
    {
        QSqlDatabase db = QSqlDatabase::addDatabase("QSQLITE", "raw");
        db.setDatabaseName(file);
        ok = db.open();
        QSqlQuery q(db);
        for (const QString& s : statements) ok = ok && q.exec(s);
        if (first && q.next()) *first = q.value(0);
        q.finish();
        db.close();
    }
    QSqlDatabase::removeDatabase("raw");
    return ok;
}

inline QByteArray bytes(const QString& file)
{
    QFile f(file);
    EXPECT_TRUE(f.open(QIODevice::ReadOnly));
    return f.readAll();
}

} // namespace fusain::records
