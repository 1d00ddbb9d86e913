// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/harness.h"

#include <QtCore/QMimeData>
#include <QtCore/QUrl>
#include <QtGui/QDropEvent>
#include <QtTest/QTest>
#include <QtWidgets/QApplication>

namespace impasto::app {
namespace {

StudioOptions optionsIn(const support::TemporaryFolder& folder, const logs::ReadOptions& reading) {
    StudioOptions o;
    o.reading = reading;
    o.logbook = folder.path("logbook.impasto");
    o.dataDir = support::dataFile("");
    o.home = folder.root();
    o.ids = systemIdSource();
    o.clock = support::fixedClock();
    o.speed = 0;
    // A machine is read where a test has put one; else it is typed.
    if (std::filesystem::exists(folder.path("system"))) o.systemRoot = folder.path("system");
    return o;
}

} // namespace

Driven::Driven(const support::TemporaryFolder& folder, bool latest, const logs::ReadOptions& reading)
    : studio(optionsIn(folder, reading)) {
    if (latest)
        studio.openLatest();
    else
        studio.newSession(17);
    window = std::make_unique<Window>(studio, gesso());
    window->show();
    EXPECT_TRUE(QTest::qWaitForWindowActive(window.get()));
    rest();
}

void Driven::rest() {
    ASSERT_TRUE(waitIdle(studio));
}

void Driven::key(int key, Qt::KeyboardModifiers modifiers) {
    QWidget* focus = QApplication::focusWidget();
    QTest::keyClick(focus == nullptr ? window.get() : focus, static_cast<Qt::Key>(key), modifiers);
    rest();
}

void Driven::click(Picture* picture, const QString& id) {
    const Hot* hot = picture->drawing().hot(id);
    ASSERT_NE(hot, nullptr) << id.toStdString();
    QTest::mouseClick(picture, Qt::LeftButton, {}, hot->rect.center().toPoint());
    rest();
}

void Driven::drop(const std::vector<std::filesystem::path>& files) {
    QMimeData data;
    QList<QUrl> urls;
    for (const auto& file : files) urls.append(QUrl::fromLocalFile(QString::fromStdString(file.string())));
    data.setUrls(urls);
    QDragEnterEvent enter(QPoint(200, 200), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(window.get(), &enter);
    EXPECT_TRUE(enter.isAccepted());
    QDropEvent event(QPointF(200, 200), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(window.get(), &event);
    rest();
}

bool Driven::spaceUntil(path::Action action, int presses) {
    for (int i = 0; i < presses; ++i) {
        if (view().step.action == action) return true;
        key(Qt::Key_Space);
        if (!view().message.isEmpty()) ADD_FAILURE() << view().message.toStdString();
    }
    return view().step.action == action;
}

std::string frameLog(const std::vector<double>& frameMs) {
    std::string out = "frame_ms\n";
    for (const double v : frameMs) out += fmt::format("{:.4f}\n", v);
    return out;
}

} // namespace impasto::app
