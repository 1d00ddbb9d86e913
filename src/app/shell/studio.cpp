// SPDX-License-Identifier: GPL-3.0-or-later
// The studio's own: what is computed, the path, and the recording.
#include "shell/studio.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QDir>
#include <impasto/base/file.h>
#include <impasto/path/answer.h>
#include <impasto/rig_sim/simulated.h>

namespace impasto::app {

using path::Action;

Deliver toTheWindow() {
    return [](std::function<void()> call) {
        QMetaObject::invokeMethod(QCoreApplication::instance(), std::move(call), Qt::QueuedConnection);
    };
}

Studio::Studio(StudioOptions options)
    : m_options(std::move(options)),
      m_opener([this](const Error& error) { m_bridge.post([this, error] { tell(error); }); }),
      m_loader([this](const Error& error) { m_bridge.post([this, error] { tell(error); }); }) {
    m_view.w = wording::Words([](const char* text) { return app::say(text).toStdString(); });
    m_view.station = stations().front().id;
    const auto rulesPath = m_options.dataDir / "cap_rules.toml";
    if (const auto text = readFile(rulesPath)) {
        if (auto rules = pace::parseCapRules(*text, rulesPath.string()))
            m_view.rules = *rules;
        else
            tell(rules.error());
    }
    if (!m_options.logbook.empty()) {
        m_dialectFile = m_options.logbook.parent_path() / "dialects.txt";
        m_dialects = logs::loadDialects(m_dialectFile);
    }
    m_followTimer.setInterval(200);
    QObject::connect(&m_followTimer, &QTimer::timeout, [this] { pollFollowed(); });
}

Studio::~Studio() {
    m_bridge.close();
    if (m_open) m_open->close();
}

bool Studio::idle() const {
    return m_toOpen.empty() && m_whenOpen.empty() && !m_resultsPending && !m_solvePending && !m_spanPending &&
           m_importsPending == 0 && m_pending.use_count() == 1 && !m_view.live.active && !m_primaryWaits &&
           (!m_open || m_open->idle());
}

void Studio::notify() {
    if (m_listener) m_listener();
}

void Studio::say(const QString& message) {
    m_view.message = message;
    notify();
}

void Studio::ask(const QString& field) {
    m_view.ask = field;
    notify();
}

void Studio::tell(const Error& error) {
    say(qs(wording::error(m_view.w, error).all()));
}

// --- results

void Studio::changed(const document::Change& change) {
    takeSession();
    if (m_open->writer) m_open->writer->post(change, m_open->store, m_open->originals);
}

void Studio::takeSession() {
    m_view.session = store().session();
    const auto* machine = m_view.session.machine();
    const auto* game = m_view.session.game();
    const auto& originals = m_open->originals;
    m_view.canSimulate = machine != nullptr && game != nullptr && rig_sim::canSimulate(originals, *machine, *game);
    const auto* text = game == nullptr ? nullptr : originals.find(game->mark);
    m_view.practiceGame = text != nullptr && !rig_sim::hiddenTables(*text).empty();
    requestResults();
}

void Studio::requestResults() {
    m_resultsPending = true;
    auto* open = m_open.get();
    // Of many runs the one that is looked at can be seen while the others are computed.
    const auto first = m_view.results->empty() ? m_view.run : std::nullopt;
    open->results.post([this, open, first, session = open->store.session(), rules = m_view.rules,
                        computing = open->computing](const std::stop_token& stop) {
        results::Watch watch;
        if (computing)
            watch = {[&computing](const RunId& run) { computing->begin(run); },
                     [&computing](const RunId& run) { computing->end(run); }};
        watch.first = first;
        watch.ready = [&](const results::Results& known) {
            open->bridge.post(
                [this, ahead = std::make_shared<const results::Results>(known), revision = session.revision] {
                    if (revision != m_view.session.revision || !m_view.results->empty()) return; // superseded
                    m_view.results = ahead;
                    notify();
                });
        };
        auto results =
            std::make_shared<results::Results>(results::compute(session, open->cache, rules, {stop, {}}, {}, watch));
        const bool whole = !stop.stop_requested();
        open->bridge.post([this, results, revision = session.revision, whole] {
            if (whole) takeResults(results, revision);
        });
    });
}

void Studio::takeResults(std::shared_ptr<const results::Results> results, std::uint64_t revision) {
    if (revision != m_view.session.revision) return; // superseded
    m_resultsPending = m_view.computing = false;
    m_view.results = std::move(results);
    const auto odd = std::exchange(m_view.step, path::nextStep(m_view.session, *m_view.results)).run;
    if (m_view.step.run && m_view.step.run != odd) showRun(*m_view.step.run); // it is spoken of
    if (m_after && !m_view.live.active) m_view.station = *std::exchange(m_after, std::nullopt);
    storeAbout();
    for (const auto& [stage, error] : m_view.results->errors())
        m_view.message = qs(wording::error(m_view.w, error).all());
    if (std::exchange(m_primaryWaits, false)) return performNow();
    requestSpan();
    if (auto* arrived = stationOf(m_view.station).arrived) arrived(*this);
    notify();
}

void Studio::storeAbout() {
    logbook::About about;
    if (const auto* machine = m_view.session.machine()) about.machine = machine->name;
    if (const auto& brief = m_view.edits().goal.brief) about.targetFps = brief->target.value();
    if (const auto* proof = m_view.get<proof::Proof>()) {
        about.verdict = "met";
        for (const auto& goal : proof->wishes) {
            if (goal.state == proof::WishState::NotMet) about.verdict = "not-met";
            if (goal.state == proof::WishState::NotEnoughRuns && about.verdict == "met") about.verdict = "open";
        }
    }
    if (!m_open->writer || about == m_about) return;
    m_about = about;
    m_open->writer->postAbout(m_view.session.id, about);
}

// --- the path

void Studio::primary() {
    if (m_view.live.active) return;
    m_view.message.clear();
    m_view.whyTopic.clear();
    if (m_resultsPending || m_open == nullptr) {
        m_primaryWaits = m_open != nullptr;
        return;
    }
    performNow();
}

void Studio::pickOrder(OrderId order) {
    m_view.order = order;
    notify();
}

void Studio::perform(const path::NextStep& step) {
    if (m_view.live.active || m_open == nullptr || m_resultsPending) return;
    m_view.message.clear();
    performStep(step);
}

void Studio::decide(limits::DecidingTest test) {
    if (m_view.live.active || m_open == nullptr || m_resultsPending) return;
    m_view.message.clear();
    const auto order = path::decidingOrder(m_view.session, test, m_options.ids);
    if (!order) return;
    if (m_view.session.facts->order(order->id) == nullptr) store().addOrders({*order});
    if (m_view.edits().subject.rig == document::RigKind::Hand) {
        m_view.station = stationDoing(Action::RecordBaseline);
        return pickOrder(order->id);
    }
    m_after = m_view.station;
    record({*order});
}

void Studio::performNow() {
    performStep(m_view.step);
}

void Studio::performStep(const path::NextStep& step) {
    if (step.action == Action::Begin) return startPractice();
    // What only a person can say is asked for where it is said.
    const auto& station = stationOf(stationDoing(step.action));
    if (step.action == Action::SayMachine || step.action == Action::SayGame || step.action == Action::SayBrief) {
        const bool nothingFits = step.reason != path::Reason::NoBrief && step.action == Action::SayBrief;
        m_view.station = station.id;
        if (!nothingFits)
            if (const auto [hand, rest] =
                    handFor(station.hands, QStringLiteral("begin.%1").arg(static_cast<int>(step.action)));
                hand != nullptr)
                return hand->press(*this, rest);
        return say(qs(wording::reason(m_view.w, m_view.session, *m_view.results, step)));
    }
    // Levels that nobody has looked at are not said to be right.
    if (step.action == Action::SayStart && m_view.station != station.id) return go(station.id);
    const auto performed = path::perform(store(), *m_view.results, step, m_options.ids, m_options.clock);
    if (!performed) return tell(performed.error());
    const StationId shown = stationShowing(step.action);
    if (performed->toRecord.empty()) {
        // A decision is seen where it was made; the next press goes on.
        m_after = m_view.station = shown;
        return notify();
    }
    m_view.station = station.id;
    if (m_view.edits().subject.rig == document::RigKind::Hand) {
        m_view.station = stationDoing(Action::RecordBaseline);
        return notify();
    }
    m_after = shown;
    record(performed->toRecord);
}

void Studio::record(std::vector<run::Order> orders) {
    m_view.live = {};
    m_view.live.active = true;
    m_view.live.of = orders.size();
    Recorder::Hooks hooks;
    hooks.onStart = [this](const run::Order& order, std::size_t index) {
        auto& live = m_view.live;
        live.title = qs(wording::purpose(m_view.w, m_view.session, order));
        live.number = index + 1;
        live.frameMs.clear();
        live.marks.clear();
        live.minutesLeft = static_cast<double>(live.of - index) * order.seconds / 60;
        notify();
    };
    hooks.onRun = [this](run::Run run) {
        const RunId id = run.id;
        store().addRuns({std::move(run)});
        showRun(id);
    };
    hooks.onEnd = [this](std::optional<Error> error) {
        m_view.live = {};
        requestResults();
        if (error) m_after.reset();
        if (error && error->code != ErrorCode::Cancelled)
            tell(*error);
        else if (error)
            say(app::say("Cancelled. The frames recorded so far are kept as a run that does not count."));
        else
            notify();
    };
    m_open->recorder.start(store().session(), m_open->originals, std::move(orders), m_options.ids, m_options.clock,
                           m_open->writer.get(), std::move(hooks));
    notify();
}

void Studio::liveTick() {
    if (!m_view.live.active || !m_open) return;
    m_open->recorder.takeTail(m_view.live.frameMs, m_view.live.marks);
    notify();
}

void Studio::cancelRecording() {
    if (m_view.live.active && m_open) m_open->recorder.cancel();
}

void Studio::skipWait() {
    if (m_open) m_open->recorder.skip();
}

std::filesystem::path Studio::home() const {
    return m_options.home.empty() ? std::filesystem::path(QDir::homePath().toStdString()) : m_options.home;
}

void Studio::go(StationId station) {
    m_view.station = station;
    m_view.whyTopic.clear();
    m_after.reset();
    if (auto* arrived = stationOf(station).arrived; arrived != nullptr && m_open) arrived(*this);
    notify();
}

void Studio::apply(const document::Edit& edit) {
    if (!m_open) return;
    if (const auto done = store().apply(edit); !done) return tell(done.error());
    notify();
}

void Studio::sayVariant(const RunId& run, const std::string& words) {
    if (!m_open) return;
    if (const auto done = path::sayVariant(store(), run, words); !done) return tell(done.error());
    notify();
}

void Studio::undo() {
    if (!m_open) return;
    const auto undone = store().undoable();
    if (!undone) return say(app::say("There is nothing to undo."));
    store().undo();
    m_view.message = app::say("Undone: %1.").arg(qs(wording::edit(m_view.w, *undone)));
    m_view.preview.reset();
    if (m_view.run && m_view.shownRun() != nullptr && !m_view.session.shown(*m_view.shownRun())) forgetRun(*m_view.run);
    notify();
}

void Studio::redo() {
    if (!m_open) return;
    const auto redone = store().redoable();
    if (!redone) return say(app::say("There is nothing to redo."));
    store().redo();
    if (*redone == "add-runs" && !m_view.session.facts->runs.empty())
        if (const auto& last = m_view.session.facts->runs.back(); m_view.session.shown(last)) showRun(last.id);
    m_view.message = app::say("Done again: %1.").arg(qs(wording::edit(m_view.w, *redone)));
    notify();
}

void Studio::showRun(const RunId& id) {
    if (m_view.run && *m_view.run != id) m_view.behind = m_view.run;
    m_view.run = id;
    m_view.span.reset();
    m_view.spanSummary.reset();
    m_view.zoomed = false;
}

void Studio::forgetRun(const RunId& gone) {
    if (m_view.behind == gone) m_view.behind.reset();
    if (m_view.run != gone) return;
    m_view.run.reset();
    for (const auto& run : m_view.session.facts->runs)
        if (run.id != gone && m_view.session.shown(run)) m_view.run = run.id;
}

} // namespace impasto::app
