// SPDX-License-Identifier: GPL-3.0-or-later
// The ways to walk, against the simulator's true costs without noise.
#include "choose/believed.h"

#include <impasto/choose/walk.h>

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

constexpr double share = 0.95; // of the budget

/// A walk over true costs: every set that is asked for is run.
struct Walker {
    machine::Machine machine = machineNamed("sedge-laptop.toml");
    game::Game game = upscaledGame();
    game::Values start = game.presets.front().values;
    std::vector<std::string> parts;
    cost::Layout layout;
    Fps target;
    Allowed allowed;
    std::vector<cost::SeenRun> runs;
    std::vector<Walked> walked;

    explicit Walker(Fps rate, const game::Values& locked = {}, bool ruled = false) : target(rate) {
        if (!ruled) game.rules.clear();
        for (const auto& part : game.routes.front().parts) parts.push_back(part.name);
        layout = cost::Layout::of(game, start, parts);
        allowed = Allowed::of(layout, locked, {}, game.rules);
        for (const auto& [setting, level] : locked) start[setting] = level;
        run(*layout.setOf(start));
    }

    [[nodiscard]] cost::SeenRun played(const cost::Set& set) const {
        auto values = start;
        for (const auto& [setting, level] : layout.valuesOf(set)) values[setting] = level;
        return trueRun(machine, game, layout, values);
    }
    [[nodiscard]] double load(const cost::SeenRun& run) const {
        double most = 0;
        for (const auto& lane : run.taken)
            for (const auto& ms : lane) most = std::max(most, *ms / (share * budgetOf(target).value()));
        return most;
    }
    void run(const cost::Set& set) {
        runs.push_back(played(set));
        walked.push_back({set, load(runs.back())});
    }
    [[nodiscard]] Ground ground() const {
        Ground out;
        out.baseline = start;
        out.chooser = std::make_shared<const Chooser>(*cost::Belief::of(layout, runs), game, allowed);
        for (const auto resource : out.belief().resources())
            out.shares.push_back(std::vector<double>(out.belief().partsOf(resource), share));
        return out;
    }
    [[nodiscard]] Stride next(WalkSchool walk, const std::vector<cost::Set>& skipped = {}) const {
        const auto known = ground();
        WalkGround from{*layout.setOf(start), {}, skipped};
        for (const auto& preset : game.presets) from.presets.push_back(*layout.setOf(preset.values));
        return strideOf(walk, *known.chooser, known.room(target), walked, from);
    }
    /// To its end; the steps.
    std::vector<Stride> walk(WalkSchool way) {
        std::vector<Stride> out;
        for (int i = 0; i < 60; ++i) {
            out.push_back(next(way));
            if (!out.back().next) return out;
            EXPECT_EQ(
                std::count_if(walked.begin(), walked.end(), [&](const Walked& w) { return w.set == *out.back().next; }),
                0)
                << "asked for twice";
            EXPECT_TRUE(allowed.has(*out.back().next));
            run(*out.back().next);
        }
        ADD_FAILURE() << "no end";
        return out;
    }
    [[nodiscard]] std::size_t stepsBetween(const cost::Set& a, const cost::Set& b) const {
        std::size_t out = a.size != b.size ? 1 : 0;
        for (std::size_t s = 0; s < a.levels.size(); ++s)
            out += a.levels[s] > b.levels[s] ? a.levels[s] - b.levels[s] : b.levels[s] - a.levels[s];
        return out;
    }
};

const std::vector<WalkSchool>& walks() {
    static const std::vector<WalkSchool> all(allWalkSchools.begin() + 1, allWalkSchools.end());
    return all;
}

/// Each walk to its end at 75 fps, once.
struct Made {
    Walker walker{Fps(75)};
    std::vector<Stride> steps;
};
const Made& made(WalkSchool way) {
    static std::map<WalkSchool, Made> all;
    if (!all.contains(way)) {
        Made one;
        one.steps = one.walker.walk(way);
        all.emplace(way, std::move(one));
    }
    return all.at(way);
}

/// The sets that a walk asked for by a move.
std::vector<cost::Set> asked(WalkSchool way, Move move) {
    std::vector<cost::Set> out;
    for (const auto& step : made(way).steps)
        if (step.next && step.move == move) out.push_back(*step.next);
    return out;
}

} // namespace

TEST(WalkTest, EveryWalkEndsAtASetThatHoldsAndNothingThatItTriedShowsMore) {
    for (const auto way : walks()) {
        const auto& [walker, steps] = made(way);
        ASSERT_TRUE(steps.back().stands) << keyOf(way);
        const auto& ends = *steps.back().stands;
        EXPECT_LE(walker.load(walker.played(ends)), 1) << keyOf(way);
        const auto known = walker.ground();
        for (const auto& run : walker.walked) {
            if (run.holds()) {
                EXPECT_LE(known.chooser->picture(run.set), known.chooser->picture(ends) + 1e-9) << keyOf(way);
            }
        }
        EXPECT_GT(known.chooser->picture(ends), 0.8) << keyOf(way);
    }
}

TEST(WalkTest, StepsGoOneAtATimeAndTheWayThatIsSaidAndNeverBeyondWhatBroke) {
    for (const auto way : walks()) {
        const auto& [walker, steps] = made(way);
        const auto known = walker.ground();
        std::size_t alone = 0;
        for (std::size_t i = 0; i < steps.size(); ++i) {
            const auto& step = steps[i];
            if (!step.next || (step.move != Move::Lower && step.move != Move::Raise)) continue;
            const double gained = known.chooser->picture(*step.next) - known.chooser->picture(*step.from);
            EXPECT_EQ(gained > 0, step.move == Move::Raise) << keyOf(way);
            if (step.move == Move::Lower && way == WalkSchool::InLeaps) continue;
            EXPECT_EQ(walker.stepsBetween(*step.from, *step.next), 1U) << keyOf(way);
            ++alone;
            if (step.move == Move::Lower) continue;
            for (std::size_t r = 0; r <= i; ++r) { // the start was run first
                const auto& run = walker.walked[r];
                bool more = walker.layout.sizes[step.next->size].scale >= walker.layout.sizes[run.set.size].scale;
                for (std::size_t s = 0; s < run.set.levels.size(); ++s)
                    more = more && step.next->levels[s] >= run.set.levels[s];
                EXPECT_FALSE(more && !run.holds()) << keyOf(way);
            }
        }
        EXPECT_GT(alone, 0U) << keyOf(way);
    }
}

TEST(WalkTest, EachBeginsAsItsNameSays) {
    const auto& layout = made(WalkSchool::TopDown).walker.layout;
    for (const auto way : {WalkSchool::TopDown, WalkSchool::InLeaps, WalkSchool::BothEnds}) {
        const auto sets = asked(way, Move::AllUp);
        ASSERT_EQ(sets.size(), 1U);
        EXPECT_EQ(layout.sizes[sets[0].size].scale, 1);
        for (std::size_t s = 0; s < layout.dials.size(); ++s)
            EXPECT_EQ(sets[0].levels[s] + 1, layout.dials[s].levels.size());
    }
    for (const auto way : {WalkSchool::BottomUp, WalkSchool::BothEnds}) {
        const auto sets = asked(way, Move::AllDown);
        ASSERT_GE(sets.size(), 1U);
        EXPECT_EQ(layout.sizes[sets[0].size].scale, 1);
        EXPECT_EQ(sets[0].levels, std::vector<std::size_t>(layout.dials.size(), 0));
    }
    const auto presets = asked(WalkSchool::PresetFirst, Move::Preset);
    ASSERT_GE(presets.size(), 1U);
    const auto game = upscaledGame(); // its highest preset is the start, and was run
    for (std::size_t i = 0; i < presets.size(); ++i)
        EXPECT_EQ(presets[i], *layout.setOf(game.presets[i + 1].values)) << i;
    const auto sizes = asked(WalkSchool::UpscaleFirst, Move::Size);
    ASSERT_GE(sizes.size(), 1U);
    double before = 1;
    for (const auto& set : sizes) {
        EXPECT_LT(layout.sizes[set.size].scale, before) << "the mildest ratio first";
        before = layout.sizes[set.size].scale;
    }
}

TEST(WalkTest, LocksAndRulesAreKept) {
    Walker locked{Fps(75), {{"shadows", "ultra"}, {"upscaling", "off"}, {"render_scale", "100%"}}};
    for (const auto& step : locked.walk(WalkSchool::InLeaps)) {
        if (!step.next) continue;
        EXPECT_EQ(locked.layout.valuesOf(*step.next).at("shadows"), "ultra");
        EXPECT_EQ(locked.layout.valuesOf(*step.next).at("upscaling"), "off");
    }
    Walker ruled{Fps(75), {}, true};
    ASSERT_FALSE(ruled.game.rules.empty());
    ruled.walk(WalkSchool::InLeaps); // asks for what is allowed alone
}

TEST(WalkTest, ATargetThatNothingHoldsHasAnEnd) {
    for (const auto way : {WalkSchool::BottomUp, WalkSchool::InLeaps, WalkSchool::UpscaleFirst}) {
        Walker absurd{Fps(900)};
        EXPECT_FALSE(absurd.walk(way).back().stands) << keyOf(way);
    }
}

TEST(WalkTest, AWalkGoesOnFromWhatAnotherLeft) {
    auto walker = made(WalkSchool::TopDown).walker;
    const auto runs = walker.walked.size();
    const auto ends = *made(WalkSchool::TopDown).steps.back().stands;
    const auto leaps = walker.walk(WalkSchool::InLeaps);
    EXPECT_EQ(walker.walked.size(), runs) << "both end where no step up is left";
    EXPECT_EQ(*leaps.back().stands, ends);
    Walker held{Fps(30)}; // what is in use holds: from there it goes up at once
    const auto step = held.next(WalkSchool::UpscaleFirst);
    EXPECT_EQ(*step.stands, held.walked.front().set);
    EXPECT_EQ(step.move, Move::Raise);
}

TEST(WalkTest, ARepeatThatBreaksTakesASetBack) {
    auto walker = made(WalkSchool::TopDown).walker;
    const auto ends = *made(WalkSchool::TopDown).steps.back().stands;
    for (auto& run : walker.walked)
        if (run.set == ends) run.load = 1.01; // the mean of two runs
    const auto after = walker.next(WalkSchool::TopDown);
    EXPECT_TRUE(!after.stands || *after.stands != ends);
}

TEST(WalkTest, ASetThatCannotBeSetIsNotAskedForAgain) {
    for (const auto way : {WalkSchool::TopDown, WalkSchool::PresetFirst}) {
        Walker walker{Fps(75)};
        std::vector<cost::Set> skipped;
        for (int i = 0; i < 4; ++i) {
            const auto step = walker.next(way, skipped);
            ASSERT_TRUE(step.next) << keyOf(way);
            EXPECT_EQ(std::count(skipped.begin(), skipped.end(), *step.next), 0) << keyOf(way);
            skipped.push_back(*step.next);
        }
    }
}

TEST(WalkTest, KeysAreReadBack) {
    for (const auto walk : allWalkSchools) EXPECT_EQ(walkSchoolOf(keyOf(walk)), walk);
    EXPECT_FALSE(walkSchoolOf("sideways"));
}
