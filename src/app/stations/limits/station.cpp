// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/studio.h"
#include "stations/limits/limits.h"

#include <QtCore/QStringList>
#include <QtCore/Qt>
#include <impasto/limits/tested.h>

namespace impasto::app {
namespace {

StateLine state(const View& view) {
    const auto& verdicts = results::verdictsOf(*view.results);
    if (verdicts.empty()) return notYet();
    std::map<limits::Brake, int> counts;
    for (const auto& v : verdicts) ++counts[v.brake];
    if (counts.contains(limits::Brake::CannotTell)) return say("cannot tell");
    QStringList parts;
    for (const auto& [brake, n] : counts)
        parts << (brake == limits::Brake::Gpu   ? say("GPU in %1")
                  : brake == limits::Brake::Cpu ? say("CPU in %1")
                  : brake == limits::Brake::Cap ? say("cap in %1")
                                                : say("refresh in %1"))
                     .arg(n);
    return parts.join(QStringLiteral(", "));
}

void turn(Studio& s) {
    auto& ladder = s.state<LimitsState>().ladder;
    ladder = !ladder;
    s.notify();
}

void decide(Studio& s, const QString& key) {
    for (const auto test : offeredTests(s.view()))
        if (key == qs(std::string(limits::keyOf(test)))) return s.decide(test);
}

} // namespace

std::vector<limits::DecidingTest> offeredTests(const View& view) {
    std::vector<limits::DecidingTest> out;
    const auto& session = view.session;
    const auto offer = [&](const limits::PartVerdict& v, limits::DecidingTest test) {
        const auto answered = [&](const limits::Tested& t) {
            return t.test == test && t.answer != limits::Answer::Unclear;
        };
        if (std::any_of(v.tested.begin(), v.tested.end(), answered) ||
            std::find(out.begin(), out.end(), test) != out.end())
            return;
        if (limits::planOf(test, session.baselineVariant(), view.edits().subject.state.conditions, session.machine(),
                           session.game()))
            out.push_back(test);
    };
    const auto& verdicts = results::verdictsOf(*view.results);
    for (const auto& v : verdicts) offer(v, v.test());
    for (const auto& v : verdicts)
        for (const auto& s : v.suspicions)
            if (s.sure >= 0.3) offer(v, limits::testOf(s.cause));
    for (const auto& v : verdicts)
        if (v.brake == limits::Brake::Gpu || v.brake == limits::Brake::Cpu)
            offer(v, limits::DecidingTest::LowerResolution);
    return out;
}

Station limitsStation() {
    using path::Action;
    Station station{{"limits"}, "Limits", {}, {Action::RecordBaseline}, state};
    station.easel = layoutLimits;
    station.column = layoutLimitsColumn;
    station.hands = {{"limit."}, {"decide.", decide}, {"limits.turn", [](Studio& s, const QString&) { turn(s); }}};
    station.keys = {{Qt::Key_V, "V", "the parts or the ladder, in a low window", turn}};
    station.shots = {{"limits", Action::AcceptChoice}};
    return station;
}

} // namespace impasto::app
