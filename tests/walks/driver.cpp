// SPDX-License-Identifier: GPL-3.0-or-later
// The real window on a real logbook, led by lines on standard input, and painted where "seen" is said. It prints a line
// for each that it has done, and what the view shows as saved: "saved SESSION REVISION MARK", the mark of the session
// as it was at that revision.
#include "pictures/picture.h"
#include "shell/shots.h"
#include "support/support.h"
#include "theme/theme.h"

#include <QtCore/QRegularExpression>
#include <QtCore/QSocketNotifier>
#include <QtWidgets/QApplication>
#include <csignal>
#include <cstdio>
#include <impasto/logbook/edits_json.h>
#include <iostream>
#include <sstream>
#include <sys/resource.h>
#include <unistd.h>

#include "mark.h"

using namespace impasto;
using namespace impasto::app;

namespace {

class Driver {
  public:
    Driver(const std::filesystem::path& logbook, bool seen) : m_file(logbook), m_studio(optionsFor(logbook)) {
        m_studio.openLatest();
        m_window = std::make_unique<Window>(m_studio, gesso());
        m_window->askUnsaved = [this](const QString&) { return m_answer; };
        m_window->askMany = [](std::size_t) { return true; };
        m_window->setUpdatesEnabled(seen);
        m_window->show();
        waitIdle(m_studio);
        note();
    }

    void line(const std::string& text) {
        std::istringstream in(text);
        std::string word, rest;
        in >> word;
        std::getline(in >> std::ws, rest);
        perform(word, rest);
        QApplication::processEvents();
        tell();
        std::printf("done\n");
        std::fflush(stdout);
        if (!m_window->isVisible()) QApplication::quit();
    }
    /// What is shown as saved, when it changed.
    void tell() {
        note();
        const QString saved = m_studio.view().notSaved.isEmpty() ? m_studio.view().saved : QString();
        if (saved == m_told) return;
        m_told = saved;
        static const QRegularExpression number(QStringLiteral("change (\\d+)"));
        const auto match = number.match(saved);
        if (!match.hasMatch()) return;
        const auto id = m_studio.view().session.id;
        const auto revision = match.captured(1).toULongLong();
        const auto mark = m_marks.find({id, revision});
        std::printf("saved %s %llu %llu\n", id.hex().c_str(), revision,
                    mark == m_marks.end() ? 0ULL : static_cast<unsigned long long>(mark->second));
        std::fflush(stdout);
    }

  private:
    static StudioOptions optionsFor(const std::filesystem::path& logbook) {
        StudioOptions o;
        o.logbook = logbook;
        o.dataDir = support::dataFile("");
        o.ids = systemIdSource();
        o.clock = support::fixedClock();
        o.speed = 0;
        return o;
    }

    /// Marks the session as it stands. Where what was not saved has been discarded, its numbers are given anew.
    void note() {
        const auto& session = m_studio.view().session;
        if (session.facts == m_noted.facts && session.edits == m_noted.edits && session.id == m_noted.id) return;
        if (session.id == m_noted.id ? session.revision <= m_noted.revision
                                     : m_marks.contains({session.id, session.revision}))
            std::erase_if(m_marks, [&session](const auto& mark) { return mark.first.first == session.id; });
        m_marks[{session.id, session.revision}] = support::markOf(session);
        m_noted = session;
    }

    void perform(const std::string& word, const std::string& rest) {
        const bool open = m_studio.open() != nullptr;
        if (word == "rest" && !m_full) waitIdle(m_studio); // it tries again for as long as there is no room
        if (word == "answer")
            m_answer = rest == "discard" ? Window::Unsaved::Discard
                       : rest == "retry" ? Window::Unsaved::Retry
                                         : Window::Unsaved::Stay;
        if (word == "new") m_studio.newSession(std::stoull(rest));
        if (word == "close") m_window->close();
        if (word == "full") limitFiles(std::filesystem::file_size(m_file) + 2000);
        if (word == "room") limitFiles(RLIM_INFINITY);
        if (word == "drop") m_studio.importLogs({rest});
        const auto& heads = m_studio.view().logbookSessions;
        if (word == "open" && !heads.empty()) m_studio.openSession(heads[std::stoull(rest) % heads.size()].id);
        if (!open) return;
        if (word == "note") m_studio.apply(document::writeNote(rest));
        if (word == "target") m_studio.apply(document::setTarget(Fps(std::stod(rest))));
        if (word == "practice" && m_studio.view().empty()) m_studio.startPractice();
        if (word == "undo") m_studio.undo();
        if (word == "redo") m_studio.redo();
        if (word == "press") m_studio.primary();
        if (word == "delete" && !heads.empty() && m_studio.open()->writer)
            m_studio.open()->writer->postDeleted(heads[std::stoull(rest) % heads.size()].id, heads.size() % 2 == 0);
    }

    void limitFiles(rlim_t bytes) {
        m_full = bytes != RLIM_INFINITY;
        rlimit limit{};
        ::getrlimit(RLIMIT_FSIZE, &limit);
        limit.rlim_cur = std::min<rlim_t>(bytes, limit.rlim_max);
        ::setrlimit(RLIMIT_FSIZE, &limit);
    }

    std::filesystem::path m_file;
    bool m_full = false; // the disk
    Studio m_studio;
    std::unique_ptr<Window> m_window;
    Window::Unsaved m_answer = Window::Unsaved::Stay;
    document::Session m_noted;
    std::map<std::pair<SessionId, std::uint64_t>, std::uint64_t> m_marks;
    QString m_told;
};

} // namespace

int main(int argc, char** argv) {
    if (argc != 3) return 2;
    std::signal(SIGXFSZ, SIG_IGN);
    const support::TemporaryFolder home;
    for (const char* name : {"HOME", "XDG_DATA_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_RUNTIME_DIR"})
        qputenv(name, home.root().c_str());
    std::filesystem::permissions(home.root(), std::filesystem::perms::owner_all);
    qputenv("QT_QPA_PLATFORM", "offscreen");
    qputenv("QT_ACCESSIBILITY", "0");
    QApplication app(argc, argv);
    setUpApplication(gesso());
    Driver driver(argv[1], std::string_view(argv[2]) == "seen");
    std::string waiting;
    QSocketNotifier input(STDIN_FILENO, QSocketNotifier::Read);
    QObject::connect(&input, &QSocketNotifier::activated, [&] {
        std::array<char, 4096> block{};
        const ssize_t n = ::read(STDIN_FILENO, block.data(), block.size());
        if (n <= 0) return QApplication::quit();
        waiting.append(block.data(), static_cast<std::size_t>(n));
        for (auto end = waiting.find('\n'); end != std::string::npos; end = waiting.find('\n')) {
            const std::string line = waiting.substr(0, end);
            waiting.erase(0, end + 1);
            driver.line(line);
        }
    });
    QTimer watch;
    QObject::connect(&watch, &QTimer::timeout, [&driver] { driver.tell(); });
    watch.start(2);
    std::printf("ready\n");
    std::fflush(stdout);
    return QApplication::exec();
}
