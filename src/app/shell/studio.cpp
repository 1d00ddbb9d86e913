// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/studio.h"

#include <QtCore/QStringList>
#include <algorithm>
#include <atomic>
#include <impasto/base/file.h>
#include <impasto/base/parallel.h>
#include <impasto/base/text.h>
#include <impasto/capture/import.h>
#include <impasto/description/description.h>
#include <impasto/rig/draw.h>
#include <impasto/session/recipe.h>
#include <limits>
#include <numeric>
#include <set>

namespace impasto::app {

using session::Action;

namespace {

Station stationOf(Action action) {
    switch (action) {
    case Action::Begin:
    case Action::SayMachine:
    case Action::SayGame:
        return Station::Bench;
    case Action::SayBrief:
        return Station::Brief;
    case Action::RecordWarmUp:
    case Action::RecordBaseline:
        return Station::Runs;
    case Action::RecordCosts:
    case Action::AcceptChoice:
    case Action::RecordCheck:
        return Station::Layers;
    case Action::ChooseCap:
        return Station::Pace;
    case Action::RecordProof:
        return Station::Proof;
    case Action::KeepResult:
    case Action::Done:
        return Station::Logbook;
    }
    return Station::Bench;
}

/// Where the result of an action is seen.
Station stationAfter(const session::NextStep& step) {
    switch (step.action) {
    case Action::RecordWarmUp:
        return Station::Runs;
    case Action::RecordBaseline:
        return Station::Limits;
    case Action::RecordCheck:
        return Station::Pace;
    default:
        return stationOf(step.action);
    }
}

std::vector<Practice> practiceIn(const std::filesystem::path& dataDir) {
    std::vector<Practice> out;
    for (const char* folder : {"machines", "games"}) {
        std::error_code failure;
        std::set<std::filesystem::path> files; // sorted
        for (const auto& entry : std::filesystem::directory_iterator(dataDir / folder, failure))
            files.insert(entry.path());
        for (const auto& file : files) {
            const auto text = readFile(file, 1U << 22U);
            if (!text) continue;
            if (folder == std::string_view("machines")) {
                if (const auto m = machine::parseMachine(*text, file.string()))
                    out.push_back({true, qs(m->name),
                                   qs(fmt::format("{}, {} GiB", report::resolution(m->panel.native),
                                                  report::gib(m->gpuMemory.value()))),
                                   file});
            } else if (const auto g = game::parseGame(*text, file.string())) {
                out.push_back({false, qs(g->name), app::say("%1 settings").arg(g->settings.size()), file});
            }
        }
    }
    return out;
}

} // namespace

Studio::Studio(StudioOptions options) : m_options(std::move(options)) {
    const auto rulesPath = m_options.dataDir / "cap_rules.toml";
    if (const auto text = readFile(rulesPath)) {
        if (auto rules = choose::parseCapRules(*text, rulesPath.string()))
            m_view.rules = *rules;
        else
            tell(rules.error());
    }
    const auto usualPath = m_options.dataDir / "usual_settings.toml";
    if (const auto text = readFile(usualPath)) {
        if (auto usual = game::parseGame(*text, usualPath.string()))
            m_view.usualSettings = usual->settings;
        else
            tell(usual.error());
    }
    m_view.practice = practiceIn(m_options.dataDir);
    if (!m_options.logbook.empty()) {
        m_dialectFile = m_options.logbook.parent_path() / "dialects.txt";
        m_dialects = capture::loadDialects(m_dialectFile);
    }
    m_followTimer.setInterval(200);
    QObject::connect(&m_followTimer, &QTimer::timeout, [this] { pollFollowed(); });
    m_recorder = std::make_unique<Recorder>(m_bridge, m_options.speed);
}

Studio::~Studio() {
    m_recorder->cancel();
    m_recorder.reset();
    closeLogbook();
}

bool Studio::idle() const {
    return !m_resultsPending && !m_solvePending && m_importsPending == 0 && !m_readingPending && !m_spanPending &&
           !m_view.live.active && !m_primaryWaits && m_results.idle() && m_solver.idle() && m_importer.idle() &&
           m_reader.idle() && m_spans.idle() && m_recorder->idle() && (!m_writer || m_writer->idle());
}

void Studio::notify() {
    if (m_listener) m_listener();
}

void Studio::say(const QString& message) {
    m_view.message = message;
    notify();
}

void Studio::tell(const Error& error) {
    say(qs(m_view.w.error(error).all()));
}

// --- opening

std::unique_ptr<logbook::Logbook> Studio::openLogbook() {
    if (m_options.logbook.empty()) return nullptr;
    auto opened = logbook::Logbook::open(m_options.logbook);
    if (!opened) {
        tell(opened.error());
        m_view.saved = app::say("Not saved: there is no logbook.");
        return nullptr;
    }
    if (auto sessions = (*opened)->sessions()) m_view.logbookSessions = *sessions;
    return std::move(*opened);
}

void Studio::closeLogbook() {
    m_writer.reset();
}

void Studio::begin(session::SessionStore store, std::unique_ptr<logbook::Logbook> logbook) {
    m_store = std::make_unique<session::SessionStore>(std::move(store));
    m_store->onChange([this](const session::Change& change) { changed(change); });
    if (logbook) {
        logbook::LogbookWriter::Hooks hooks;
        hooks.onSaved = [this](SessionId, std::uint64_t revision) {
            m_bridge.post([this, revision] {
                m_view.saved = app::say("Saved, change %1, in %2").arg(revision).arg(qs(m_options.logbook.string()));
                notify();
            });
        };
        hooks.onError = [this](const Error& error) { m_bridge.post([this, error] { tell(error); }); };
        m_writer = std::make_unique<logbook::LogbookWriter>(std::move(logbook), hooks, m_options.clock);
    }
    m_view.session = m_store->session();
    m_view.results = std::make_shared<session::Results>();
    m_view.step = session::nextStep(m_view.session, *m_view.results);
    m_view.station = stationOf(m_view.step.action);
    m_view.run.reset();
    m_view.behind.reset();
    m_view.span.reset();
    m_view.spanSummary.reset();
    m_view.reading.reset();
    m_view.preview.reset();
    m_view.openSetting.clear();
    m_view.whyTopic.clear();
    if (!m_view.session.facts->runs.empty()) m_view.run = m_view.session.facts->runs.back().id;
    m_after = std::nullopt;
    requestResults();
    notify();
}

void Studio::newSession(std::uint64_t seed) {
    closeLogbook();
    session::Session start;
    start.id = {m_options.ids()};
    auto facts = std::make_shared<session::Facts>();
    facts->seed = seed;
    start.facts = facts;
    begin(session::SessionStore(start), openLogbook());
}

void Studio::openSession(const SessionId& id) {
    closeLogbook();
    auto logbook = openLogbook();
    auto stored = logbook ? logbook->load(id) : Result<logbook::Stored>(fail(ErrorCode::CannotRead, "logbook"));
    if (!stored) {
        const Error error = stored.error();
        logbook.reset();
        if (!m_store) newSession(1);
        return tell(error);
    }
    const auto damage = stored->damage;
    const auto found = stored->foundRecording;
    begin(session::SessionStore(stored->session, stored->first, stored->steps, stored->depth), std::move(logbook));
    for (const auto& run : found) apply(session::leaveOut(run, session::LeftOut::Interrupted));
    if (!damage.empty()) tell(damage.front());
    m_after = stationOf(m_view.step.action);
}

void Studio::openLatest() {
    auto logbook = openLogbook();
    const auto sessions = m_view.logbookSessions;
    logbook.reset();
    if (!sessions.empty()) return openSession(sessions.front().id);
    const auto bytes = m_options.ids();
    std::uint64_t seed = 0;
    for (std::size_t i = 0; i < 8; ++i) seed = seed * 256 + bytes[i];
    newSession(seed);
}

Result<void> Studio::openRecipe(const std::filesystem::path& path) {
    const auto recipe = session::readRecipe(path);
    if (!recipe) {
        tell(recipe.error());
        return tl::unexpected(recipe.error());
    }
    if (!m_store || !m_view.empty()) newSession(recipe->seed);
    return session::applyRecipe(*m_store, *recipe);
}

void Studio::startPractice() {
    static_cast<void>(openRecipe(m_options.dataDir / "demo.toml").has_value());
}

void Studio::openPractice(const std::filesystem::path& file) {
    if (const auto done = openDescription(file); !done) return tell(done.error());
    const bool can = m_view.session.machine() != nullptr && m_view.session.game() != nullptr &&
                     rig::canSimulate(*m_view.session.machine(), *m_view.session.game());
    if (can && m_view.edits().rig != session::RigKind::Simulated) apply(session::useRig(session::RigKind::Simulated));
}

void Studio::drawPractice(std::uint64_t seed) {
    const auto drawn = rig::draw(seed);
    session::Recipe recipe;
    auto machine = machine::parseMachine(drawn.machine, {});
    auto game = game::parseGame(drawn.game, {});
    if (!machine || !game) return tell(machine ? game.error() : machine.error());
    recipe.machine = std::move(*machine);
    recipe.game = std::move(*game);
    if (!m_store || !m_view.empty()) newSession(seed);
    if (const auto done = session::applyRecipe(*m_store, recipe); !done) return tell(done.error());
    go(Station::Bench);
}

Result<void> Studio::openDescription(const std::filesystem::path& file) {
    const auto text = readFile(file, 1U << 22U);
    if (!text) return tl::unexpected(text.error());
    const auto document = description::Document::parse(*text, file.string());
    if (!document) return tl::unexpected(document.error());
    if (document->root().has("panel")) {
        const auto machine = machine::parseMachine(*text, file.string());
        if (!machine) return tl::unexpected(machine.error());
        apply(session::useMachine(m_store->addMachine(*machine)));
    } else {
        const auto game = game::parseGame(*text, file.string());
        if (!game) return tl::unexpected(game.error());
        apply(session::useGame(m_store->addGame(*game), *game));
    }
    go(Station::Bench);
    return {};
}

void Studio::describeMachine() {
    machine::Machine m;
    m.name = app::say("My machine").toStdString();
    m.cpu = m.gpu = "not said";
    m.gpuMemory = Mebibytes(8 * 1024);
    m.systemMemory = Mebibytes(16 * 1024);
    m.panel = {{1920, 1080}, Hertz(60), {}};
    m.text = machine::toToml(m);
    apply(session::useMachine(m_store->addMachine(m)));
    m_view.station = Station::Bench;
    notify();
}

void Studio::describeGame() {
    game::Game game;
    game.name = app::say("My game").toStdString();
    game.version = "not said";
    game.settings = m_view.usualSettings;
    game::Preset now{"as now", {}};
    for (const auto& s : game.settings) now.values[s.id] = s.levels.back().name;
    game.presets = {now};
    game.routes = {{"the same minute", {{"whole route", 60}}}};
    useEditedGame(game);
    apply(session::useRig(session::RigKind::Hand));
    if (m_view.session.machine() == nullptr) describeMachine();
    m_view.station = Station::Bench;
    notify();
}

void Studio::useEditedGame(game::Game game) {
    const auto text = game::toToml(game);
    auto parsed = game::parseGame(text, game.name);
    if (!parsed) return tell(parsed.error());
    const std::size_t index = m_store->addGame(*parsed);
    apply(session::useGame(index, *parsed));
}

void Studio::editGame(const QString& field, const QString& text) {
    if (m_view.session.game() == nullptr) return;
    game::Game game = *m_view.session.game();
    const auto bad = [&](const char* wanted) {
        tell({ErrorCode::BadValue, wanted, {{}, {}, {}, field.toStdString()}, Kept::AllAsBefore});
    };
    if (field == QStringLiteral("name")) game.name = text.trimmed().toStdString();
    if (field == QStringLiteral("route")) {
        const auto comma = text.lastIndexOf(QLatin1Char(','));
        const auto seconds = parseDouble(text.mid(comma + 1).toStdString());
        if (comma <= 0 || !seconds) return bad("a name and seconds, as \"Market square, 60\"");
        game.routes = {{text.left(comma).trimmed().toStdString(), {{"whole route", *seconds}}}};
    }
    if (field == QStringLiteral("add")) {
        const auto colon = text.indexOf(QLatin1Char(':'));
        const QStringList levels = text.mid(colon + 1).split(QLatin1Char(','), Qt::SkipEmptyParts);
        if (colon <= 0 || levels.size() < 2)
            return bad("a name and its levels, as \"Draw distance: near, middle, far\"");
        game::Setting setting;
        setting.label = text.left(colon).trimmed().toStdString();
        setting.id = "own_" + std::to_string(game.settings.size() + 1);
        while (game.setting(setting.id) != nullptr) setting.id += "x";
        setting.paysCpu = setting.paysGpu = true; // nothing is known of it: both lanes are asked
        for (qsizetype i = 0; i < levels.size(); ++i)
            setting.levels.push_back({levels[i].trimmed().toStdString(),
                                      static_cast<double>(i) / static_cast<double>(levels.size() - 1),
                                      {}});
        for (auto& preset : game.presets) preset.values[setting.id] = setting.levels.back().name;
        game.settings.push_back(std::move(setting));
    }
    useEditedGame(game);
}

// --- the path

void Studio::changed(const session::Change& change) {
    m_view.session = change.session;
    if (m_writer) m_writer->post(change, *m_store);
    requestResults();
}

void Studio::requestResults() {
    m_resultsPending = true;
    m_results.post([this, session = m_store->session(), rules = m_view.rules](const std::stop_token& stop) {
        auto results = std::make_shared<session::Results>(session::compute(session, m_cache, rules, {stop, {}}));
        const bool whole = !stop.stop_requested();
        m_bridge.post([this, results, revision = session.revision, whole] {
            if (whole) takeResults(results, revision);
        });
    });
}

void Studio::takeResults(std::shared_ptr<const session::Results> results, std::uint64_t revision) {
    if (revision != m_view.session.revision) return; // superseded
    m_resultsPending = false;
    m_view.results = std::move(results);
    m_view.step = session::nextStep(m_view.session, *m_view.results);
    if (m_after && !m_view.live.active) m_view.station = *std::exchange(m_after, std::nullopt);
    if (std::exchange(m_primaryWaits, false)) return performNow();
    requestSpan();
    notify();
}

void Studio::primary() {
    if (m_view.live.active) return;
    m_view.message.clear();
    m_view.whyTopic.clear();
    if (m_resultsPending) {
        m_primaryWaits = true;
        return;
    }
    performNow();
}

void Studio::performNow() {
    const auto step = m_view.step;
    if (step.action == Action::Begin) return startPractice();
    if (step.action == Action::SayMachine && m_view.session.machine() == nullptr) return describeMachine();
    if (step.action == Action::SayGame) return describeGame();
    if (step.action == Action::SayBrief) {
        m_view.station = Station::Brief;
        if (!m_view.edits().brief) return apply(session::setBrief(run::Brief{}));
        return say(qs(m_view.w.reason(m_view.session, *m_view.results, step)));
    }
    const auto performed = session::perform(*m_store, *m_view.results, step, m_options.ids, m_options.clock);
    if (!performed) return tell(performed.error());
    if (performed->toRecord.empty()) {
        m_after = stationAfter(step);
        // A decision is seen where it was made; the next press goes on.
        m_view.station = *m_after;
        return notify();
    }
    m_view.station = step.action == Action::RecordWarmUp || step.action == Action::RecordBaseline
                         ? Station::Runs
                         : stationOf(step.action);
    if (m_view.edits().rig == session::RigKind::Hand) {
        m_view.station = Station::Runs;
        return notify();
    }
    m_after = stationAfter(step);
    record(performed->toRecord);
}

void Studio::record(std::vector<run::Order> orders) {
    m_view.reading.reset();
    m_view.live = {};
    m_view.live.active = true;
    m_view.live.of = orders.size();
    Recorder::Hooks hooks;
    hooks.onStart = [this](const run::Order& order, std::size_t index) {
        auto& live = m_view.live;
        live.title = qs(m_view.w.purpose(m_view.session, order));
        live.number = index + 1;
        live.frameMs.clear();
        live.marks.clear();
        live.minutesLeft = static_cast<double>(live.of - index) * order.seconds / 60;
        notify();
    };
    hooks.onRun = [this](run::Run run) {
        const RunId id = run.id;
        session::attach(*m_store, std::move(run));
        showRun(id);
    };
    hooks.onEnd = [this](std::optional<Error> error) {
        m_view.live = {};
        requestResults();
        if (error) m_after.reset();
        if (error && error->code != ErrorCode::Cancelled)
            tell(*error);
        else if (error)
            say(app::say("Cancelled. The frames until here are kept as a run that does not count."));
        else
            notify();
    };
    m_recorder->start(m_store->session(), std::move(orders), m_options.ids, m_options.clock, m_writer.get(),
                      std::move(hooks));
    notify();
}

void Studio::liveTick() {
    if (!m_view.live.active) return;
    m_recorder->takeTail(m_view.live.frameMs, m_view.live.marks);
    notify();
}

void Studio::cancelRecording() {
    if (m_view.live.active) m_recorder->cancel();
}
void Studio::skipWait() {
    m_recorder->skip();
}

void Studio::go(Station station) {
    m_view.station = station;
    m_view.whyTopic.clear();
    m_after.reset();
    notify();
}

void Studio::apply(const session::Edit& edit) {
    if (const auto done = m_store->apply(edit); !done) return tell(done.error());
    notify();
}

void Studio::undo() {
    m_store->undo();
    m_view.preview.reset();
    notify();
}

void Studio::redo() {
    m_store->redo();
    notify();
}

void Studio::showRun(const RunId& id) {
    if (m_view.run && *m_view.run != id) m_view.behind = m_view.run;
    m_view.run = id;
    m_view.span.reset();
    m_view.spanSummary.reset();
    m_view.zoomed = false;
    m_view.track = -1;
}

// --- logs

void Studio::follow(const std::filesystem::path& file) {
    m_followed = std::make_shared<capture::Follower>(file);
    m_followedFile = file;
    m_followedGrew = std::chrono::steady_clock::now();
    m_view.follow = {true, qs(file.filename().string()), {}, {}, {}, {}};
    m_followTimer.start();
    notify();
}

void Studio::pollFollowed() {
    if (!m_view.follow.active || m_pollPending) return;
    m_pollPending = true;
    m_followWorker.post(
        [this, follower = m_followed, known = m_view.follow.frameMs.size(), rule = m_view.edits().hitchRule,
         target = m_view.edits().brief ? std::optional(m_view.target()) : std::nullopt](const std::stop_token&) {
            const auto poll = follower->poll(); // a fault shows when the file is read as a whole
            const bool grew = poll && poll->grew, restarted = poll && poll->restarted;
            const auto& all = follower->capture().framesMs;
            const std::size_t from = restarted ? 0 : std::min(known, all.size());
            auto fresh =
                std::make_shared<std::vector<double>>(all.begin() + static_cast<std::ptrdiff_t>(from), all.end());
            std::shared_ptr<const stats::Summary> summary;
            if (!fresh->empty()) summary = std::make_shared<const stats::Summary>(*stats::summarize(all, target, rule));
            m_bridge.post([this, follower, grew, restarted, fresh, summary] {
                m_pollPending = false;
                if (follower != m_followed) return;
                if (summary || restarted) m_view.follow.summary = summary;
                takePoll(grew, restarted, *fresh);
            });
        });
}

void Studio::takePoll(bool grew, bool restarted, const std::vector<double>& frameMs) {
    const auto now = std::chrono::steady_clock::now();
    if (grew || restarted) m_followedGrew = now;
    if (restarted) m_view.follow.frameMs.clear();
    m_view.follow.frameMs.insert(m_view.follow.frameMs.end(), frameMs.begin(), frameMs.end());
    if (now - m_followedGrew >= std::chrono::milliseconds(m_options.followRestMs)) return endFollowing(true);
    if (!frameMs.empty() || restarted) notify();
}

void Studio::endFollowing(bool take) {
    Log log{std::exchange(m_followedFile, {})};
    if (const auto begin = m_view.follow.beginMs)
        log.counts = TimeSpan{*begin, m_view.follow.endMs.value_or(std::numeric_limits<double>::max())};
    m_followTimer.stop();
    m_view.follow = {};
    m_followed.reset();
    if (take) import({std::move(log)});
    notify();
}

void Studio::markFollowed() {
    auto& follow = m_view.follow;
    if (!follow.active) return;
    const double now = std::accumulate(follow.frameMs.begin(), follow.frameMs.end(), 0.0);
    if (!follow.beginMs || follow.endMs) {
        follow.beginMs = now;
        follow.endMs.reset();
    } else {
        follow.endMs = now;
    }
    notify();
}

void Studio::importLogs(std::vector<std::filesystem::path> files) {
    std::vector<Log> logs;
    for (auto& file : files) logs.push_back({std::move(file)});
    import(std::move(logs));
}

void Studio::import(std::vector<Log> logs) {
    m_toImport.insert(m_toImport.end(), logs.begin(), logs.end());
    if (m_importsPending == 0) startImport();
}

void Studio::startImport() {
    ++m_importsPending;
    m_view.importing = {m_toImport.size(), 0};
    m_importStop = std::stop_source();
    m_importer.post([this, logs = std::exchange(m_toImport, {}), ids = m_options.ids, clock = m_options.clock,
                     dialects = m_dialects, cancel = m_importStop](const std::stop_token& quit) mutable {
        const std::stop_callback ends(quit, [&cancel] { cancel.request_stop(); });
        const auto stop = cancel.get_token();
        std::vector<Result<capture::Capture>> captures(logs.size(), fail(ErrorCode::Cancelled));
        std::vector<std::atomic<double>> shares(logs.size());
        std::atomic<double> told = 0;
        const auto progress = [&] {
            const double least = *std::min_element(shares.begin(), shares.end());
            if (least < told + 0.02) return;
            told = least;
            m_bridge.post([this, least] {
                m_view.importing.share = least;
                notify();
            });
        };
        inParallel(logs.size(), [&](std::size_t i) {
            capture::ReadOptions options{logs[i].dialect, {}, dialects, {stop, {}}};
            options.context.progress = [&, i](double share) {
                shares[i] = share;
                progress();
            };
            captures[i] = capture::readLog(logs[i].file, options);
            shares[i] = 1;
        });
        auto read = std::make_shared<ReadLogs>();
        for (std::size_t i = 0; i < logs.size(); ++i) {
            if (!captures[i]) {
                const auto code = captures[i].error().code;
                if (code == ErrorCode::AmbiguousColumns || code == ErrorCode::NoTimeColumn)
                    read->unclear.push_back(logs[i]);
                read->errors.push_back(captures[i].error());
                continue;
            }
            run::Run run;
            run.id = {ids()};
            run.name = logs[i].file.filename().string();
            run.made = clock();
            captures[i]->notes["file"] = std::filesystem::absolute(logs[i].file).string();
            run.capture = std::make_shared<const capture::Capture>(std::move(*captures[i]));
            read->runs.emplace_back(std::move(run), logs[i]);
        }
        m_bridge.post([this, read] { addImported(std::move(*read)); });
    });
}

void Studio::cancelImport() {
    m_toImport.clear();
    m_importStop.request_stop(); // the job itself goes on to its end, and tells
}

void Studio::addImported(ReadLogs read) {
    --m_importsPending;
    m_view.importing = {};
    if (!m_toImport.empty()) startImport();
    m_view.message.clear();
    std::vector<run::Run> dropped;
    struct Known {
        RunId run;
        Log log;
        double durationMs;
    };
    std::vector<Known> known;
    std::optional<Error> mismatch;
    for (auto& [run, log] : read.runs) {
        known.push_back({run.id, log, capture::durationMs(*run.capture)});
        const auto* old = log.instead ? m_store->session().facts->run(*log.instead) : nullptr;
        if (old != nullptr && old->order) { // it answers the same order
            run.maker = old->maker;
            run.order = old->order;
            const RunId id = run.id;
            session::attach(*m_store, std::move(run));
            showRun(id);
            continue;
        }
        const auto open = session::openOrders(m_store->session());
        const bool byHand = m_view.edits().rig == session::RigKind::Hand && !open.empty();
        if (byHand) {
            mismatch = session::mismatch(open.front(), *run.capture);
            if (!mismatch) {
                run.maker = run::Maker::Hand;
                run.order = open.front().id;
                const RunId id = run.id;
                session::attach(*m_store, std::move(run));
                showRun(id);
                continue;
            }
        }
        dropped.push_back(std::move(run));
    }
    if (!dropped.empty()) {
        const RunId last = dropped.back().id;
        if (m_view.session.game() == nullptr && m_view.edits().title.empty())
            apply(session::setTitle(dropped.front().name));
        m_store->addRuns(std::move(dropped)); // one revision for all of them
        if (mismatch) apply(session::leaveOut(last, session::LeftOut::Mismatch));
        showRun(last);
    }
    for (const auto& [id, log, durationMs] : known) {
        if (log.counts) apply(session::trimRun(id, {{0, log.counts->fromMs}, {log.counts->toMs, durationMs}}));
        if (log.instead) apply(session::hideRun(*log.instead));
        if (log.instead && m_view.behind == log.instead) m_view.behind.reset();
    }
    if (!read.runs.empty() || !read.unclear.empty()) m_view.station = Station::Runs;
    if (mismatch) return tell(*mismatch);
    if (!read.unclear.empty()) {
        openReading(read.unclear.front().file);
        m_unclear.assign(read.unclear.begin() + 1, read.unclear.end());
    }
    if (!read.errors.empty()) return tell(read.errors.front());
    // The last order of a step was answered: the path goes on where its result is seen.
    if (m_view.edits().rig == session::RigKind::Hand && session::openOrders(m_store->session()).empty() &&
        !m_store->session().facts->orders.empty()) {
        switch (m_store->session().facts->orders.back().purpose) {
        case run::Purpose::Baseline:
            m_after = Station::Limits;
            break;
        case run::Purpose::Cost:
            m_after = Station::Layers;
            break;
        case run::Purpose::Check:
            m_after = Station::Pace;
            break;
        default:
            m_after = Station::Proof;
            break;
        }
        requestResults();
    }
    notify();
}

// --- hands

void Studio::budgetPreview(Fps target) {
    if (!m_view.edits().brief || target.value() < 10 || target.value() > 1000) return;
    const std::optional<choose::Proposal> before = m_view.preview ? m_view.preview->proposal : m_view.results->proposal;
    m_view.preview = Preview{target, before, {}, m_view.preview ? m_view.preview->solvedFor : Fps(0)};
    notify();
    m_solvePending = true;
    m_solver.post([this, target, session = m_view.session, results = m_view.results](const std::stop_token& stop) {
        const auto ground = results->ground(session);
        auto solved = std::make_shared<Result<choose::Proposal>>(
            ground ? choose::propose(*ground, target, {stop, {}})
                   : Result<choose::Proposal>(fail(ErrorCode::LacksRuns, "1")));
        m_bridge.post([this, target, solved] {
            ++m_solverCalls;
            if (!m_view.preview || m_view.preview->target != target) return; // superseded
            m_solvePending = false;
            if (!*solved && solved->error().code == ErrorCode::Cancelled) return;
            m_view.preview->proposal = *solved ? std::optional(**solved) : std::nullopt;
            m_view.preview->error = *solved ? std::nullopt : std::optional(solved->error());
            m_view.preview->solvedFor = target;
            notify();
        });
    });
}

void Studio::keepBudget() {
    if (!m_view.preview) return;
    const Fps target = m_view.preview->target;
    m_view.preview.reset();
    m_solvePending = false;
    apply(session::setTarget(target));
}

void Studio::dropBudget() {
    m_view.preview.reset();
    m_solvePending = false;
    notify();
}

void Studio::select(std::optional<TimeSpan> span, bool zoomed) {
    if (span != m_view.span) m_view.spanSummary.reset();
    m_view.span = span;
    m_view.zoomed = zoomed && span.has_value();
    requestSpan();
    notify();
}

void Studio::requestSpan() {
    if (!m_view.span || !m_view.run) return;
    m_spanPending = true;
    m_spans.post([this, session = m_view.session, run = *m_view.run, span = *m_view.span](const std::stop_token&) {
        const auto found = session::spanSummary(session, run, span);
        const auto summary = found ? std::make_shared<const stats::Summary>(*found) : nullptr;
        m_bridge.post([this, summary, run, span] {
            if (!m_view.span) m_spanPending = false;
            if (m_view.run != run || m_view.span != span) return; // superseded
            m_spanPending = false;
            m_view.spanSummary = summary;
            notify();
        });
    });
}

void Studio::dragTrim(std::size_t span, bool begin, double ms, bool keep) {
    m_view.trimEdge = TrimEdge{span, begin, ms};
    if (!keep) return notify();
    auto spans = m_view.run ? drawnTrims(m_view, *m_view.run) : std::vector<TimeSpan>();
    m_view.trimEdge.reset();
    if (!spans.empty()) apply(session::trimRun(*m_view.run, std::move(spans)));
    notify();
}

void Studio::dropTrimEdge() {
    m_view.trimEdge.reset();
    notify();
}

void Studio::nextPicture() {
    m_view.runPicture = m_view.runPicture == RunPicture::Trace     ? RunPicture::Seconds
                        : m_view.runPicture == RunPicture::Seconds ? RunPicture::Percentiles
                                                                   : RunPicture::Trace;
    notify();
}

void Studio::nextTrack() {
    const auto* run = m_view.shownRun();
    if (run == nullptr || !run->capture) return;
    const int count = static_cast<int>(run->capture->tracks.size() + run->capture->others.size());
    m_view.track = m_view.track + 1 < count ? m_view.track + 1 : -1;
    notify();
}

void Studio::toggleLogScale() {
    m_view.logScale = !m_view.logScale;
    notify();
}

void Studio::trim() {
    if (!m_view.run || !m_view.span) return;
    const auto before = m_view.session.trimsOf(*m_view.run);
    std::vector<capture::Span> spans(before.begin(), before.end());
    spans.push_back(*m_view.span);
    m_view.span.reset();
    m_view.spanSummary.reset();
    m_view.zoomed = false;
    apply(session::trimRun(*m_view.run, std::move(spans)));
}

void Studio::nextHitch() {
    if (m_view.station == Station::Pace && m_view.results->cap) {
        // The slowest frame after the ten that are shown, or the slowest of all.
        const auto frames = choose::replayedFrames(m_view.results->cap->replay,
                                                   m_view.edits().cap ? m_view.edits().cap->cap
                                                                      : m_view.results->cap->offers.front().cap);
        std::size_t worst = 0;
        double most = 0;
        for (std::size_t i = 20; i + 20 < frames.size(); ++i)
            if (const double gap = frames[i].shown - frames[i - 1].shown;
                gap > most && (i < m_view.paceFrame + 12 || i > m_view.paceFrame + 24)) {
                most = gap;
                worst = i;
            }
        m_view.paceFrame = worst > 17 ? worst - 17 : 0;
        return notify();
    }
    const auto* figures = m_view.run ? m_view.results->figures(*m_view.run) : nullptr;
    if (figures == nullptr || figures->summary.hitches.empty()) return;
    const double now = m_view.span ? 0.5 * (m_view.span->fromMs + m_view.span->toMs) : -1;
    const auto& all = figures->summary.hitches;
    const auto trims = m_view.session.trimsOf(*m_view.run);
    const auto moment = [&trims](const stats::Hitch& h) { return capture::timeInWhole(trims, h.atMs); };
    const auto it = std::find_if(all.begin(), all.end(), [&](const stats::Hitch& h) { return moment(h) > now + 1; });
    const double at = moment(it == all.end() ? all.front() : *it);
    select(TimeSpan{std::max(0.0, at - 1000), at + 1000}, m_view.zoomed);
}

void Studio::compareWith() {
    // Lays the run before the one behind, going round.
    std::vector<RunId> shown;
    for (const auto& run : m_view.session.facts->runs)
        if (!m_view.edits().hidden.contains(run.id) && run.id != m_view.run) shown.push_back(run.id);
    if (shown.empty()) return;
    const auto it = m_view.behind ? std::find(shown.begin(), shown.end(), *m_view.behind) : shown.end();
    m_view.behind = it == shown.end() || it == shown.begin() ? shown.back() : *(it - 1);
    notify();
}

void Studio::why(const QString& topic) {
    m_view.whyTopic = topic;
    notify();
}

} // namespace impasto::app
