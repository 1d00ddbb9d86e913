// SPDX-License-Identifier: GPL-3.0-or-later
// What the window works on: the session store, its results, the logbook and the recorder. Lives on the window's thread
// and never computes there; every operation ends in a new view.
#pragma once

#include "shell/recorder.h"
#include "stations/view.h"

#include <QtCore/QTimer>
#include <chrono>
#include <filesystem>
#include <impasto/capture/follow.h>

namespace impasto::app {

struct StudioOptions {
    std::filesystem::path logbook; // empty: none (tests of pictures)
    std::filesystem::path dataDir;
    IdSource ids = systemIdSource();
    Clock clock = systemClock();
    double speed = 30;       // of recordings against real time; 0: as fast as it goes
    int followRestMs = 3000; // a log that did not grow for so long is finished
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
    [[nodiscard]] const std::filesystem::path& dataDir() const { return m_options.dataDir; }
    [[nodiscard]] session::SessionStore& store() { return *m_store; }
    /// Nothing computes, records, imports or waits to be stored.
    [[nodiscard]] bool idle() const;

    // opening
    void openLatest();
    void openSession(const SessionId& id);
    void newSession(std::uint64_t seed);
    Result<void> openRecipe(const std::filesystem::path& recipe); // machine, game, brief and seed of a demo
    void startPractice();
    /// Shows a log while it is written; once it rests it becomes a run like a dropped one.
    void follow(const std::filesystem::path& file);
    /// A shipped description, played by the simulated rig.
    void openPractice(const std::filesystem::path& file);
    /// A machine and a game that nobody has seen, and a session of their own.
    void drawPractice(std::uint64_t seed);
    Result<void> openDescription(const std::filesystem::path& file); // of a game, or of a machine (it has a panel)
    void describeGame();
    void describeMachine();

    // the path
    void primary();
    void go(Station station);
    void apply(const session::Edit& edit);
    void undo();
    void redo();
    void cancelRecording();
    void skipWait();

    // logs
    void importLogs(std::vector<std::filesystem::path> files);
    void cancelImport();
    /// Looks at a log without reading it: how it would be read can be corrected then.
    void openReading(const std::filesystem::path& file, std::optional<RunId> instead = {});
    /// Marks the begin of the run in a log that is followed, then its end.
    void markFollowed();

    // hands
    void activate(const QString& id);
    void edited(const QString& id, const QString& text);
    void stepped(const QString& id, int steps);
    void budgetPreview(Fps target); // a drag; keepBudget or dropBudget ends it
    void keepBudget();
    void dropBudget();
    void select(std::optional<TimeSpan> span, bool zoomed);
    /// The edge of a drawn trim in the hand; dropTrimEdge ends it without a change.
    void dragTrim(std::size_t span, bool begin, double ms, bool keep);
    void dropTrimEdge();
    void nextPicture();
    void nextTrack();
    void toggleLogScale();
    /// The selected span does not count from now on.
    void trim();
    void nextHitch();
    void compareWith();
    void why(const QString& topic);
    void say(const QString& message);
    void liveTick();

    /// How often the solver ran for the hand, for tests.
    [[nodiscard]] std::uint64_t solverCalls() const { return m_solverCalls; }

  private:
    void begin(session::SessionStore store, std::unique_ptr<logbook::Logbook> logbook);
    void changed(const session::Change& change);
    void requestResults();
    void takeResults(std::shared_ptr<const session::Results> results, std::uint64_t revision);
    void performNow();
    void record(std::vector<run::Order> orders);
    /// A log to be read, and what is already known of it.
    struct Log {
        std::filesystem::path file;
        std::optional<capture::Dialect> dialect = {};
        std::optional<TimeSpan> counts = {}; // what lies outside is trimmed
        std::optional<RunId> instead = {};   // the run that it takes the place of
    };
    struct ReadLogs {
        std::vector<std::pair<run::Run, Log>> runs;
        std::vector<Error> errors;
        std::vector<Log> unclear; // logs whose columns are not clear
    };
    void import(std::vector<Log> logs);
    void startImport();
    void addImported(ReadLogs read);
    void correctReading(const QString& what, int steps);
    void editReading(const QString& what, const QString& text);
    void readReading(const capture::ReadOptions& options);
    void takeReading();
    void requestSpan();
    void pollFollowed();
    void takePoll(bool grew, bool restarted, const std::vector<double>& frameMs);
    void endFollowing(bool take);
    void showRun(const RunId& id);
    void tell(const Error& error);
    void notify();
    void closeLogbook();
    std::unique_ptr<logbook::Logbook> openLogbook();
    void editMachine(const QString& field, const QString& text);
    void stepTrim(const QString& edge, int steps);
    void editHitchRule(const QString& part, const QString& text);
    void editBrief(const QString& field, const QString& text);
    void useEditedGame(game::Game game);
    void toggleUsual(const std::string& id);
    void editGame(const QString& field, const QString& text);
    void stepLevel(const std::string& setting, int steps);
    void stepChoice(const std::string& setting, int steps);
    void cycle(const QString& what);

    StudioOptions m_options;
    View m_view;
    std::function<void()> m_listener;
    std::unique_ptr<session::SessionStore> m_store;
    session::ResultsCache m_cache;  // used on the results worker only
    std::optional<Station> m_after; // where to stand once the results are there
    bool m_primaryWaits = false;
    // calls on their way from a worker
    bool m_resultsPending = false, m_solvePending = false;
    int m_importsPending = 0;
    std::vector<Log> m_toImport; // while another import runs
    std::vector<Log> m_unclear;  // besides the one that is looked at
    std::stop_source m_importStop;
    capture::RememberedDialects m_dialects;
    std::filesystem::path m_dialectFile; // empty: none
    bool m_readingPending = false, m_spanPending = false;
    std::shared_ptr<capture::Follower> m_followed; // used on its worker only
    std::filesystem::path m_followedFile;
    std::chrono::steady_clock::time_point m_followedGrew;
    bool m_pollPending = false;
    QTimer m_followTimer;
    std::uint64_t m_solverCalls = 0;
    std::size_t m_recordings = 0;
    Bridge m_bridge;
    std::unique_ptr<logbook::LogbookWriter> m_writer;
    std::unique_ptr<Recorder> m_recorder;
    Worker m_importer;
    Worker m_solver;
    Worker m_followWorker;
    Worker m_reader, m_spans;
    Worker m_results; // the last six: they use the members above
};

} // namespace impasto::app
