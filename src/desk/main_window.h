// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once
#include "desk/bench_page.h"
#include "desk/clients_page.h"
#include "desk/result_page.h"

#include <QMainWindow>

namespace fusain::desk {

/// The shell: rooms along the top, and only those that have something in them now.
class MainWindow : public QMainWindow {
    Q_OBJECT
public:
    MainWindow(std::shared_ptr<records::Store> store, const QString& port);
    Session& session() { return session_; }
    /// A strip along the bottom, for the demo.
    void add_strip(QWidget* strip);
    void show_clients();
    void show_bench();
    void show_result();
    /// Something went wrong that the technician must know; stays until the next success.
    void say_trouble(const QString& text);

protected:
    void resizeEvent(QResizeEvent*) override;

private:
    void start_visit(long client_id);
    void open_visit(long visit_id);
    void show_rooms();
    QString technician();
    std::shared_ptr<records::Store> store_;
    Session session_;
    QVBoxLayout* column_;
    QStackedWidget* rooms_;
    ClientsPage* clients_;
    BenchPage* bench_;
    ResultPage* result_;
    WordButton *to_clients_, *to_bench_, *to_result_;
    QLabel *status_, *trouble_;
    QLineEdit* technician_;
};

} // namespace fusain::desk
