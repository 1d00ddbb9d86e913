// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/limits/tested.h>

#include <cmath>
#include <impasto/frames/parts.h>
#include <impasto/stats/stats.h>

#include "evidence.h"

namespace impasto::limits {
namespace {

using Capture = capture::Capture;
using Runs = std::span<const std::shared_ptr<const Capture>>;

constexpr double longFrameMs = 100;

/// About half of the pixels: the next usual size of the same shape, else two thirds a side.
display::Resolution smaller(display::Resolution r) {
    constexpr display::Resolution usual[] = {{2560, 1440}, {1920, 1080}, {1280, 720}, {1920, 1200},
                                             {1280, 800},  {2560, 1080}, {1720, 720}};
    for (const auto& u : usual) {
        const double share = display::megapixelsOf(u).value() / display::megapixelsOf(r).value();
        if (u.widthPx * r.heightPx == u.heightPx * r.widthPx && share < 0.6 && share > 0.2) return u;
    }
    return {r.widthPx * 2 / 3 / 8 * 8, r.heightPx * 2 / 3 / 8 * 8};
}

/// One level down of the setting that weighs most of those that load this.
bool lowerOne(run::Variant& variant, const game::Game& game, bool game::Setting::*pays) {
    const game::Setting* found = nullptr;
    std::size_t level = 0;
    for (const auto& setting : game.settings) {
        const auto it = variant.values.find(setting.id);
        const auto index = it == variant.values.end() ? std::nullopt : setting.levelIndex(it->second);
        if (!index || *index == 0 || !(setting.*pays) || setting.changesSize() || setting.unordered) continue;
        if (found != nullptr && setting.weight <= found->weight) continue;
        found = &setting;
        level = *index - 1;
    }
    if (found == nullptr) return false;
    variant.values[found->id] = found->levels[level].name;
    return true;
}

/// The render scale at about two thirds a side.
bool lowerScale(run::Variant& variant, const game::Game& game) {
    for (const auto& setting : game.settings) {
        const auto it = variant.values.find(setting.id);
        const auto now = it == variant.values.end() ? std::nullopt : setting.levelIndex(it->second);
        if (!now || !setting.levels[*now].scale) continue;
        const double wanted = 0.67 * *setting.levels[*now].scale;
        const game::Level* best = nullptr;
        for (std::size_t i = 0; i < *now; ++i) {
            const auto& level = setting.levels[i];
            if (level.scale && *level.scale < 0.85 * *setting.levels[*now].scale &&
                (best == nullptr || std::abs(*level.scale - wanted) < std::abs(*best->scale - wanted)))
                best = &level;
        }
        if (best == nullptr) continue;
        variant.values[setting.id] = best->name;
        return true;
    }
    return false;
}

/// A part over several runs.
struct TestedPart {
    std::vector<double> periods;     // a run each
    double longFrames = 0;           // a run, on average
    double lost = 0;                 // in hitches, a share, on average
    std::vector<double> clocks, mhz; // of the GPU, mean of a run: of its highest, and where a log tells those
};

std::map<std::string, TestedPart> testedParts(Runs runs) {
    std::map<std::string, TestedPart> out;
    for (const auto& run : runs) {
        const auto means = frames::partMeans(*run);
        const auto ranges = capture::partsOf(*run);
        const auto percent = capture::trackMean(*run, capture::Sensor::GpuClock);
        const auto mhz = capture::trackMean(*run, capture::Sensor::GpuMhz);
        for (std::size_t i = 0; i < ranges.size(); ++i) {
            auto& g = out[ranges[i].part];
            g.periods.push_back(means[i].periodMs);
            if (percent) g.clocks.push_back(*percent);
            if (mhz) g.mhz.push_back(*mhz);
            g.lost +=
                lostInHitches(std::span(run->framesMs).subspan(ranges[i].first, ranges[i].last - ranges[i].first));
            for (std::size_t f = ranges[i].first; f < ranges[i].last; ++f)
                g.longFrames += run->framesMs[f] > longFrameMs ? 1 : 0;
        }
    }
    for (auto& [part, g] : out) {
        g.longFrames /= static_cast<double>(g.periods.size());
        g.lost /= static_cast<double>(g.periods.size());
    }
    return out;
}

/// Half the 95% interval of a change of the mean, as a share: runs differ by themselves, by 1% where one alone tells.
double halfWidth(const TestedPart& before, const TestedPart& after) {
    const double mean = *stats::mean(before.periods);
    const double sd = std::max(0.003, stats::standardDeviation(before.periods).value_or(0.01 * mean) / mean);
    return 1.96 * sd *
           std::sqrt(1.0 / static_cast<double>(before.periods.size()) +
                     1.0 / static_cast<double>(after.periods.size()));
}

struct Bounds {
    double yes, no; // of the rate's rise
};
Bounds boundsOf(DecidingTest test) {
    switch (test) {
    case DecidingTest::LowerResolution:
        return {0.05, 0.03};
    case DecidingTest::DirectRoute:
        return {0.02, 0.01};
    default:
        return {0.03, 0.015};
    }
}

Answer answerOf(const Tested& t, const TestedPart& before, const TestedPart& after) {
    if (t.test == DecidingTest::LowerLoad) { // the clock tells
        const bool percent = !before.clocks.empty() && !after.clocks.empty();
        const auto was = stats::mean(percent ? before.clocks : before.mhz),
                   is = stats::mean(percent ? after.clocks : after.mhz);
        if (!was || !is || !(*was > 0)) return Answer::Unclear;
        const double rise = *is / *was - 1;
        return rise > 0.03 ? Answer::Yes : rise < 0.01 ? Answer::No : Answer::Unclear;
    }
    if (t.test == DecidingTest::SecondRun) { // the hitches do
        constexpr double matters = 0.003;
        if (before.lost < matters) return Answer::Unclear;
        return after.lost < 0.4 * before.lost   ? Answer::Yes
               : after.lost > 0.8 * before.lost ? Answer::No
                                                : Answer::Unclear;
    }
    if (t.test == DecidingTest::TexturesDown && before.longFrames >= 3 && after.longFrames < 0.3 * before.longFrames)
        return Answer::Yes;
    const auto bounds = boundsOf(t.test);
    if (t.rise > std::max(bounds.yes, t.half)) return Answer::Yes;
    return t.rise < bounds.no && t.rise + t.half < 2 * bounds.yes ? Answer::No : Answer::Unclear;
}

bool isOf(const Suspicion& s, DecidingTest test) {
    return testOf(s.cause) == test;
}

/// Heat and the rest: what the test is of is nearly sure, or nearly out.
void applyToCauses(PartVerdict& v, const Tested& t) {
    const Fact fact{Sign::RateInTest, 100 * t.rise, 100 * t.half};
    bool any = false;
    for (auto& s : v.suspicions) {
        if (!isOf(s, t.test)) continue;
        // Of two that one test is of, the likelier stands for both.
        if (t.answer == Answer::Yes && !any) {
            s.sure = std::max(s.sure, 0.97);
            s.evidence.push_back(fact);
        } else if (t.answer == Answer::No) {
            s.sure *= 0.15;
            s.against.push_back(fact);
        }
        any = true;
    }
    const auto cause = t.test == DecidingTest::FansUp              ? std::optional(Cause::Heat)
                       : t.test == DecidingTest::LowerLoad         ? std::optional(Cause::Power)
                       : t.test == DecidingTest::TexturesDown      ? std::optional(Cause::GpuMemory)
                       : t.test == DecidingTest::DirectRoute       ? std::optional(Cause::CopyRoute)
                       : t.test == DecidingTest::WithoutGeneration ? std::optional(Cause::Generation)
                       : t.test == DecidingTest::SecondRun         ? std::optional(Cause::FirstSight)
                       : t.test == DecidingTest::WithoutTools      ? std::optional(Cause::ToolFault)
                       : t.test == DecidingTest::MoreInFlight      ? std::optional(Cause::Turns)
                                                                   : std::nullopt;
    if (!any && cause && t.answer == Answer::Yes) {
        const bool chip = *cause == Cause::Heat;
        v.suspicions.push_back({*cause,
                                !chip                   ? run::Lane::Frame
                                : v.brake == Brake::Cpu ? run::Lane::Cpu
                                                        : run::Lane::Gpu,
                                0.9,
                                {fact}});
    }
}

void applyToBrake(PartVerdict& v, const Tested& t) {
    const bool told = v.cpu && v.gpu;
    if (t.test == DecidingTest::LiftCap || t.test == DecidingTest::FasterMode) {
        const Brake held = t.test == DecidingTest::LiftCap ? Brake::Cap : Brake::Refresh;
        if (t.answer == Answer::Yes) {
            v.brake = held;
            v.sure = 0.97;
        } else if (v.brake == held) {
            v.sure *= 0.3;
        }
        return;
    }
    if (t.test != DecidingTest::LowerResolution) return;
    const Brake says = t.answer == Answer::Yes ? Brake::Gpu : Brake::Cpu;
    if (t.answer == Answer::No && v.flat) return; // something holds it, whatever is drawn
    if (v.brake == says)
        v.sure = 0.97;
    else if (v.brake == Brake::CannotTell || !told) {
        v.brake = says;
        v.sure = 0.9;
    } else {
        v.sure *= 0.6; // the times in the log say otherwise
    }
}

} // namespace

std::optional<TestPlan> planOf(DecidingTest test, const run::Variant& usual, const run::Conditions& state,
                               const machine::Machine* machine, const game::Game* game) {
    TestPlan plan{usual, state};
    const auto wish = [&](bool possible) { return possible ? std::optional(plan) : std::nullopt; };
    switch (test) {
    case DecidingTest::LowerResolution:
        if (game != nullptr && lowerScale(plan.variant, *game)) return plan;
        if (usual.resolution.widthPx < 640) return std::nullopt;
        plan.variant.resolution = smaller(usual.resolution);
        return plan;
    case DecidingTest::LiftCap:
        plan.variant.cap.reset();
        plan.variant.sync = run::Sync::None;
        return plan; // as usual, where nobody told a cap: one may be on all the same
    case DecidingTest::FasterMode:
        if (machine == nullptr || machine->panel.modes.empty()) return std::nullopt;
        plan.variant.refresh = *std::max_element(machine->panel.modes.begin(), machine->panel.modes.end());
        return wish(*plan.variant.refresh > usual.refresh.value_or(machine->panel.refresh));
    case DecidingTest::FansUp:
        plan.conditions.fans = run::FanProfile::Full;
        return wish(state.fans != run::FanProfile::Full);
    case DecidingTest::LowerLoad:
        return wish(game != nullptr && lowerOne(plan.variant, *game, &game::Setting::paysGpu));
    case DecidingTest::TexturesDown:
        return wish(game != nullptr && lowerOne(plan.variant, *game, &game::Setting::paysMemory));
    case DecidingTest::DirectRoute:
        plan.variant.direct = true;
        return wish(machine != nullptr && machine->copyRoute && !usual.direct);
    case DecidingTest::WithoutGeneration:
        plan.variant.generation.reset();
        return wish(usual.generation.has_value());
    case DecidingTest::SecondRun:
        return plan;
    case DecidingTest::WithoutTools: // nothing that an order could say
    case DecidingTest::MoreInFlight:
    case DecidingTest::LanesInLog:
        break;
    }
    return std::nullopt;
}

std::optional<DecidingTest> testIn(const run::Order& order, const run::Variant& usual, const run::Conditions& state,
                                   const machine::Machine* machine, const game::Game* game) {
    for (const auto test : playedTests) {
        const auto plan = planOf(test, usual, state, machine, game);
        if (!plan || (plan->variant == usual && run::comparable(plan->conditions, state))) continue; // a baseline run
        if (plan->variant == order.variant && run::comparable(plan->conditions, order.conditions)) return test;
    }
    return std::nullopt;
}

std::vector<Tested> compareTested(DecidingTest test, Runs before, Runs after) {
    std::vector<Tested> out;
    const auto was = testedParts(before), is = testedParts(after);
    for (const auto& [part, b] : was) {
        const auto it = is.find(part);
        if (it == is.end()) continue;
        const auto& a = it->second;
        Tested t{test, part, *stats::mean(b.periods), *stats::mean(a.periods)};
        t.rise = t.beforeMs / t.afterMs - 1;
        t.half = halfWidth(b, a);
        t.answer = answerOf(t, b, a);
        out.push_back(std::move(t));
    }
    return out;
}

void applyTested(std::vector<PartVerdict>& verdicts, std::span<const Tested> tested) {
    for (auto& v : verdicts) {
        for (const auto& t : tested) {
            if (t.part != v.part) continue;
            v.tested.push_back(t);
            if (t.answer == Answer::Unclear) continue;
            applyToCauses(v, t);
            applyToBrake(v, t);
        }
        std::stable_sort(v.suspicions.begin(), v.suspicions.end(),
                         [](const auto& a, const auto& b) { return a.sure > b.sure; });
    }
}

} // namespace impasto::limits
