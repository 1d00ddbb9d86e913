// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/choice.h>

#include <cmath>
#include <impasto/wording/bounds.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {
namespace {

/// Tenths of a percent point: sets differ by little.
std::string points(double share) {
    return fmt::format("{:.1f}", std::abs(100 * share));
}

/// The lane on which it changes most.
std::string costOf(const Words& w, const choose::WhyNot& answer) {
    const choose::LaneOutcome* most = nullptr;
    double change = 0;
    for (std::size_t i = 0; i < std::min(answer.before.size(), answer.after.size()); ++i) {
        const double here = answer.after[i].meanMs - answer.before[i].meanMs;
        if (most == nullptr || std::abs(here) > std::abs(change)) {
            most = &answer.after[i];
            change = here;
        }
    }
    if (most == nullptr) return {};
    const double gain = answer.swapped.picture - answer.chosen.picture;
    const auto figure = ms(std::abs(change)), lane = wording::lane(w, most->lane);
    if (gain >= 0)
        return change >= 0
                   ? w.say("It costs {} ms more on the {} and gains {} points of picture.", figure, lane, points(gain))
                   : w.say("It saves {} ms on the {} and gains {} points of picture.", figure, lane, points(gain));
    return change >= 0
               ? w.say("It costs {} ms more on the {} and loses {} points of picture.", figure, lane, points(gain))
               : w.say("It saves {} ms on the {} and loses {} points of picture.", figure, lane, points(gain));
}

} // namespace

std::string whyNot(const Words& w, const document::Session& session, const choose::WhyNot& a, Fps target) {
    const auto* setting = session.game() == nullptr ? nullptr : session.game()->setting(a.setting);
    const std::string label = setting == nullptr ? a.setting : setting->label;
    if (a.from == a.to) return w.say("{} {} is in the choice.", label, a.to);
    std::string out = costOf(w, a);
    const auto add = [&out](const std::string& sentence) { out += (out.empty() ? "" : " ") + sentence; };
    if (a.barred == choose::Barred::Locked) add(w.say("It may not be chosen: the setting is locked at another level."));
    if (a.barred == choose::Barred::CannotBeSet) add(w.say("It may not be chosen: it was said that it cannot be set."));
    for (const auto& broken : a.broken) add(rule(w, session, broken));
    if (a.barred == choose::Barred::ByRules) add(w.say("That is locked, or cannot be set."));
    if (!a.swapped.memoryFits) add(w.say("The GPU's memory would not hold it."));
    const auto worst = std::max_element(a.over.begin(), a.over.end(),
                                        [](const auto& x, const auto& y) { return x.overMs < y.overMs; });
    const auto& brief = session.edits->goal.brief;
    if (worst != a.over.end()) {
        const auto where = part(w, worst->lane.worstPart), on = lane(w, worst->lane.lane);
        const auto rate = fps(std::min(a.swapped.holds.value(), target.value()));
        const auto over = ms(worst->overMs), limit = ms(worst->lane.usableMs);
        add(brief && asksOfSettings(*brief)
                ? w.say("With it, {} would keep all that is asked at {} fps at most: the {} is {} ms over its limit of "
                        "{} ms, doubt counted.",
                        where, rate, on, over, limit)
                : w.say("With it, {} would hold only {} fps: the {} is {} ms over its safe limit of {} ms, doubt "
                        "counted.",
                        where, rate, on, over, limit));
    } else if (a.swapped.memoryFits && a.barred == choose::Barred::No && a.broken.empty()) {
        add(a.swapped.picture > a.chosen.picture + 1e-9
                ? w.say("It fits, and shows more than the choice does: take it.")
                : w.say("It would fit; it only shows less."));
    }
    return out;
}

std::string rule(const Words& w, const document::Session& session, const game::Rule& rule) {
    const auto label = [&](const std::string& id) {
        const auto* setting = session.game() == nullptr ? nullptr : session.game()->setting(id);
        return setting == nullptr ? id : setting->label;
    };
    const auto* other = session.game() == nullptr ? nullptr : session.game()->setting(rule.other);
    std::vector<std::string> barred;
    if (other != nullptr)
        for (const auto& level : other->levels)
            if (std::find(rule.needed.begin(), rule.needed.end(), level.name) == rule.needed.end())
                barred.push_back(level.name);
    const auto any = [&](const std::vector<std::string>& levels) {
        std::string out = levels.empty() ? std::string() : levels.front();
        for (std::size_t i = 1; i < levels.size(); ++i)
            out = i + 1 < levels.size() ? out + ", " + levels[i] : w.say("{} or {}", out, levels[i]);
        return out;
    };
    if (!barred.empty() && barred.size() < rule.needed.size())
        return w.say("In this game {} {} does not go with {} {}.", label(rule.setting), any(rule.levels),
                     label(rule.other), any(barred));
    return w.say("In this game {} {} needs {} {}.", label(rule.setting), any(rule.levels), label(rule.other),
                 any(rule.needed));
}

std::string leastMemory(const Words& w, const choose::LeastMemory& least, Fps target) {
    return w.say("{} fps fits into {} GiB of GPU memory, with {} of the picture.", wishFps(target),
                 gib(least.size.value()), percent(least.proposal.picture));
}

std::string whatHasToGo(const Words& w, const choose::WhyNot& a) {
    if (!a.with) return w.say("No set that has it fits in every part.");
    const double lost = a.chosen.picture - a.with->picture;
    const auto share = percent(a.with->picture);
    if (std::abs(lost) < 5e-4) return w.say("The best set that has it shows as much: {}.", share);
    return lost > 0 ? w.say("The best set that has it shows {} of the picture, {} points less.", share, points(lost))
                    : w.say("The best set that has it shows {} of the picture, {} points more.", share, points(lost));
}

std::string plan(const Words& w, const config::Plan& plan) {
    std::size_t values = 0;
    for (const auto& file : plan.files) values += file.changes.size();
    std::string out = values == 0              ? w.say("No value in a file changes.")
                      : values == 1            ? w.say("1 value changes in one file.")
                      : plan.files.size() == 1 ? w.say("{} values change in one file.", values)
                                               : w.say("{} values change in {} files.", values, plan.files.size());
    if (plan.alike > 0)
        out +=
            " " + (plan.alike == 1 ? w.say("1 stands there already.") : w.say("{} stand there already.", plan.alike));
    if (!plan.unplaced.empty())
        out += " " + w.say("{} are set in the game's menu: the description does not say where they live.",
                           plan.unplaced.size());
    return out;
}

} // namespace impasto::wording
