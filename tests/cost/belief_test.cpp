// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <cost/hidden.h>
#include <impasto/base/random.h>
#include <impasto/cost/cost.h>
#include <set>

using namespace impasto;
using namespace impasto::cost;

namespace {

/// Two settings of three levels and a rendered size, in two parts: what they truly cost.
struct World {
    Layout layout;
    World() {
        const std::vector<double> rise{0, 0.4, 1};
        layout.dials = {{"shadows", {"low", "middle", "high"}, {0.05, 0.14, 0.06}, 0.2, rise},
                        {"crowd", {"few", "some", "many"}, {0.22, 0.03, 0.03}, 0.1, rise}};
        layout.sizes = {{{{"size", "50%"}}, 0.5, 1, game::UpscalerKind::Engine, "size", "50%"},
                        {{{"size", "100%"}}, 1.0, 1, {}, "size", "100%"}};
        layout.parts = {"town", "hills"};
    }
    [[nodiscard]] double cpu(const Set& x, std::size_t part) const {
        return (part == 0 ? 1.0 : 0.7) * (6 + 0.3 * double(x.levels[0]) + 2.5 * double(x.levels[1]));
    }
    [[nodiscard]] double gpu(const Set& x, std::size_t part) const {
        const double pixels = x.size == 0 ? std::pow(0.25, 0.9) : 1;
        return (part == 0 ? 0.8 : 1.0) *
               (2 + 7 * pixels + (0.8 + 0.2 * pixels) * 1.6 * double(x.levels[0]) + 0.2 * double(x.levels[1]));
    }
    [[nodiscard]] SeenRun run(const Set& x, std::uint64_t seed, double noise = 0.005) const {
        RandomStream random(seed, "run");
        SeenRun out{x, {}};
        for (std::size_t p = 0; p < 2; ++p) {
            out.taken[0].push_back(cpu(x, p) * (1 + noise * random.normal()));
            out.taken[1].push_back(gpu(x, p) * (1 + noise * random.normal()));
        }
        return out;
    }
    [[nodiscard]] SeenRun frames(const Set& x, std::uint64_t seed) const {
        SeenRun out = run(x, seed);
        for (std::size_t p = 0; p < 2; ++p) out.frameMs.push_back(std::max(*out.taken[0][p], *out.taken[1][p]));
        for (auto& taken : out.taken) taken.clear();
        return out;
    }
};

const Set high{{2, 2}, 1};
std::vector<Set> allSets() {
    std::vector<Set> out;
    for (std::size_t a = 0; a < 3; ++a)
        for (std::size_t b = 0; b < 3; ++b)
            for (std::size_t g = 0; g < 2; ++g) out.push_back({{a, b}, g});
    return out;
}

} // namespace

TEST(BeliefTest, AfterOneRunTheUsualCostsAreAsLargeAsItSays) {
    const World world;
    const auto belief = Belief::of(world.layout, {world.run(high, 1)});
    ASSERT_TRUE(belief);
    for (std::size_t p = 0; p < 2; ++p) {
        const auto gpu = belief->tell(Resource::Gpu, p, high);
        EXPECT_NEAR(gpu.mean, world.gpu(high, p), 0.03 * gpu.mean) << "where it was run it is known";
        EXPECT_LT(std::sqrt(gpu.variance), 0.03 * gpu.mean);
        const auto other = belief->tell(Resource::Gpu, p, {{0, 2}, 1});
        EXPECT_LT(other.mean, gpu.mean) << "a lower level costs less, as a rule";
        EXPECT_GT(std::sqrt(other.variance), 3 * std::sqrt(gpu.variance)) << "but how much is in doubt";
    }
    EXPECT_EQ(belief->resources(), (std::vector{Resource::Cpu, Resource::Gpu})) << "no memory was told";
    EXPECT_FALSE(belief->hidden());
}

TEST(BeliefTest, AFullMemoryIsNotLaidOnWhatElseWasNewInThatRun) {
    const World world;
    const Set both{{0, 2}, 0};
    const std::vector<SeenRun> before{world.run(high, 1), world.run({{0, 2}, 1}, 2)};
    SeenRun paging = world.run(both, 3);
    for (auto& ms : paging.taken[1]) *ms *= 1.6; // data moved to and fro
    const auto believed = [&](const std::vector<SeenRun>& runs) {
        return Belief::of(world.layout, runs)->tell(Resource::Gpu, 1, both);
    };
    const auto with = [&](bool full) {
        paging.memoryFull = full;
        auto runs = before;
        runs.push_back(paging);
        return believed(runs);
    };
    const double unmoved = believed(before).mean;
    const auto laid = with(false), left = with(true);
    const double shown = *paging.taken[1][1];
    EXPECT_GT(laid.mean - unmoved, 0.7 * (shown - unmoved)) << "taken at its word, the run is believed";
    EXPECT_LT(left.mean - unmoved, 0.85 * (laid.mean - unmoved)) << "told as full it is believed less";
    EXPECT_GT(left.variance, 4 * laid.variance) << "and how much the size takes is left in doubt";
}

TEST(BeliefTest, RunsThatChangeSeveralSettingsTellThemApart) {
    const World world;
    std::vector<SeenRun> runs;
    std::uint64_t seed = 1;
    for (const auto& set : {high, Set{{0, 2}, 1}, Set{{2, 0}, 0}, Set{{0, 0}, 0}, Set{{1, 1}, 1}, Set{{2, 1}, 0}})
        runs.push_back(world.run(set, seed++));
    const auto belief = Belief::of(world.layout, runs);
    ASSERT_TRUE(belief);
    for (const auto& set : allSets())
        for (std::size_t p = 0; p < 2; ++p) {
            const auto cpu = belief->tell(Resource::Cpu, p, set), gpu = belief->tell(Resource::Gpu, p, set);
            EXPECT_NEAR(cpu.mean, world.cpu(set, p), 0.06 * world.cpu(set, p));
            EXPECT_NEAR(gpu.mean, world.gpu(set, p), 0.06 * world.gpu(set, p));
            EXPECT_LT(std::abs(gpu.mean - world.gpu(set, p)), 4 * std::sqrt(gpu.variance) + 0.02 * gpu.mean);
        }
    const std::vector<Set> ran{high, {{0, 2}, 1}, {{2, 0}, 0}, {{0, 0}, 0}, {{1, 1}, 1}, {{2, 1}, 0}};
    const auto costs = levelCosts(*belief, Resource::Cpu, 0, high, ran);
    const auto few = costs.indexOf({"crowd", "few"});
    ASSERT_TRUE(few);
    EXPECT_NEAR(costs.estimate[*few], -5.0, costs.halfWidth(*few) + 0.3);
    EXPECT_EQ(costs.runs[0], 1U);
    EXPECT_EQ(costs.runs[*few], 2U);
    EXPECT_EQ(costs.runsThatMoved("crowd"), 4U);
    EXPECT_FALSE(costs.indexOf({"crowd", "many"})) << "the level in use has no difference";
}

TEST(BeliefTest, ALinearSumIsTheSetWithoutPairs) {
    const World world;
    const auto belief = Belief::of(world.layout, {world.run(high, 1), world.run({{0, 0}, 0}, 2)});
    for (std::size_t g = 0; g < 2; ++g) {
        const auto costs = belief->linear(Resource::Gpu, 1, g);
        ASSERT_EQ(costs.mean.size(), 5U) << "everything at its lowest, and two levels above it each";
        double sum = costs.mean[0] + costs.mean[2] + costs.mean[4], variance = 0;
        for (const std::size_t i : {0, 2, 4})
            for (const std::size_t j : {0, 2, 4}) variance += costs.covariance[i * 5 + j];
        const auto whole = belief->tell(Resource::Gpu, 1, {{2, 2}, g});
        EXPECT_NEAR(sum, whole.mean, 0.03 * whole.mean);
        EXPECT_GE(variance, 0.9 * whole.variance) << "what pairs do is in doubt, too, and the sum leaves it out";
    }
}

TEST(BeliefTest, MoreRunsLessenTheDoubt) {
    const World world;
    std::vector<SeenRun> runs{world.run(high, 1)};
    double last = 1e9;
    for (std::uint64_t seed = 2; seed < 6; ++seed) {
        const auto told = Belief::of(world.layout, runs)->tell(Resource::Cpu, 0, {{2, 0}, 1});
        EXPECT_LT(told.variance, last * 1.2);
        last = told.variance;
        runs.push_back(world.run({{seed % 3, 0}, seed % 2}, seed));
    }
    EXPECT_LT(std::sqrt(last), 0.6);
}

TEST(BeliefTest, ARunIsWorthMoreWhereMoreIsInDoubt) {
    const World world;
    const auto belief = Belief::of(world.layout, {world.run(high, 1)});
    const auto worth = belief->worthOf({high, {{0, 0}, 1}}, {{{0, 2}, 1}, {{2, 0}, 1}}, {{9, 9}, {9, 9}});
    EXPECT_GT(worth[1], 2 * worth[0]) << "again where it was run tells little";
}

TEST(BeliefTest, CostsThatAreNotTheUsualOnesAreDoubted) {
    World usual, odd;
    std::swap(odd.layout.dials[0].share, odd.layout.dials[1].share); // told the wrong way round
    std::vector<SeenRun> runs;
    std::uint64_t seed = 1;
    for (const auto& set : allSets()) runs.push_back(usual.run(set, seed++));
    const double sane = Belief::of(usual.layout, runs)->flat(), wrong = Belief::of(odd.layout, runs)->flat();
    EXPECT_GT(wrong, sane);
    EXPECT_GT(wrong, 0.3);
}

TEST(BeliefTest, NoisyRunsAreSeenAsNoisy) {
    const World world;
    const auto noiseOf = [&](double noise) {
        std::vector<SeenRun> runs;
        for (std::uint64_t seed = 1; seed < 9; ++seed) runs.push_back(world.run(high, seed, noise));
        return Belief::of(world.layout, runs)->runSd(Resource::Gpu);
    };
    EXPECT_GT(noiseOf(0.05), 2 * noiseOf(0.003));
}

TEST(BeliefTest, FromFrameTimesAloneCpuAndGpuAreToldApart) {
    const World world;
    std::vector<SeenRun> runs;
    std::uint64_t seed = 1;
    for (const auto& set : {high, Set{{2, 2}, 0}, Set{{0, 2}, 1}, Set{{2, 0}, 0}, Set{{2, 0}, 1}, Set{{0, 0}, 1},
                            Set{{1, 1}, 1}, Set{{0, 1}, 0}})
        runs.push_back(world.frames(set, seed++));
    const auto belief = Belief::of(world.layout, runs);
    ASSERT_TRUE(belief && belief->hidden());
    for (const auto& set : allSets())
        for (std::size_t p = 0; p < 2; ++p) {
            const auto cpu = belief->tell(Resource::Cpu, p, set), gpu = belief->tell(Resource::Gpu, p, set);
            const double longer = std::max(world.cpu(set, p), world.gpu(set, p));
            const double told = greaterOf({cpu.mean, cpu.variance}, {gpu.mean, gpu.variance}).mean;
            EXPECT_NEAR(told, longer, 0.12 * longer) << set.levels[0] << set.levels[1] << set.size << p;
        }
    EXPECT_GT(belief->shown(Resource::Cpu, 0) + belief->shown(Resource::Gpu, 0), 4);
    EXPECT_LE(belief->shown(Resource::Cpu, 0), 8.0 * 1.3);
}

TEST(BeliefTest, OneLaneAloneIsLearntAlone) {
    const World world;
    auto run = world.run(high, 1);
    run.taken[0].clear(); // a headset's CPU waits
    const auto belief = Belief::of(world.layout, {run});
    EXPECT_EQ(belief->resources(), std::vector{Resource::Gpu});
    EXPECT_FALSE(Belief::of(world.layout, {SeenRun{high, {}}})) << "a run that tells nothing";
}

TEST(BeliefTest, AThousandRunsAskNoMoreThanSomeTens) {
    const World world;
    std::vector<SeenRun> runs;
    for (std::uint64_t seed = 1; seed <= 700; ++seed) runs.push_back(world.run(high, seed));
    const auto together = merged(runs);
    ASSERT_EQ(together.size(), 3U) << "groups, whose scatter is still seen";
    std::size_t all = 0;
    double mean = 0;
    for (const auto& run : together) {
        all += static_cast<std::size_t>(run.weight);
        mean += run.weight * *run.taken[1][0] / 700;
    }
    EXPECT_EQ(all, 700U);
    EXPECT_NEAR(mean, world.gpu(high, 0), 0.002 * mean);
    const auto told = Belief::of(world.layout, runs)->tell(Resource::Gpu, 0, high);
    EXPECT_NEAR(told.mean, world.gpu(high, 0), 0.003 * told.mean);
    EXPECT_LT(std::sqrt(told.variance), 0.003 * told.mean) << "so many runs leave little doubt";
    // Of many sets the first and the latest are kept.
    runs.resize(1);
    for (const auto& set : allSets()) runs.push_back(world.run(set, 5));
    const auto few = merged(runs, 4);
    EXPECT_EQ(few.front().set, high);
    EXPECT_EQ(few.back().set, (allSets().back() == high ? allSets()[allSets().size() - 2] : allSets().back()));
    std::set<Set> sets;
    for (const auto& run : few) sets.insert(run.set);
    EXPECT_EQ(sets.size(), 4U);
}

TEST(BeliefTest, TheGreaterOfTwoHasClarksMoments) { // Clark 1961; of two standard normals 1/sqrt(pi) and 1 - 1/pi
    const auto even = greaterOf({0, 1}, {0, 1});
    EXPECT_NEAR(even.mean, 0.5641895835477563, 1e-9);
    EXPECT_NEAR(even.variance, 0.6816901138162093, 1e-9);
    EXPECT_NEAR(even.first, 0.5, 1e-12);
    const auto clear = greaterOf({10, 0.01}, {2, 0.01});
    EXPECT_NEAR(clear.mean, 10, 1e-9);
    EXPECT_NEAR(clear.variance, 0.01, 1e-9);
    EXPECT_NEAR(clear.first, 1, 1e-12);
}

TEST(BeliefTest, MemoryIsLearntOncePerRun) {
    const World world;
    auto first = world.run(high, 1), second = world.run({{0, 0}, 1}, 2);
    first.taken[2] = {6000.0};
    second.taken[2] = {5200.0};
    const auto belief = Belief::of(world.layout, {first, second});
    ASSERT_EQ(belief->resources().back(), Resource::GpuMemory);
    EXPECT_NEAR(belief->tell(Resource::GpuMemory, 0, high).mean, 6000, 60);
    EXPECT_NEAR(belief->tell(Resource::GpuMemory, 0, {{0, 0}, 1}).mean, 5200, 60);
    EXPECT_EQ(belief->partsOf(Resource::GpuMemory), 1U);
}

TEST(BeliefTest, EveryKindOfUpscalerHasAPassOfItsOwn) {
    World world;
    world.layout.sizes = {{{{"size", "100%"}}, 1, 1, {}, "size", "100%"},
                          {{{"size", "plain"}}, 0.5, 1, game::UpscalerKind::Spatial, "size", "plain"},
                          {{{"size", "dear"}}, 0.5, 1, game::UpscalerKind::Learned, "size", "dear"}};
    constexpr double cheap = 0.3, dear = 1.8; // ms
    const auto run = [&](const Set& x, std::uint64_t seed) {
        auto out = world.run({x.levels, x.size == 0 ? 1U : 0U}, seed);
        out.set = x;
        for (auto& ms : out.taken[1]) *ms += x.size == 0 ? 0.0 : x.size == 1 ? cheap : dear;
        return out;
    };
    const Set full{{2, 2}, 0}, plain{{2, 2}, 1}, learned{{2, 2}, 2};
    std::vector<SeenRun> runs{run(full, 1)};
    const auto between = [&] {
        const auto belief = Belief::of(world.layout, runs);
        return belief->tell(Resource::Gpu, 0, learned).mean - belief->tell(Resource::Gpu, 0, plain).mean;
    };
    EXPECT_GT(between(), 0) << "what is usual, before any was run";
    for (const auto& set : {plain, learned, Set{{0, 2}, 1}, Set{{2, 0}, 2}}) runs.push_back(run(set, runs.size() + 1));
    EXPECT_NEAR(between(), dear - cheap, 0.2);
    const auto costs = levelCosts(*Belief::of(world.layout, runs), Resource::Gpu, 0, full, std::vector<Set>{plain});
    EXPECT_EQ(costs.runs[*costs.indexOf({"size", "plain"})], 1U);
    EXPECT_LT(costs.estimate[*costs.indexOf({"size", "plain"})], costs.estimate[*costs.indexOf({"size", "dear"})]);
}

TEST(LayoutTest, AnUpscalerTakesThePlaceOfTheRenderScale) {
    const auto game = support::gameNamed("rainmarket.toml");
    auto values = game.presets.front().values;
    const auto layout = Layout::of(game, values, {"a"});
    EXPECT_EQ(layout.sizes.size(),
              game.setting("render_scale")->levels.size() + game.setting("upscaling")->levels.size() - 1);
    values["render_scale"] = "67%";
    const auto scaled = layout.setOf(values);
    ASSERT_TRUE(scaled);
    const auto upscaled = layout.sizeWith(scaled->size, "upscaling", "temporal 1.5");
    ASSERT_TRUE(upscaled);
    EXPECT_EQ(layout.sizes[*upscaled].levels.at("render_scale"), "100%");
    EXPECT_EQ(layout.sizeWith(*upscaled, "render_scale", "67%"), scaled->size);
    EXPECT_EQ(layout.sizes[*layout.sizeWith(*upscaled, "upscaling", "off")].scale, 1);
    EXPECT_FALSE(layout.sizeWith(0, "upscaling", "magic 1.5"));
    values["upscaling"] = "temporal 1.5";
    EXPECT_FALSE(layout.setOf(values)) << "both at once are not chosen";
    EXPECT_TRUE(Layout::of(game, values, {"a"}).setOf(values)) << "but played, where someone does";
}

TEST(LayoutTest, SetsAreValuesAndBack) {
    const auto game = support::saltmarsh();
    const auto values = game.presets.front().values;
    const auto layout = Layout::of(game, values, {"a"});
    const auto set = layout.setOf(values);
    ASSERT_TRUE(set);
    EXPECT_EQ(layout.valuesOf(*set), values) << "taste with the rest";
    EXPECT_EQ(layout.sizes.front().setting, "render_scale");
    EXPECT_EQ(layout.sizes[layout.leastSize()].levels.at("render_scale"),
              game.setting("render_scale")->levels.front().name);
    EXPECT_FALSE(layout.dialOf("lens")) << "taste is never varied";
    auto wrong = values;
    wrong["shadows"] = "none";
    EXPECT_FALSE(layout.setOf(wrong));
}
