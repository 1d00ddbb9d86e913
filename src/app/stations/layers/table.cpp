// SPDX-License-Identifier: GPL-3.0-or-later
// The costs as a table, for a spreadsheet.
#include "stations/layers/layers.h"

#include <QtCore/QStringList>
#include <cmath>
#include <impasto/base/text.h>

namespace impasto::app {
namespace {

QString figure(double value) {
    return qs(shortestText(std::round(value * 1000) / 1000));
}

} // namespace

QString layersTable(const View& view) {
    const auto* costs = view.get<results::Costs>();
    const auto* game = view.session.game();
    if (costs == nullptr || game == nullptr) return {};
    QStringList heading{say("setting"), say("level")};
    for (const auto& lane : costs->lanes) {
        const QString name = qs(wording::lane(view.w, lane.lane));
        heading << say("%1 ms").arg(name) << say("%1 ± ms").arg(name);
    }
    heading << say("GPU memory MiB") << say("picture");
    QStringList lines{heading.join(QLatin1Char('\t'))};
    for (const auto& setting : game->settings)
        for (const auto& level : setting.levels) {
            QStringList cells{qs(setting.label), qs(level.name)};
            bool any = false;
            const auto add = [&](const cost::LevelCosts* of, bool width) {
                const auto index = of == nullptr ? std::nullopt : of->indexOf({setting.id, level.name});
                any = any || index.has_value();
                cells << (index ? figure(of->estimate[*index]) : QString());
                if (width) cells << (index ? figure(of->halfWidth(*index)) : QString());
            };
            for (const auto& lane : costs->lanes) add(&lane.levels, true);
            add(costs->gpuMemory ? &*costs->gpuMemory : nullptr, false);
            cells << figure(level.picture);
            if (any) lines << cells.join(QLatin1Char('\t'));
        }
    return lines.join(QLatin1Char('\n')) + QLatin1Char('\n');
}

} // namespace impasto::app
