// SPDX-License-Identifier: GPL-3.0-or-later
// Opening sessions: one after the other, each off the window's thread, the one before joined first.
#include "shell/studio.h"

#include <impasto/base/file.h>
#include <impasto/description/description.h>
#include <impasto/document/recipe.h>
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
    // Another window writes it: it can be read all the same.
    if (!opened && opened.error().code == ErrorCode::LogbookBusy) opened = logbook::Logbook::openToRead(file);
    if (!opened) {
        started.faults.push_back(opened.error());
        return;
    }
    if (auto sessions = (*opened)->sessions())
        started.sessions = std::move(*sessions);
    else
        started.faults.push_back(sessions.error());
    started.logbook = std::move(*opened);
}

/// False where it cannot be loaded; the fault is noted then.
bool load(const SessionId& id, Started& started) {
    auto stored =
        started.logbook ? started.logbook->load(id) : Result<logbook::Stored>(fail(ErrorCode::CannotRead, "logbook"));
    if (!stored) {
        started.faults.push_back(stored.error());
        return false;
    }
    started.store = document::SessionStore(stored->session, stored->first, stored->steps, stored->depth);
    started.originals = std::move(stored->originals);
    started.faults.insert(started.faults.end(), stored->damage.begin(), stored->damage.end());
    return true;
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
    auto logbook = std::move(started.logbook);
    m_view.logbookSessions = std::move(started.sessions);
    m_view.message.clear();
    m_open =
        std::make_unique<OpenSession>(std::move(started), m_options.speed, toTheWindow(), [this](const Error& error) {
            // What was waited for never comes.
            m_resultsPending = m_solvePending = m_spanPending = m_pollPending = m_primaryWaits = false;
            m_importsPending = 0;
            m_view.live = {};
            tell(error);
        });
    store().onChange([this](const document::Change& change) { changed(change); });
    const bool readingOnly = logbook && logbook->readingOnly();
    m_view.notSaved = m_options.logbook.empty() ? QString()
                      : readingOnly
                          ? app::say("Reading only: %1 is open in another window. What is done here is not saved.")
                                .arg(qs(m_options.logbook.filename().string()))
                      : logbook ? QString()
                                : app::say("Nothing is saved: there is no logbook.");
    m_view.saved.clear();
    m_openedAt = store().session().revision;
    if (logbook && !readingOnly) {
        logbook::LogbookWriter::Hooks hooks;
        hooks.onSaved = [this, bridge = m_open->bridge](SessionId, std::uint64_t revision) {
            bridge.post([this, revision] {
                m_view.saved = app::say("Saved, change %1, in %2").arg(revision).arg(qs(m_options.logbook.string()));
                notify();
            });
        };
        hooks.onSessions = [this, bridge = m_open->bridge](std::vector<logbook::SessionHead> sessions) {
            bridge.post([this, sessions = std::move(sessions)] { setLogbookSessions(sessions); });
        };
        hooks.onError = [this, bridge = m_open->bridge](const Error& error) {
            bridge.post([this, error] { tell(error); });
        };
        m_open->startWriter(std::move(logbook), std::move(hooks), m_options.clock);
    }
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
    m_after = m_view.session.facts->runs.empty() ? std::nullopt : std::optional(m_view.station);
    document::Change same; // nothing changed yet: what follows from the session is told and computed
    same.session = m_view.session;
    changed(same);
    for (const auto& handOver : loaded) handOver(*this);
    for (const auto& fault : faults) tell(fault);
    for (auto& then : std::exchange(m_whenOpen, {})) then();
    notify();
}

void Studio::whenOpen(std::function<void()> then) {
    if (m_open && m_toOpen.empty()) return then();
    m_whenOpen.push_back(std::move(then));
}

void Studio::newSession(std::uint64_t seed) {
    switchTo(app::say("Starting a session"),
             [file = m_options.logbook, id = SessionId{m_options.ids()}, seed]() -> Result<Started> {
                 Started started{freshStore(id, seed), nullptr, {}, {}};
                 openLogbook(file, started);
                 return started;
             });
}

void Studio::openSession(const SessionId& id) {
    const SessionId before = m_view.session.id;
    switchTo(app::say("Opening a session"),
             [file = m_options.logbook, id, before, fresh = SessionId{m_options.ids()}]() -> Result<Started> {
                 Started started{freshStore(fresh, 1), nullptr, {}, {}};
                 openLogbook(file, started);
                 // One that cannot be read leaves the one that was open.
                 if (!load(id, started) && before != SessionId{}) load(before, started);
                 return started;
             });
}

void Studio::openLatest() {
    switchTo(app::say("Opening the logbook"), [file = m_options.logbook, bytes = m_options.ids()]() -> Result<Started> {
        Started started{freshStore({bytes}, seedFrom(bytes)), nullptr, {}, {}};
        openLogbook(file, started);
        const auto latest = std::find_if(started.sessions.begin(), started.sessions.end(),
                                         [](const auto& head) { return !head.deleted; });
        if (latest != started.sessions.end()) load(latest->id, started);
        return started;
    });
}

void Studio::openRecipe(const std::filesystem::path& path) {
    description::Originals originals;
    const auto recipe = document::readRecipe(path, originals);
    if (!recipe) return tell(recipe.error());
    if (!m_view.empty() || (!m_open && m_toOpen.empty())) newSession(recipe->seed);
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
    if (!m_view.empty() || (!m_open && m_toOpen.empty())) newSession(seed);
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

void Studio::reviseGame(const game::Game& game, const std::optional<game::Values>& baseline) {
    const auto* before = m_view.session.game();
    const auto* text = before == nullptr ? nullptr : m_open->originals.find(before->mark);
    const std::string hidden = text == nullptr ? std::string() : rig_sim::hiddenTables(*text);
    const auto index = addGame(toToml(game) + hidden, game.name);
    if (!index) return tell(index.error());
    const auto& now = *m_view.session.facts->games[*index];
    std::vector<document::Edit> edits{document::reviseGame(*index, now)};
    if (baseline) edits.push_back(document::setBaseline(now, *baseline));
    apply(document::together("use-game", std::move(edits)));
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
