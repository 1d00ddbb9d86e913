// SPDX-License-Identifier: GPL-3.0-or-later
// The choice where CPU and GPU take turns: a frame has to hold both.
#include "ground.h"

using namespace impasto;
using namespace impasto::choose;
using namespace impasto::support;

namespace {

Ground inTurn(const Ground& ground, double share, const game::Values& locked = {}, double ms = 0) {
    const auto& layout = ground.belief().layout();
    Ground out = ground;
    out.chooser = std::make_shared<const Chooser>(ground.belief(), saltmarsh(), Allowed::of(layout, locked, {}),
                                                  std::vector<frames::BesideGpu>(layout.parts.size(), {share, ms}));
    return out;
}

/// Every allowed set, of few.
std::vector<cost::Set> setsOf(const Allowed& allowed) {
    std::vector<cost::Set> out;
    for (std::size_t size = 0; size < allowed.sizes.size(); ++size)
        if (allowed.sizes[size]) out.push_back({{}, size});
    for (const auto& dial : allowed.levels) {
        std::vector<cost::Set> more;
        for (const auto& set : out)
            for (std::size_t l = 0; l < dial.size(); ++l)
                if (dial[l]) {
                    more.push_back(set);
                    more.back().levels.push_back(l);
                }
        out = std::move(more);
    }
    return out;
}

} // namespace

TEST(TurnsChoiceTest, TheChoiceIsTheBestSetWhoseLanesFitTogether) {
    const auto usual = groundOf(atChoice());
    const auto& dials = usual.belief().layout().dials;
    game::Values locked;
    for (std::size_t s = 4; s < dials.size(); ++s) locked[dials[s].setting] = dials[s].levels[dials[s].now];
    for (const double target : {32.0, 38.0, 45.0}) {
        const auto ground = inTurn(usual, 0.7, locked);
        const auto room = ground.room(Fps(target));
        double most = -1;
        for (const auto& set : setsOf(ground.chooser->allowed()))
            if (ground.chooser->filled(set, room, usualSafety).time <= 1)
                most = std::max(most, ground.chooser->picture(set));
        const auto best = propose(ground, Fps(target));
        if (most < 0) {
            EXPECT_EQ(best.error().code, ErrorCode::NothingFits);
            continue;
        }
        ASSERT_TRUE(best.has_value()) << target;
        EXPECT_NEAR(best->picture, most, 2e-3) << target; // whole units
        EXPECT_TRUE(fits(best->lanes));
        // Its lanes together, in every part, as they are believed.
        const auto set = *ground.belief().layout().setOf(best->values);
        for (std::size_t p = 0; p < ground.belief().layout().parts.size(); ++p) {
            const double cpu = ground.belief().tell(cost::Resource::Cpu, p, set).mean,
                         gpu = ground.belief().tell(cost::Resource::Gpu, p, set).mean;
            EXPECT_LT(gpu + 0.7 * cpu, budgetOf(Fps(target)).value());
        }
    }
}

TEST(TurnsChoiceTest, NeverMoreThanWhereTheyDoNotAndWithoutAShareTheSame) {
    const auto usual = groundOf(atChoice());
    const auto free = propose(usual, Fps(45)), none = propose(inTurn(usual, 0), Fps(45)),
               turns = propose(inTurn(usual, 0.5), Fps(45));
    ASSERT_TRUE(free && none && turns);
    EXPECT_EQ(none->values, free->values);
    EXPECT_LT(turns->picture, free->picture);
    const auto of = [](const Proposal& p, run::Lane lane) {
        return *std::find_if(p.lanes.begin(), p.lanes.end(), [&](const auto& l) { return l.lane == lane; });
    };
    EXPECT_LT(of(*turns, run::Lane::Gpu).usableMs, of(*free, run::Lane::Gpu).usableMs) << "less by the CPU's part";
    EXPECT_LT(fastestOf(inTurn(usual, 0.5)), fastestOf(usual));
    // A stage after the GPU: as a target that leaves so much less.
    const auto follows = propose(inTurn(usual, 0, {}, 2), Fps(45));
    ASSERT_TRUE(follows.has_value());
    EXPECT_LT(follows->picture, free->picture);
    EXPECT_LT(of(*follows, run::Lane::Gpu).usableMs, of(*free, run::Lane::Gpu).usableMs);
    EXPECT_TRUE(fits(follows->lanes));
}
