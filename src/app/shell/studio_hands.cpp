// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do: with the shell's own shapes, and with those of the station in view.
#include "shell/studio.h"
#include "stations/pages.h"

namespace impasto::app {
namespace {

/// Of the bars, the ribbon, the message and the why drawer.
const std::vector<Hand>& ownHands() {
    using S = Studio;
    using Q = const QString&;
    static const std::vector<Hand> hands{
        {"primary", [](S& s, Q) { s.primary(); }},
        {"station.", [](S& s, Q key) { s.go(stationOf({key.toStdString()}).id); }},
        {"message.close", [](S& s, Q) { s.say({}); }},
        {"live.skip", [](S& s, Q) { s.skipWait(); }},
        {"live.cancel", [](S& s, Q) { s.cancelRecording(); }},
        {"import.cancel", [](S& s, Q) { s.cancelImport(); }},
        {"follow.mark", [](S& s, Q) { s.markFollowed(); }},
        {"follow.take", [](S& s, Q) { s.endFollowing(true); }},
        {"follow.leave", [](S& s, Q) { s.endFollowing(false); }},
        {"why.", [](S& s, Q topic) { s.why(topic == QStringLiteral("close") ? QString() : topic); }},
        {"jump.",
         [](S& s, Q at) {
             const double ms = at.toDouble();
             s.select(TimeSpan{std::max(0.0, ms - 500), ms + 500}, s.view().zoomed);
         }},
        {"page.",
         [](S& s, Q rest) {
             s.state<Pages>().first[rest.section(QLatin1Char('.'), 0, -2)] =
                 static_cast<std::size_t>(rest.section(QLatin1Char('.'), -1).toULongLong());
             s.notify();
         }},
        {"session.new", [](S& s, Q) { s.newSession(s.view().session.facts->seed + 1); }}};
    return hands;
}

} // namespace

std::pair<const Hand*, QString> Studio::handOf(const QString& id) const {
    // The station in view first; then the shell, and what other stations lend to the start page and the bars.
    if (const auto found = handFor(stationOf(m_view.station).hands, id); found.first != nullptr) return found;
    if (const auto found = handFor(ownHands(), id); found.first != nullptr) return found;
    for (const auto& station : stations())
        if (const auto found = handFor(station.hands, id); found.first != nullptr) return found;
    return {nullptr, {}};
}

void Studio::activate(const QString& id) {
    m_view.message.clear();
    const auto [hand, rest] = handOf(id);
    if (hand != nullptr && hand->press != nullptr) return hand->press(*this, rest);
    notify();
}

void Studio::edited(const QString& id, const QString& text) {
    m_view.message.clear();
    const auto [hand, rest] = handOf(id);
    if (hand != nullptr && hand->type != nullptr) hand->type(*this, rest, text);
}

void Studio::stepped(const QString& id, int steps) {
    const auto [hand, rest] = handOf(id);
    if (hand != nullptr && hand->step != nullptr) hand->step(*this, rest, steps);
}

void Studio::dragged(const QString& id, QPointF at, DragPhase phase, QSizeF easel) {
    const auto [hand, rest] = handOf(id);
    if (hand != nullptr && hand->drag != nullptr) hand->drag(*this, rest, at, phase, easel);
}

void Studio::budgetPreview(Fps target) {
    if (!m_open || !m_view.edits().goal.brief || target.value() < 10 || target.value() > 1000) return;
    const auto* shown = results::proposalOf(*m_view.results);
    const std::optional<choose::Proposal> before = m_view.preview     ? m_view.preview->proposal
                                                   : shown != nullptr ? std::optional(*shown)
                                                                      : std::nullopt;
    m_view.preview = Preview{target, before, {}, m_view.preview ? m_view.preview->solvedFor : Fps(0)};
    notify();
    m_solvePending = true;
    auto* open = m_open.get();
    open->solver.post(
        [this, open, target, session = m_view.session, results = m_view.results](const std::stop_token& stop) {
            const auto ground = results::groundOf(*results);
            auto solved = std::make_shared<Result<choose::Proposal>>(
                ground ? choose::propose(*ground, target, {stop, {}})
                       : Result<choose::Proposal>(fail(ErrorCode::LacksRuns, "1")));
            open->bridge.post([this, target, solved] {
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
    apply(document::setTarget(target));
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
    if (!m_open || !m_view.span || !m_view.run) return;
    m_spanPending = true;
    auto* open = m_open.get();
    open->spans.post(
        [this, open, session = m_view.session, run = *m_view.run, span = *m_view.span](const std::stop_token&) {
            const auto found = results::spanSummary(session, run, span);
            const auto summary = found ? std::make_shared<const frames::Summary>(*found) : nullptr;
            open->bridge.post([this, summary, run, span] {
                if (!m_view.span) m_spanPending = false;
                if (m_view.run != run || m_view.span != span) return; // superseded
                m_spanPending = false;
                m_view.spanSummary = summary;
                notify();
            });
        });
}

void Studio::nextHitch() {
    const auto* figures = m_view.run ? m_view.of<results::RunFigures>(*m_view.run) : nullptr;
    if (figures == nullptr || figures->summary.hitches.empty()) return;
    const double now = m_view.span ? 0.5 * (m_view.span->fromMs + m_view.span->toMs) : -1;
    const auto& all = figures->summary.hitches;
    const auto trims = m_view.session.trimsOf(*m_view.run);
    const auto moment = [&trims](const frames::Hitch& h) { return capture::timeInWhole(trims, h.atMs); };
    const auto it = std::find_if(all.begin(), all.end(), [&](const frames::Hitch& h) { return moment(h) > now + 1; });
    const double at = moment(it == all.end() ? all.front() : *it);
    select(TimeSpan{std::max(0.0, at - 1000), at + 1000}, m_view.zoomed);
}

void Studio::compareWith() {
    // Overlays the run before the one behind, going round.
    std::vector<RunId> shown;
    for (const auto& run : m_view.session.facts->runs)
        if (m_view.session.shown(run) && run.id != m_view.run) shown.push_back(run.id);
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
