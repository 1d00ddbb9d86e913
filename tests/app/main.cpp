// SPDX-License-Identifier: GPL-3.0-or-later
// One application for all tests of the window, on an offscreen screen of 2560x1440. A warning of Qt fails the test.
#include "pictures/picture.h"
#include "support/support.h"
#include "theme/theme.h"

#include <QtWidgets/QApplication>

namespace {

void noted(QtMsgType type, const QMessageLogContext&, const QString& text) {
    if (type == QtDebugMsg || type == QtInfoMsg) return;
    if (text.startsWith(QStringLiteral("This plugin does not support"))) return;
    ADD_FAILURE() << "Qt said: " << text.toStdString();
}

} // namespace

int main(int argc, char** argv) {
    ::testing::InitGoogleTest(&argc, argv);
    const impasto::support::TemporaryFolder home;
    const auto screen = home.write(
        "screen.json",
        R"({"screens":[{"name":"one","x":0,"y":0,"width":2560,"height":1440,"logicalDpi":96,"logicalBaseDpi":96,"dpr":1}]})");
    qputenv("QT_QPA_PLATFORM", QByteArray("offscreen:configfile=") + screen.c_str());
    qputenv("QT_ACCESSIBILITY", "0");
    for (const char* name : {"HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_RUNTIME_DIR"})
        qputenv(name, home.root().c_str());
    std::filesystem::permissions(home.root(), std::filesystem::perms::owner_all);
    QApplication app(argc, argv);
    impasto::app::setUpApplication(impasto::app::gesso());
    impasto::app::installAccessibility();
    qInstallMessageHandler(noted);
    return RUN_ALL_TESTS();
}
