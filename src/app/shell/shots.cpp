// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/shots.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QDir>
#include <QtCore/QElapsedTimer>
#include <QtCore/QThread>
#include <QtGui/QPainter>
#include <QtGui/QPixmap>

namespace impasto::app {

bool waitIdle(const Studio& studio) {
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < 120000) {
        QCoreApplication::processEvents(QEventLoop::AllEvents, 20);
        if (studio.idle()) {
            // What a worker posted last is still on its way.
            QCoreApplication::processEvents();
            if (studio.idle()) return true;
        }
        QThread::msleep(1);
    }
    return false;
}

bool takeShots(Studio& studio, Window& window, const QString& folder, double scale) {
    if (!QDir().mkpath(folder)) return false;
    int number = 1;
    const auto shot = [&](const QString& name) {
        if (!waitIdle(studio)) return false;
        QImage image((QSizeF(window.size()) * scale).toSize(), QImage::Format_RGB32);
        image.setDevicePixelRatio(scale);
        QPainter painter(&image);
        window.render(&painter);
        painter.end();
        return image.save(QStringLiteral("%1/%2-%3.png").arg(folder).arg(number++, 2, 10, QLatin1Char('0')).arg(name));
    };
    const auto step = [&] {
        studio.primary();
        return waitIdle(studio);
    };
    const auto until = [&](session::Action action) {
        for (int i = 0; i < 12 && studio.view().step.action != action; ++i)
            if (!step()) return false;
        return studio.view().step.action == action;
    };
    studio.newSession(1);
    if (!shot(QStringLiteral("start"))) return false;
    studio.startPractice();
    if (!waitIdle(studio)) return false;
    studio.go(Station::Bench);
    if (!shot(QStringLiteral("bench"))) return false;
    studio.go(Station::Brief);
    if (!shot(QStringLiteral("brief"))) return false;
    if (!until(session::Action::RecordCosts)) return false;
    studio.go(Station::Runs);
    if (!shot(QStringLiteral("runs"))) return false;
    studio.go(Station::Limits);
    if (!shot(QStringLiteral("limits"))) return false;
    if (!until(session::Action::AcceptChoice)) return false;
    studio.go(Station::Layers);
    if (!shot(QStringLiteral("layers"))) return false;
    studio.activate(QStringLiteral("open.shadows"));
    if (!shot(QStringLiteral("levels"))) return false;
    if (!until(session::Action::ChooseCap)) return false;
    studio.go(Station::Pace);
    studio.nextHitch();
    if (!shot(QStringLiteral("pace"))) return false;
    if (!until(session::Action::KeepResult)) return false;
    studio.go(Station::Proof);
    if (!shot(QStringLiteral("proof"))) return false;
    if (!step() || !shot(QStringLiteral("logbook"))) return false;
    studio.go(Station::Runs);
    studio.activate(QStringLiteral("picture.2"));
    if (!shot(QStringLiteral("percentiles"))) return false;
    studio.activate(QStringLiteral("picture.0"));
    studio.openReading(studio.dataDir() / "example-log.csv");
    return shot(QStringLiteral("reading"));
}

} // namespace impasto::app
