// SPDX-License-Identifier: GPL-3.0-or-later
// The choice among upscalers of several kinds and ratios, against every set there is.
#include "support/support.h"

#include <impasto/choose/front.h>
#include <impasto/rig_truth/truth.h>

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

game::Game upscaledGame() {
    return gameNamed("rainmarket.toml");
}

/// Held, since else there are too many sets to try; and what the test holds besides.
Allowed heldAnd(const cost::Layout& layout, const game::Game& game, game::Values locked) {
    for (const char* id : {"texture_filter", "textures", "traced_light", "view_distance"})
        locked[id] = game.presets.front().values.at(id);
    return Allowed::of(layout, locked, {});
}

/// Believed after runs of the highest preset and at two sizes, at their true costs.
Ground believed(const machine::Machine& machine, const game::Game& game) {
    const auto values = game.presets.front().values;
    std::vector<std::string> parts;
    for (const auto& part : game.routes.front().parts) parts.push_back(part.name);
    const auto layout = cost::Layout::of(game, values, parts);
    std::vector<cost::SeenRun> runs;
    for (const char* upscaling : {"off", "temporal 2.0", "learned 1.5"}) {
        auto played = values;
        played["upscaling"] = upscaling;
        run::Variant variant;
        variant.values = played;
        variant.resolution = machine.panel.native;
        cost::SeenRun run{*layout.setOf(played), {}};
        for (const auto& part : parts) {
            const auto work = rig_truth::partWork(originals(), machine, game, variant, part);
            EXPECT_TRUE(work.has_value());
            run.taken[0].push_back(work->cpuMs);
            run.taken[1].push_back(work->gpuMs);
        }
        runs.push_back(std::move(run));
    }
    Ground out;
    out.baseline = values;
    out.chooser = std::make_shared<const Chooser>(*cost::Belief::of(layout, runs), game, heldAnd(layout, game, {}));
    for (const auto resource : out.belief().resources())
        out.shares.push_back(std::vector<double>(out.belief().partsOf(resource), 0.95));
    return out;
}

/// Every set that may be chosen.
std::vector<cost::Set> every(const Chooser& chooser) {
    const auto& layout = chooser.belief().layout();
    std::vector<cost::Set> out;
    for (std::size_t g = 0; g < layout.sizes.size(); ++g) {
        std::vector<std::size_t> at(layout.dials.size(), 0);
        for (std::size_t i = 0; i < at.size();) {
            if (chooser.allowed().has({at, g})) out.push_back({at, g});
            for (i = 0; i < at.size() && ++at[i] == layout.dials[i].levels.size(); ++i) at[i] = 0;
        }
    }
    return out;
}

} // namespace

TEST(UpscaledTest, TheChoiceAndTheWaysEqualBruteForce) {
    const auto machine = machineNamed("sedge-laptop.toml");
    const auto game = upscaledGame();
    const auto ground = believed(machine, game);
    const auto& layout = ground.belief().layout();
    const auto sets = every(*ground.chooser);
    std::set<std::string> chosen;
    for (const double target : {60.0, 75.0, 90.0, 140.0}) {
        auto room = ground.room(Fps(target));
        std::map<std::size_t, double> best; // by size
        for (const auto& set : sets)
            if (ground.chooser->standing(set, room).sure >= usualSafety)
                best[set.size] = std::max(best[set.size], ground.chooser->picture(set));
        if (best.empty()) {
            EXPECT_EQ(propose(ground, Fps(target)).error().code, ErrorCode::NothingFits) << target;
            continue;
        }
        const auto most = std::max_element(best.begin(), best.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        const auto proposal = propose(ground, Fps(target));
        ASSERT_TRUE(proposal.has_value()) << target;
        EXPECT_NEAR(proposal->picture, most->second, 0.006) << target;
        EXPECT_NEAR(proposal->picture, game::pictureValue(game, proposal->values), 1e-4);
        chosen.insert(proposal->values.at("upscaling"));
        const auto ways = waysTo(ground, Fps(target));
        ASSERT_TRUE(ways.has_value());
        for (const auto& way : *ways) {
            const auto size = layout.setOf(way.proposal.values)->size;
            EXPECT_EQ(way.size, layout.sizes[size]);
            EXPECT_NEAR(way.proposal.picture, best[size], 0.006) << way.size.name << target;
        }
    }
    EXPECT_GE(chosen.size(), 3U) << "the target decides which";
}

TEST(UpscaledTest, WhyNotSwapsTheSizeAndKeepsTheRest) {
    const auto game = upscaledGame();
    const auto ground = believed(machineNamed("sedge-laptop.toml"), game);
    auto choice = propose(ground, Fps(90))->values;
    ASSERT_NE(choice.at("upscaling"), "off");
    const auto native = whyNot(ground, choice, Fps(90), {"upscaling", "off"});
    ASSERT_TRUE(native.has_value());
    EXPECT_FALSE(native->over.empty()) << "else it would have been chosen";
    EXPECT_EQ(native->barred, Barred::No);
    const auto scaled = whyNot(ground, choice, Fps(90), {"render_scale", "67%"});
    ASSERT_TRUE(scaled.has_value());
    EXPECT_EQ(scaled->swapped.values.at("upscaling"), "off") << "the output is made once";
    EXPECT_EQ(scaled->swapped.values.at("render_scale"), "67%");
    choice["upscaling"] = scaled->swapped.values.at("upscaling");
    choice["render_scale"] = "67%";
    EXPECT_EQ(scaled->swapped.values, choice);
}

TEST(UpscaledTest, ALockHoldsTheKind) {
    const auto game = upscaledGame();
    auto ground = believed(machineNamed("sedge-laptop.toml"), game);
    for (const char* held : {"spatial 1.5", "off"}) {
        ground.chooser = std::make_shared<const Chooser>(
            ground.belief(), game, heldAnd(ground.belief().layout(), game, {{"upscaling", held}}));
        const auto proposal = propose(ground, Fps(75));
        ASSERT_TRUE(proposal.has_value()) << held;
        EXPECT_EQ(proposal->values.at("upscaling"), held);
    }
    // No size holds both: one of them is kept, and nothing else is opened.
    const auto both =
        Allowed::of(ground.belief().layout(), {{"upscaling", "temporal 1.5"}, {"render_scale", "67%"}}, {});
    for (std::size_t g = 0; g < both.sizes.size(); ++g) {
        const auto& levels = ground.belief().layout().sizes[g].levels;
        EXPECT_EQ(both.sizes[g], levels.at("upscaling") == "temporal 1.5" || levels.at("render_scale") == "67%");
    }
    const auto other = whyNot(ground, propose(ground, Fps(75))->values, Fps(75), {"upscaling", "learned 1.5"});
    ASSERT_TRUE(other.has_value());
    EXPECT_NE(other->barred, Barred::No);
}
