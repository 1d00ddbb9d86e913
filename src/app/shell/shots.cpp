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
    const auto until = [&](path::Action action) {
        for (int i = 0; i < 12 && studio.view().step.action != action; ++i) {
            studio.primary();
            if (!waitIdle(studio)) return false;
        }
        return studio.view().step.action == action;
    };
    studio.newSession(1);
    if (!shot(QStringLiteral("start"))) return false;
    studio.startPractice();
    if (!waitIdle(studio)) return false;
    for (int action = 0; action <= static_cast<int>(path::Action::Done); ++action)
        for (const auto& station : stations())
            for (const auto& wanted : station.shots) {
                if (wanted.before != static_cast<path::Action>(action)) continue;
                if (!until(wanted.before)) return false;
                studio.go(station.id);
                if (wanted.prepare != nullptr) wanted.prepare(studio);
                if (!shot(QLatin1String(wanted.name))) return false;
            }
    return true;
}

} // namespace impasto::app
