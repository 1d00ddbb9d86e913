// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/studio.h"
#include "stations/limits/limits.h"

#include <QtCore/QStringList>
#include <QtCore/Qt>

namespace impasto::app {
namespace {

StateLine state(const View& view) {
    const auto& verdicts = results::verdictsOf(*view.results);
    if (verdicts.empty()) return notYet();
    std::map<limits::Brake, int> counts;
    int held = 0;
    for (const auto& v : verdicts) ++(limits::heldBy(v) != nullptr ? held : counts[v.brake]);
    if (counts.contains(limits::Brake::CannotTell)) return say("cannot tell");
    QStringList parts;
    for (const auto& [brake, n] : counts)
        parts << (brake == limits::Brake::Gpu   ? say("GPU in %1")
                  : brake == limits::Brake::Cpu ? say("CPU in %1")
                  : brake == limits::Brake::Cap ? say("cap in %1")
                                                : say("refresh in %1"))
                     .arg(n);
    if (held > 0) parts << say("rest in %1").arg(held);
    return parts.join(QStringLiteral(", "));
}

void turn(Studio& s) {
    auto& ladder = s.state<LimitsState>().ladder;
    ladder = !ladder;
    s.notify();
}

void nextShare(Studio& s) {
    auto& faster = s.state<LimitsState>().faster;
    faster = (faster + 1) % limits::fasterBy.size();
    s.notify();
}

void decide(Studio& s, const QString& key) {
    if (const auto test = limits::decidingTestOf(key.toStdString())) s.decide(*test);
}

} // namespace

Station limitsStation() {
    using path::Action;
    Station station{{"limits"}, "Limits", {}, {Action::RecordBaseline}, state};
    station.easel = layoutLimits;
    station.column = layoutLimitsColumn;
    station.hands = {{"limit."},
                     {"decide.", decide},
                     {"limits.turn", [](Studio& s, const QString&) { turn(s); }},
                     {"limits.faster", [](Studio& s, const QString&) { nextShare(s); }}};
    station.keys = {{Qt::Key_V, "V", "the parts or the ladder, in a low window", turn},
                    {Qt::Key_F, "F", "what if chips were faster by another share", nextShare}};
    station.shots = {
        {"limits", Action::RecordCosts, [](Studio& s) { s.decide(limits::DecidingTest::LowerResolution); }}};
    return station;
}

} // namespace impasto::app
