// SPDX-License-Identifier: GPL-3.0-or-later
// The choice among upscalers of several kinds and ratios, against every set there is.
#include "choose/believed.h"

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

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
