// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/layers.h>

#include <cmath>
#include <impasto/base/shown.h>
#include <impasto/game/size.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::vector<ChangedLine> changes(const game::Game& game, const game::Values& before, const game::Values& after) {
    std::vector<ChangedLine> out;
    for (const auto& setting : game.settings) {
        const auto b = before.find(setting.id), a = after.find(setting.id);
        if (b != before.end() && a != after.end() && b->second != a->second)
            out.push_back({setting.label, b->second, a->second});
    }
    return out;
}

std::string choice(const Words& w, const document::Session& session, const choose::Proposal& proposal) {
    std::vector<std::string> list;
    for (const auto& line : changes(*session.game(), session.edits->settings.baseline, proposal.values))
        list.push_back(w.say("{}: {}", line.setting, line.after));
    if (list.empty()) return w.say("Every setting stays as it is.");
    return w.say("{}; the rest stays as it is.", listed(w, list));
}

std::string rendered(const Words& w, const document::Session& session, const game::Values& values) {
    const auto size = game::sizeOf(*session.game(), values);
    const auto full = game::fullOutputOf(*session.game()).value_or(session.baselineVariant().resolution);
    if (size.scale >= 1 || full.widthPx == 0) return {};
    const auto output = display::scaled(full, size.output);
    std::string out = w.say("Renders {} of {}: judge it in motion, at the panel's own size.",
                            resolution(display::scaled(full, size.scale)), resolution(output));
    if (size.scale >= size.output)
        out = w.say("{} on a panel of {}: judge it in motion; menus and text are stretched as well.",
                    resolution(output), resolution(full));
    if (size.scale / size.output * display::usualRatio(output) < 0.99)
        out += " " +
               w.say("Fewer pixels than is usual at {} lines: leaves, wires and small text go first.", output.heightPx);
    if (size.upscaler == game::UpscalerKind::Spatial)
        out += " " + w.say("This upscaler sharpens by itself: no second sharpening.");
    return out;
}

std::string earlierRuns(const Words& w, const document::Session& session, const results::Results& results) {
    const auto& earlier = session.edits->settings.earlier;
    if (!earlier || session.game() == nullptr) return {};
    const std::string from = shown(earlier->from.empty() ? w.say("an unnamed session") : earlier->from);
    const auto* costs = results.get<results::Costs>();
    if (costs != nullptr && costs->earlier == results::Earlier::FitsNoMore)
        return w.say("What {} taught does not fit the runs of this session: it is left aside.", from);
    const bool elsewhere = earlier->chips != document::chipsOf(session.machine()),
               updated = earlier->version != session.game()->version;
    const auto count = earlier->runs.size();
    if (elsewhere && updated)
        return w.say("{} runs of {} count a little, since they are of another machine and version.", count, from);
    if (elsewhere) return w.say("{} runs of {} count a little, since they are of another machine.", count, from);
    if (updated) return w.say("{} runs of {} count in part, since they are of another version.", count, from);
    return w.say("{} runs of {} count in part, since they are of another time.", count, from);
}

std::string proven(const Words& w, const choose::Proposal& p) {
    if (p.proven) return w.say("Proven best for these costs.");
    return w.say("Not proven: up to {} more picture may be possible.", percent(p.pictureGap));
}

Why whyCost(const Words& w, const game::Setting& setting, const std::string& level, const choose::LaneCosts& lane) {
    const auto& costs = lane.levels;
    const auto index = costs.indexOf({setting.id, level});
    const std::string figure =
        index ? w.say("{} {} compared with now: {} ms in {}", setting.label, level,
                      signedPlusMinus(costs.estimate[*index], costs.halfWidth(*index), 2), part(w, lane.worstPart))
              : w.say("{} {} is the level in use now.", setting.label, level);
    const std::size_t moved = costs.runsThatMoved(setting.id);
    const std::string runs =
        moved == 0
            ? w.say("No run has changed this setting yet: the figure is what it usually costs, as far as the other "
                    "runs leave room for it.")
        : moved == 1 ? w.say("1 run has changed this setting.")
                     : w.say("{} runs have changed this setting.", moved);
    return {
        w.say("Cost of {} on the {}", setting.label, wording::lane(w, lane.lane)),
        w.say("A run changes several settings at once. Every cost is above zero and starts from what such a setting "
              "usually costs; all runs together correct all of them, in every part, by how much each is in doubt "
              "(regression with lognormal costs; method in the documents)."),
        figure, w.say("95% interval. {} One run differs from another by about {}.", runs, percent(costs.runSd)),
        w.say("A run in which this setting differs narrows it.")};
}

Why whyChoice(const Words& w, const choose::Proposal& p) {
    std::string inputs;
    for (const auto& l : p.lanes)
        inputs +=
            (inputs.empty() ? "" : " ") + w.say("{}: {} ms + {} ms for doubt, safe limit {} ms in {}.", lane(w, l.lane),
                                                ms(l.meanMs), ms(l.marginMs), ms(l.usableMs), part(w, l.worstPart));
    return {
        w.say("The choice"),
        w.say("The levels with the highest weighted picture whose mean + 1.5 standard deviations of a run stays under "
              "the safe limit on CPU and GPU in every part, and within the GPU's memory. Branch and bound over all "
              "combinations."),
        inputs,
        proven(w, p) + " " +
            w.say("{} nodes searched. One run of it stays within its limits with a chance of "
                  "at least {}.",
                  count(p.nodes), percent(p.chance)),
        w.say("Another target, other safe limits, a locked setting, or more runs.")};
}

} // namespace impasto::wording
