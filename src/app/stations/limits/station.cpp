// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/limits/limits.h"

#include <QtCore/QStringList>

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

} // namespace

Station limitsStation() {
    using path::Action;
    Station station{{"limits"}, "Limits", {}, {Action::RecordBaseline}, state};
    station.easel = layoutLimits;
    station.column = layoutLimitsColumn;
    station.hands = {{"limit."}};
    station.shots = {{"limits", Action::RecordCosts}};
    return station;
}

} // namespace impasto::app
