// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/shots.h"

#include <QtCore/QCommandLineParser>
#include <QtCore/QDir>
#include <QtCore/QSocketNotifier>
#include <QtCore/QStandardPaths>
#include <QtGui/QScreen>
#include <QtGui/QWindow>
#include <QtWidgets/QApplication>
#include <cmath>
#include <csignal>
#include <cstdio>
#include <fcntl.h>
#include <unistd.h>

namespace {

using namespace impasto;
using namespace impasto::app;

std::filesystem::path pathOf(const QString& text) {
    return text.toStdString();
}

QString dataHome() {
    const QString home = qEnvironmentVariable("XDG_DATA_HOME");
    return (home.isEmpty() ? QDir::homePath() + QStringLiteral("/.local/share") : home) + QStringLiteral("/impasto");
}

QString cacheHome() {
    const QString home = qEnvironmentVariable("XDG_CACHE_HOME");
    return (home.isEmpty() ? QDir::homePath() + QStringLiteral("/.cache") : home) + QStringLiteral("/impasto");
}

bool hasDisplay() {
    return !qEnvironmentVariableIsEmpty("DISPLAY") || !qEnvironmentVariableIsEmpty("WAYLAND_DISPLAY") ||
           !qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM");
}

std::filesystem::path dataDir() {
    const QString said = qEnvironmentVariable("IMPASTO_DATA");
    return said.isEmpty() ? std::filesystem::path(IMPASTO_DATA_DIR) : pathOf(said);
}

void addOptions(QCommandLineParser& parser) {
    parser.setApplicationDescription(say("Tunes one game on one machine."));
    parser.addHelpOption();
    parser.addVersionOption();
    parser.addPositionalArgument(QStringLiteral("logs"), say("Frame logs to open in a new session"),
                                 QStringLiteral("[logs...]"));
    parser.addOption({QStringLiteral("logbook"), say("The logbook to use"), QStringLiteral("FILE")});
    parser.addOption({QStringLiteral("demo"), say("Open the demo, in a logbook of its own")});
    parser.addOption({QStringLiteral("fresh"), say("With --demo: start again before its first run")});
    parser.addOption(
        {QStringLiteral("shots"), say("Walk the demo and write a picture of each station"), QStringLiteral("DIR")});
    parser.addOption({QStringLiteral("theme"), say("light or dark; as it was left otherwise"), QStringLiteral("T"),
                      QStringLiteral("light")});
    parser.addOption({QStringLiteral("size"), say("Size of the window; as it was left otherwise"),
                      QStringLiteral("WxH"), QStringLiteral("1280x800")});
    parser.addOption({QStringLiteral("most-rows"), say("Logs of more rows are refused"), QStringLiteral("N")});
    parser.addOption({QStringLiteral("most-gib"), say("and those that are, or unpack to, more"), QStringLiteral("N")});
    parser.addOption(
        {QStringLiteral("scale"), say("Pixels a unit in pictures"), QStringLiteral("S"), QStringLiteral("1")});
}

int endPipe[2] = {-1, -1};

/// A session that ends, or a person who stops the program, closes the window's work like a press on its corner: what
/// waits is stored.
void endOnSignals() {
    if (::pipe2(endPipe, O_CLOEXEC | O_NONBLOCK) != 0) return;
    auto* asked = new QSocketNotifier(endPipe[0], QSocketNotifier::Read, QCoreApplication::instance());
    QObject::connect(asked, &QSocketNotifier::activated, QCoreApplication::instance(), &QCoreApplication::quit);
    for (const int signal : {SIGTERM, SIGINT, SIGHUP})
        std::signal(signal, [](int) { [[maybe_unused]] const auto told = ::write(endPipe[1], "x", 1); });
}

/// The one that the window is on first.
std::vector<probe::Screen> screensNow() {
    std::vector<probe::Screen> out;
    auto all = QGuiApplication::screens();
    if (auto* window = QGuiApplication::focusWindow()) {
        all.removeAll(window->screen());
        all.prepend(window->screen());
    }
    for (const auto* screen : all) {
        const QSizeF size = QSizeF(screen->size()) * screen->devicePixelRatio();
        out.push_back({screen->name().toStdString(),
                       {static_cast<int>(std::lround(size.width())), static_cast<int>(std::lround(size.height()))},
                       Hertz(screen->refreshRate())});
    }
    return out;
}

/// How much of a log is read, where it is said; nothing where that is no number from one up.
std::optional<logs::ReadOptions> readingIn(const QCommandLineParser& parser) {
    constexpr double gib = 1024.0 * 1024 * 1024, most = 1e15;
    logs::ReadOptions out;
    for (const auto& [name, limit, unit] : {std::tuple(QStringLiteral("most-rows"), &out.mostRows, 1.0),
                                            {QStringLiteral("most-gib"), &out.mostBytes, gib}}) {
        if (!parser.isSet(name)) continue;
        const double said = parser.value(name).toDouble() * unit;
        if (!(said >= 1 && said <= most)) return std::nullopt;
        *limit = static_cast<std::size_t>(said);
    }
    return out;
}

/// The demo, a new session with the logs, or what was open last.
void begin(Studio& studio, bool freshDemo, const QStringList& files) {
    std::vector<std::filesystem::path> logs;
    for (const auto& file : files) logs.push_back(pathOf(file));
    if (freshDemo) {
        studio.newSession(1);
        studio.startPractice();
    } else if (!logs.empty()) {
        studio.newSession(1);
    } else {
        studio.openLatest();
    }
    if (!logs.empty()) studio.importLogs(logs);
}

int shots(const QCommandLineParser& parser, const Theme& theme, QSize size) {
    StudioOptions options;
    options.dataDir = dataDir();
    options.ids = seededIdSource(1);
    options.clock = [] { return std::chrono::sys_seconds(std::chrono::seconds(1780000000)); };
    options.speed = 0;
    Studio studio(options);
    studio.newSession(1);
    Window window(studio, theme);
    window.resize(size);
    window.show();
    const double scale = std::clamp(parser.value(QStringLiteral("scale")).toDouble(), 0.5, 4.0);
    return takeShots(studio, window, parser.value(QStringLiteral("shots")), scale) ? 0 : 1;
}

} // namespace

int main(int argc, char** argv) {
    // The platform is chosen before the application object reads its arguments.
    const bool noWindow = std::any_of(argv + 1, argv + argc, [](std::string_view arg) {
        return arg.starts_with("--shots") || arg == "--help" || arg == "-h" || arg == "--version" || arg == "-v";
    });
    if (noWindow && qEnvironmentVariableIsEmpty("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
    if (!hasDisplay()) {
        std::fputs("There is no display. Start it in a desktop session, or with a virtual one: xvfb-run -a impasto\n",
                   stderr);
        return 2;
    }
    QApplication app(argc, argv);
    QApplication::setApplicationName(QStringLiteral("impasto"));
    QApplication::setApplicationVersion(QStringLiteral(IMPASTO_VERSION));
    QCommandLineParser parser;
    addOptions(parser);
    if (!parser.parse(QApplication::arguments())) {
        std::fputs(qPrintable(parser.errorText() + QLatin1Char('\n')), stderr);
        return 2;
    }
    if (parser.isSet(QStringLiteral("help"))) parser.showHelp(0);
    if (parser.isSet(QStringLiteral("version"))) parser.showVersion();
    const auto size = display::parseResolution(parser.value(QStringLiteral("size")).toStdString());
    const QString themeName = parser.value(QStringLiteral("theme"));
    if (!size || (themeName != QStringLiteral("light") && themeName != QStringLiteral("dark"))) {
        std::fputs("--size wants WxH, --theme wants light or dark\n", stderr);
        return 2;
    }
    const auto reading = readingIn(parser);
    if (!reading) {
        std::fputs("--most-rows and --most-gib want a number\n", stderr);
        return 2;
    }
    const Theme theme = themeName == QStringLiteral("dark") ? umber() : gesso();
    setUpApplication(theme);
    installAccessibility();
    const QSize windowSize(size->widthPx, size->heightPx);
    if (parser.isSet(QStringLiteral("shots"))) return shots(parser, theme, windowSize);

    const bool demo = parser.isSet(QStringLiteral("demo"));
    StudioOptions options;
    options.dataDir = dataDir();
    options.logbook =
        pathOf(parser.isSet(QStringLiteral("logbook"))
                   ? parser.value(QStringLiteral("logbook"))
                   : dataHome() + (demo ? QStringLiteral("/demo.impasto") : QStringLiteral("/logbook.impasto")));
    options.systemRoot = "/";
    options.keptResults = pathOf(cacheHome() + QStringLiteral("/results"));
    options.screens = screensNow;
    options.reading = *reading;
    const bool fresh = demo && (parser.isSet(QStringLiteral("fresh")) || !std::filesystem::exists(options.logbook));
    Studio studio(options);
    begin(studio, fresh, parser.positionalArguments());
    Window window(studio, theme);
    window.resize(windowSize);
    window.remember(pathOf(dataHome() + QStringLiteral("/window.ini")));
    if (parser.isSet(QStringLiteral("size"))) window.resize(windowSize);
    if (parser.isSet(QStringLiteral("theme"))) window.setTheme(theme);
    window.show();
    endOnSignals();
    return QApplication::exec();
}
