// SPDX-License-Identifier: GPL-3.0-or-later
// Opening sessions: one after the other, each off the window's thread, the one before joined first.
#include "shell/studio.h"

#include <impasto/base/file.h>
#include <impasto/description/description.h>
#include <impasto/document/recipe.h>
#include <impasto/results/earlier.h>
#include <impasto/rig_draw/draw.h>
#include <impasto/rig_sim/simulated.h>

namespace impasto::app {
namespace {

constexpr std::size_t mostBytes = std::size_t{1} << 22U;

document::SessionStore freshStore(const SessionId& id, std::uint64_t seed) {
    document::Session start;
    start.id = id;
    auto facts = std::make_shared<document::Facts>();
    facts->seed = seed;
    start.facts = std::move(facts);
    return document::SessionStore(start);
}

std::uint64_t seedFrom(const IdBytes& bytes) {
    std::uint64_t seed = 0;
    for (std::size_t i = 0; i < 8; ++i) seed = seed * 256 + bytes[i];
    return seed;
}

/// The logbook with its list, or the fault that leaves a session without one.
void openLogbook(const std::filesystem::path& file, Started& started) {
    if (file.empty()) return;
    auto opened = logbook::Logbook::open(file);
    if (!opened) {
        const auto code = opened.error().code;
        // Another window writes it, or nothing may be written there: it can be read all the same.
        if (code == ErrorCode::LogbookBusy || code == ErrorCode::CannotWrite)
            if (auto reading = logbook::Logbook::openToRead(file)) opened = std::move(reading);
        if (!opened || code == ErrorCode::CannotWrite)
            started.faults.push_back(opened ? Error{code, "read only", {file.string(), {}, {}, {}}, Kept::AllAsBefore}
                                            : opened.error());
        if (!opened) return;
    }
    if ((*opened)->lost()) started.faults.push_back(*(*opened)->lost());
    if (auto sessions = (*opened)->sessions())
        started.sessions = std::move(*sessions);
    else
        started.faults.push_back(sessions.error());
    started.logbook = std::move(*opened);
}

Result<void> load(logbook::Logbook& logbook, const SessionId& id, Started& started) {
    auto stored = logbook.load(id);
    if (!stored) return tl::unexpected(stored.error());
    started.store = document::SessionStore(stored->session, stored->first, stored->steps, stored->depth);
    started.originals = std::move(stored->originals);
    started.faults.insert(started.faults.end(), stored->damage.begin(), stored->damage.end());
    started.stored = true;
    // Found half recorded: where it can be written, it takes its place among the runs.
    started.unsettled = logbook.readingOnly() && !stored->foundRecording.empty();
    return {};
}

} // namespace

void Studio::switchTo(const QString& what, Opening opening) {
    m_toOpen.emplace_back(what, std::move(opening));
    if (m_toOpen.size() == 1) startOpening();
}

void Studio::startOpening() {
    m_view.opening = m_toOpen.front().first;
    m_view.live = {};
    m_view.follow = {};
    m_view.importing = {};
    m_view.computing = false;
    m_view.preview.reset();
    m_followTimer.stop();
    m_toImport.clear();
    // Nothing of the session that is left is on its way any more.
    m_resultsPending = m_solvePending = m_spanPending = m_pollPending = m_primaryWaits = false;
    m_importsPending = 0;
    if (m_open) m_open->close();
    auto old = std::shared_ptr<OpenSession>(std::move(m_open));
    m_opener.post([this, old = std::move(old), opening = m_toOpen.front().second,
                   dataDir = m_options.dataDir](const std::stop_token&) mutable {
        old.reset(); // joins its threads and stores what waits
        auto started = std::make_shared<Result<Started>>(opening());
        std::vector<Loaded> loaded;
        for (const auto& station : stations())
            if (station.load != nullptr) loaded.push_back(station.load(dataDir));
        m_bridge.post([this, started, loaded = std::move(loaded)]() mutable {
            if (!*started) tell(started->error());
            m_toOpen.pop_front();
            if (!m_toOpen.empty()) {
                started.reset(); // it holds the logbook that the next one opens
                return startOpening();
            }
            m_view.opening.clear();
            if (*started) begin(std::move(**started), loaded);
        });
    });
    notify();
}

void Studio::begin(Started started, const std::vector<Loaded>& loaded) {
    const auto faults = std::move(started.faults);
    const bool stored = started.stored;
    auto logbook = std::move(started.logbook);
    m_view.logbookSessions = std::move(started.sessions);
    m_view.message.clear();
    m_open =
        std::make_unique<OpenSession>(std::move(started), m_options.speed, toTheWindow(), [this](const Error& error) {
            // What was waited for never comes.
            m_resultsPending = m_solvePending = m_spanPending = m_pollPending = m_primaryWaits = false;
            m_importsPending = 0;
            m_view.live = {};
            m_view.computing = false;
            tell(error);
        });
    if (!m_options.keptResults.empty() && !m_kept)
        m_kept = std::make_shared<logbook::KeptResults>(m_options.keptResults);
    if (m_kept)
        m_open->cache.keepIn(
            keepingIn(m_kept, static_cast<std::uint64_t>(m_options.clock().time_since_epoch().count())));
    store().onChange([this](const document::Change& change) { changed(change); });
    m_view.saved.clear();
    m_view.savingFails = false;
    m_savedRevision = store().session().revision;
    m_view.notSaved = m_options.logbook.empty() ? QString()
                      : !logbook                ? app::say("Nothing is saved: there is no logbook.")
                      : logbook->readingOnly()
                          ? app::say("Reading only: %1 is open elsewhere, or may not be written. What is done here is "
                                     "not saved.")
                                .arg(qs(m_options.logbook.filename().string()))
                          : QString();
    if (logbook && !logbook->readingOnly()) startSaving(std::move(logbook));
    m_view.session = store().session();
    m_view.results = std::make_shared<results::Results>();
    m_view.states = {};
    m_about = {};
    m_view.run.reset();
    m_view.behind.reset();
    m_view.span.reset();
    m_view.spanSummary.reset();
    m_view.zoomed = false;
    m_view.whyTopic.clear();
    for (const auto& run : m_view.session.facts->runs)
        if (m_view.session.shown(run)) m_view.run = run.id;
    m_view.step = path::nextStep(m_view.session, *m_view.results);
    m_view.station = stationDoing(m_view.step.action);
    m_view.computing = m_view.run.has_value();
    m_after = m_view.session.facts->runs.empty() ? std::nullopt : std::optional(m_view.station);
    takeSession();
    if (m_open->writer && !stored) m_open->writer->postWhole(store(), m_open->originals);
    for (const auto& handOver : loaded) handOver(*this);
    for (const auto& fault : faults) tell(fault);
    for (auto& then : std::exchange(m_whenOpen, {})) then();
    notify();
}

void Studio::whenOpen(std::function<void()> then) {
    if (m_open && m_toOpen.empty()) return then();
    m_whenOpen.push_back(std::move(then));
}

bool Studio::newSession(std::uint64_t seed) {
    if (!leaves()) return false;
    switchTo(app::say("Starting a session"),
             [file = m_options.logbook, id = SessionId{m_options.ids()}, seed]() -> Result<Started> {
                 Started started{freshStore(id, seed), nullptr, {}, {}};
                 openLogbook(file, started);
                 return started;
             });
    return true;
}

void Studio::openSession(const SessionId& id) {
    if (!leaves()) return;
    const auto file = m_options.logbook;
    const auto fresh = SessionId{m_options.ids()};
    // The logbook first, where nothing is open that could be lost; and the same session is loaded as it is stored last.
    if (m_open == nullptr || id == m_view.session.id)
        return switchTo(app::say("Opening a session"), [file, id, fresh]() -> Result<Started> {
            Started started{freshStore(fresh, 1), nullptr, {}, {}};
            openLogbook(file, started);
            if (started.logbook)
                if (const auto done = load(*started.logbook, id, started); !done)
                    started.faults.push_back(done.error());
            return started;
        });
    // Read beside the one that is open: it is left once the other is there.
    m_loader.post([this, file, id, fresh, pending = pending()](const std::stop_token&) {
        auto started = std::make_shared<Started>(Started{freshStore(fresh, 1), nullptr, {}, {}});
        auto reading = logbook::Logbook::openToRead(file);
        const auto done = reading ? load(**reading, id, *started) : Result<void>(tl::unexpected(reading.error()));
        if (reading) reading->reset();
        m_bridge.post([this, file, id, started, done, pending] {
            if (!done) return tell(done.error());
            switchTo(app::say("Opening a session"), [file, id, started]() -> Result<Started> {
                openLogbook(file, *started);
                if (started->unsettled && started->logbook)
                    if (const auto again = load(*started->logbook, id, *started); !again)
                        return tl::unexpected(again.error());
                return std::move(*started);
            });
        });
    });
}

void Studio::beginWith(const SessionId& id) {
    if (m_open == nullptr) return;
    say(app::say("Reading what that session learnt"));
    m_loader.post([this, id, now = m_view.session, file = m_options.logbook,
                   pending = pending()](const std::stop_token& stop) {
        auto reading = logbook::Logbook::openToRead(file);
        auto stored = reading ? (*reading)->load(id) : Result<logbook::Stored>(tl::unexpected(reading.error()));
        results::ResultsCache cache;
        auto runs =
            stored ? results::earlierOf(stored->session, results::compute(stored->session, cache, {}, {stop, {}}), now)
                   : Result<document::EarlierRuns>(tl::unexpected(stored.error()));
        if (stop.stop_requested()) return;
        m_bridge.post([this, runs = std::move(runs), now, pending] {
            if (m_open == nullptr || m_view.session.id != now.id) return;
            if (m_view.edits().subject.game != now.edits->subject.game) return say({}); // another one meanwhile
            if (!runs) return tell(runs.error());
            apply(document::beginWith(*runs));
            say(qs(wording::earlierRuns(m_view.w, m_view.session, *m_view.results)));
        });
    });
}

void Studio::tryRun(const RunId& run) {
    if (m_open == nullptr || !m_open->writer) return;
    m_open->writer->postTried(run);
    openSession(m_view.session.id);
}

// --- saving

void Studio::startSaving(std::unique_ptr<logbook::Logbook> logbook) {
    logbook::LogbookWriter::Hooks hooks;
    const auto file = logbook->file();
    // What a former logbook still says is not said of this one.
    const auto ofThis = [this, file, bridge = m_open->bridge](std::function<void()> call) {
        bridge.post([this, file, call = std::move(call)] {
            if (file == m_options.logbook) call();
        });
    };
    hooks.onSaved = [this, ofThis, file](SessionId, std::uint64_t revision) {
        ofThis([this, revision, file] {
            m_savedRevision = revision;
            m_view.saved = app::say("Saved, change %1, in %2").arg(revision).arg(qs(file.string()));
            if (std::exchange(m_view.savingFails, false)) m_view.message.clear();
            m_view.notSaved.clear();
            notify();
        });
    };
    hooks.onSessions = [this, ofThis](const std::vector<logbook::SessionHead>& sessions) {
        ofThis([this, sessions] { setLogbookSessions(sessions); });
    };
    hooks.onError = [this, ofThis](const Error& error) {
        ofThis([this, error] {
            m_view.savingFails = true;
            m_view.saved.clear();
            m_view.notSaved = app::say("Not saved since change %1. %2")
                                  .arg(m_savedRevision)
                                  .arg(qs(wording::error(m_view.w, error).what));
            tell(error);
        });
    };
    m_open->startWriter(std::move(logbook), std::move(hooks), m_options.clock);
}

void Studio::retrySaving() {
    if (m_open && m_open->writer) m_open->writer->retry();
}

void Studio::saveElsewhere(const std::filesystem::path& file) {
    if (m_open == nullptr) return;
    m_loader.post([this, file, id = m_view.session.id, pending = pending()](const std::stop_token&) {
        auto opened = std::make_shared<Result<std::unique_ptr<logbook::Logbook>>>(logbook::Logbook::open(file));
        auto sessions = std::make_shared<std::vector<logbook::SessionHead>>();
        if (*opened)
            if (auto all = (**opened)->sessions()) *sessions = std::move(*all);
        m_bridge.post([this, file, id, opened, sessions, pending] {
            if (!*opened) return tell(opened->error());
            if (m_open == nullptr || m_view.session.id != id) return;
            m_options.logbook = file;
            startSaving(std::move(**opened));
            m_open->writer->postWhole(store(), m_open->originals);
            setLogbookSessions(std::move(*sessions));
        });
    });
}

void Studio::openLatest() {
    switchTo(app::say("Opening the logbook"), [file = m_options.logbook, bytes = m_options.ids()]() -> Result<Started> {
        Started started{freshStore({bytes}, seedFrom(bytes)), nullptr, {}, {}};
        openLogbook(file, started);
        const auto latest = std::find_if(started.sessions.begin(), started.sessions.end(),
                                         [](const auto& head) { return !head.deleted; });
        if (latest != started.sessions.end())
            if (const auto done = load(*started.logbook, latest->id, started); !done)
                started.faults.push_back(done.error());
        return started;
    });
}

void Studio::openRecipe(const std::filesystem::path& path) {
    description::Originals originals;
    const auto recipe = document::readRecipe(path, originals);
    if (!recipe) return tell(recipe.error());
    if ((!m_view.empty() || (!m_open && m_toOpen.empty())) && !newSession(recipe->seed)) return;
    whenOpen([this, recipe = *recipe, originals] {
        m_open->originals.add(originals);
        if (const auto done = document::applyRecipe(store(), recipe); !done) tell(done.error());
    });
}

void Studio::startPractice() {
    openRecipe(m_options.dataDir / "demo.toml");
}

void Studio::drawPractice(std::uint64_t seed) {
    const auto drawn = rig_draw::draw(seed);
    auto machine = machine::parseMachine(drawn.machine, {});
    auto game = game::parseGame(drawn.game, {});
    if (!machine || !game) return tell(machine ? game.error() : machine.error());
    if ((!m_view.empty() || (!m_open && m_toOpen.empty())) && !newSession(seed)) return;
    document::Recipe recipe;
    recipe.machine = std::move(*machine);
    recipe.game = std::move(*game);
    whenOpen([this, recipe, drawn] {
        m_open->originals.add(drawn.machine);
        m_open->originals.add(drawn.game);
        if (const auto done = document::applyRecipe(store(), recipe); !done) return tell(done.error());
        go(stations().front().id);
    });
}

Result<std::size_t> Studio::addMachine(const std::string& text, const std::string& file) {
    auto machine = machine::parseMachine(text, file);
    if (!machine) return tl::unexpected(machine.error());
    m_open->originals.add(text);
    return store().addMachine(std::move(*machine));
}

Result<std::size_t> Studio::addGame(const std::string& text, const std::string& file) {
    auto game = game::parseGame(text, file);
    if (!game) return tl::unexpected(game.error());
    m_open->originals.add(text);
    return store().addGame(std::move(*game));
}

void Studio::reviseGame(const game::Game& game, const std::optional<game::Values>& baseline, const char* edit) {
    const auto* before = m_view.session.game();
    const auto* text = before == nullptr ? nullptr : m_open->originals.find(before->mark);
    const std::string hidden = text == nullptr ? std::string() : rig_sim::hiddenTables(*text);
    const auto index = addGame(toToml(game) + hidden, game.name);
    if (!index) return tell(index.error());
    const auto& now = *m_view.session.facts->games[*index];
    std::vector<document::Edit> edits{document::reviseGame(*index, now)};
    if (baseline) edits.push_back(document::setBaseline(now, *baseline));
    apply(document::together(edit, std::move(edits)));
}

Result<void> Studio::openDescription(const std::filesystem::path& file) {
    if (!m_open) return fail(ErrorCode::Cancelled);
    const auto text = readFile(file, mostBytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = description::Document::parse(*text, file.string());
    if (!document) return tl::unexpected(document.error());
    if (!document->root().has("setting")) {
        const auto machine = addMachine(*text, file.string());
        if (!machine) return tl::unexpected(machine.error());
        apply(document::useMachine(*machine));
    } else {
        const auto index = addGame(*text, file.string());
        if (!index) return tl::unexpected(index.error());
        apply(document::useGame(*index, *m_view.session.facts->games[*index]));
    }
    go(stations().front().id);
    return {};
}

void Studio::setLogbookSessions(std::vector<logbook::SessionHead> sessions) {
    m_view.logbookSessions = std::move(sessions);
    notify();
}

} // namespace impasto::app
