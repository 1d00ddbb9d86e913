// SPDX-License-Identifier: GPL-3.0-or-later
// What the window works on: the open session, its results and where the eye is. Lives on the window's thread and never
// computes or waits there; every operation ends in a new view. Stations do their work through it.
#pragma once

#include "open/open_session.h"
#include "stations/station.h"

#include <QtCore/QTimer>
#include <chrono>
#include <deque>
#include <impasto/probe/probe.h>

namespace impasto::app {

/// Calls from workers, run by the event loop of the window's thread.
Deliver toTheWindow();

struct StudioOptions {
    std::filesystem::path logbook; // empty: none (tests of pictures)
    std::filesystem::path dataDir;
    IdSource ids = systemIdSource();
    Clock clock = systemClock();
    std::filesystem::path systemRoot = {}; // where /proc and /sys are read; empty: the machine is typed
    std::filesystem::path home = {};       // where a game's files lie that are said from ~; empty: the user's
    std::function<std::vector<probe::Screen>()> screens = {}; // what the window system knows of panels
    std::filesystem::path keptResults = {}; // what was computed of runs, between starts; empty: nowhere
    logs::ReadOptions reading = {};         // how much of a log is read
    double speed = 30;                      // of recordings against real time; 0: as fast as it goes
};

/// A log to be read, and what is already known of it.
struct Log {
    std::filesystem::path file;
    std::optional<logs::Dialect> dialect = {};
    std::optional<TimeSpan> counts = {};     // what lies outside is trimmed
    std::optional<RunId> instead = {};       // the run that it takes the place of
    std::shared_ptr<Followed> followed = {}; // while it was written
};

class Studio {
  public:
    explicit Studio(StudioOptions options);
    ~Studio();
    Studio(const Studio&) = delete;
    Studio& operator=(const Studio&) = delete;

    /// Told after every change of the view.
    void onView(std::function<void()> listener) { m_listener = std::move(listener); }
    [[nodiscard]] const View& view() const { return m_view; }
    /// What a station remembers of where the eye is; notify() shows a change.
    template <class T>
    [[nodiscard]] T& state() {
        return m_view.states.of<T>();
    }
    [[nodiscard]] const StudioOptions& options() const { return m_options; }
    /// What ~ stands for in the paths of a game's files.
    [[nodiscard]] std::filesystem::path home() const;
    /// nullptr while another is being opened.
    [[nodiscard]] OpenSession* open() { return m_open.get(); }
    [[nodiscard]] document::SessionStore& store() { return m_open->store; }
    /// Something was done that is not saved, and may never be.
    [[nodiscard]] bool losesWork() const {
        return m_open && !m_view.notSaved.isEmpty() && m_open->store.session().revision != m_savedRevision;
    }
    /// Something was done that is on its way to the logbook.
    [[nodiscard]] bool isSaving() const { return m_open && m_open->writer && !m_open->writer->idle(); }
    /// Asked before another session takes the place of one that loses work; false: it stays.
    std::function<bool()> mayLeave;
    void retrySaving();
    /// The whole session into another logbook, made where there is none; from then on it is saved there.
    void saveElsewhere(const std::filesystem::path& file);
    /// A run that was left out after a crash is loaded and computed again.
    void tryRun(const RunId& run);
    /// Nothing opens, computes, records, imports or waits to be stored.
    [[nodiscard]] bool idle() const;

    // opening: off the window's thread; what cannot be read leaves the session that is open as it is, and otherwise
    // that one is cancelled and joined first
    void openLatest();
    void openSession(const SessionId& id);
    bool newSession(std::uint64_t seed);                  // false: the one that is open stays
    void openRecipe(const std::filesystem::path& recipe); // machine, game, brief and seed of a demo
    void startPractice();
    /// A machine and a game that nobody has seen, and a session of their own.
    void drawPractice(std::uint64_t seed);
    /// Once a session is open: now, or later.
    void whenOpen(std::function<void()> then);
    /// A description as text: of a game, or of a machine (it has a panel). Errors name file, line and key.
    Result<void> openDescription(const std::filesystem::path& file);
    Result<std::size_t> addMachine(const std::string& text, const std::string& file);
    Result<std::size_t> addGame(const std::string& text, const std::string& file);
    /// The game in use, described anew, with what the simulator knows of it: levels, locks and route stay where it
    /// still has them. `baseline`: where a level got another name; `edit`: what undo calls it.
    void reviseGame(const game::Game& game, const std::optional<game::Values>& baseline = {},
                    const char* edit = "use-game");

    // the path
    void primary();
    /// A step that is not the next one, where a person asks for it.
    void perform(const path::NextStep& step);
    /// Records the run that decides, or waits for its log.
    void decide(limits::DecidingTest test);
    void go(StationId station);
    void apply(const document::Edit& edit);
    void sayVariant(const RunId& run, const std::string& words);
    void pickOrder(OrderId order); // the next log answers it
    void undo();
    void redo();
    /// Runs of another session of the logbook count in part, where it is of the same game.
    void beginWith(const SessionId& id);
    void cancelRecording();
    void skipWait();

    // logs
    void importLogs(std::vector<std::filesystem::path> files);
    void import(std::vector<Log> logs);
    void cancelImport();
    /// Shows a log while it is written; once it rests it becomes a run like a dropped one.
    void follow(const std::filesystem::path& file);
    /// Marks the start of the run in a log that is followed, then its end.
    void markFollowed();
    void endFollowing(bool take);
    /// Corrections of dialects that are remembered, by the mark of the heading.
    [[nodiscard]] const logs::RememberedDialects& dialects() const { return m_dialects; }
    void remember(std::uint64_t headingMark, const logs::Dialect& dialect);

    // hands: ids that are the shell's own, or those of the station in view
    void activate(const QString& id);
    void edited(const QString& id, const QString& text);
    void stepped(const QString& id, int steps);
    void dragged(const QString& id, QPointF at, DragPhase phase, QSizeF easel);
    void budgetPreview(Fps target); // a drag; keepBudget or dropBudget ends it
    void keepBudget();
    void dropBudget();
    void select(std::optional<TimeSpan> span, bool zoomed);
    void nextHitch();
    void compareWith();
    void showRun(const RunId& id);
    void why(const QString& topic);
    void say(const QString& message);
    void ask(const QString& field); // of the column: it opens, to be typed into or pressed
    void asked() { m_view.ask.clear(); }
    void tell(const Error& error);
    void liveTick();
    /// Shows what changed.
    void notify();
    /// Held by work of a station on a worker and by what comes of it: the studio is not idle while it lives.
    [[nodiscard]] std::shared_ptr<void> pending() const { return m_pending; }
    /// What fills the station's place once the results are there.
    void after(StationId station) { m_after = station; }
    void forgetRun(const RunId& id);                        // it is shown no more
    void setNarrow(bool narrow) { m_view.narrow = narrow; } // the column has no place of its own
    void setLogbookSessions(std::vector<logbook::SessionHead> sessions);

    /// How often the solver ran for the hand, for tests.
    [[nodiscard]] std::uint64_t solverCalls() const { return m_solverCalls; }

  private:
    using Opening = std::function<Result<Started>()>;
    void switchTo(const QString& what, Opening opening);
    void startOpening();
    [[nodiscard]] bool leaves() const { return !losesWork() || !mayLeave || mayLeave(); }
    void startSaving(std::unique_ptr<logbook::Logbook> logbook);
    void begin(Started started, const std::vector<Loaded>& loaded);
    void changed(const document::Change& change);
    void takeSession(); // into the view, and what follows from it is computed
    void requestResults();
    void takeResults(std::shared_ptr<const results::Results> results, std::uint64_t revision);
    void storeAbout();
    void performNow();
    void performStep(const path::NextStep& step);
    void record(std::vector<run::Order> orders);
    struct ReadLogs;
    void startImport();
    void addImported(ReadLogs read);
    struct ReadRates;
    std::optional<Error> takeRates(const ReadRates& rates);
    [[nodiscard]] QString notesOf(const std::vector<RunId>& runs) const;
    [[nodiscard]] QString unlikeFiles(const std::vector<RunId>& runs, const game::Values& inFiles) const;
    void requestSpan();
    void pollFollowed();
    void takePoll(const logs::Follower::Poll& poll, const std::vector<double>& frameMs);
    [[nodiscard]] std::pair<const Hand*, QString> handOf(const QString& id) const;

    StudioOptions m_options;
    View m_view;
    std::function<void()> m_listener;
    Bridge m_bridge{toTheWindow()};                   // of what outlives a session: opening another
    std::deque<std::pair<QString, Opening>> m_toOpen; // the first is being opened
    std::vector<std::function<void()>> m_whenOpen;
    logbook::About m_about;           // as it was stored last
    std::optional<StationId> m_after; // where to stand once the results are there
    bool m_primaryWaits = false;
    std::uint64_t m_savedRevision = 0; // of the open session, in the logbook
    // calls on their way from a worker
    bool m_resultsPending = false, m_solvePending = false, m_spanPending = false, m_pollPending = false;
    int m_importsPending = 0;
    std::shared_ptr<int> m_pending = std::make_shared<int>(0); // idle where nobody else holds it
    std::vector<Log> m_toImport;                               // while another import runs
    logs::RememberedDialects m_dialects;
    std::filesystem::path m_dialectFile;          // empty: none
    std::shared_ptr<logbook::KeptResults> m_kept; // none: nothing is kept
    std::filesystem::path m_followedFile;
    std::chrono::steady_clock::time_point m_followedGrew;
    QTimer m_followTimer;
    std::uint64_t m_solverCalls = 0;
    std::unique_ptr<OpenSession> m_open;
    Worker m_opener, m_loader; // last: they use the members above
};

} // namespace impasto::app
