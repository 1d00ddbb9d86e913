// SPDX-License-Identifier: GPL-3.0-or-later
#include <cmath>
#include <gtest/gtest.h>
#include <impasto/base/random.h>
#include <impasto/frames/hitch_origin.h>

using namespace impasto;
using namespace impasto::stats;
using namespace impasto::frames;

namespace {

/// 60 s of 10 ms frames with hitches of 40 ms at the moments (seconds), in two parts.
capture::Capture withHitches(const std::vector<double>& moments, std::uint64_t seed, double stretch = 1) {
    RandomStream s(seed, "frames");
    capture::Capture c;
    double at = 0;
    std::size_t next = 0;
    while (at < 60 * stretch) {
        double ms = 10 + 0.3 * s.normal();
        if (next < moments.size() && at >= moments[next] * stretch) {
            ms += 40;
            ++next;
        }
        if (c.marks.empty()) c.marks.push_back({"first", 0});
        if (c.marks.size() == 1 && at >= 25 * stretch) c.marks.push_back({"second", c.frames()});
        c.framesMs.push_back(ms);
        at += ms / 1000;
    }
    return c;
}

std::vector<double> random(std::size_t n, std::uint64_t seed, double from = 0, double to = 60) {
    RandomStream s(seed, "moments");
    std::vector<double> out;
    for (std::size_t i = 0; i < n; ++i) out.push_back(s.uniform(from, to));
    std::sort(out.begin(), out.end());
    return out;
}

HitchOrigin origin(const capture::Capture& c, std::span<const capture::Capture* const> siblings = {}) {
    const auto own = hitches(c.framesMs);
    std::vector<std::vector<Hitch>> theirs;
    std::vector<HitchedRun> others;
    for (const auto* s : siblings) theirs.push_back(hitches(s->framesMs));
    for (std::size_t i = 0; i < theirs.size(); ++i) others.push_back({theirs[i], partStartsOf(*siblings[i])});
    return originOf({own, partStartsOf(c)}, others);
}

} // namespace

TEST(HitchOriginTest, PeriodicHitchesAreFoundWithTheirPeriod) {
    for (const double period : {0.7, 1.0, 2.5, 6.0}) {
        std::vector<double> moments;
        for (double at = 0.4; at < 59; at += period) moments.push_back(at);
        const auto found = origin(withHitches(moments, 1));
        EXPECT_EQ(found.pattern, HitchPattern::Periodic) << period;
        EXPECT_NEAR(found.periodMs, 1000 * period, 20 * period) << "the comb's own period, not a part of it";
        EXPECT_GT(found.strength, 0.9);
    }
}

TEST(HitchOriginTest, HeapsAreNoComb) {
    // Many in the first seconds, a few more a while later.
    auto moments = random(24, 5, 0, 3);
    for (const double late : {17.0, 17.2, 34.1, 34.2}) moments.push_back(late);
    EXPECT_NE(origin(withHitches(moments, 1)).pattern, HitchPattern::Periodic);
}

TEST(HitchOriginTest, RandomHitchesAreRandom) {
    int random60 = 0;
    for (std::uint64_t seed = 1; seed <= 60; ++seed)
        random60 += origin(withHitches(random(20, seed), seed)).pattern == HitchPattern::Random ? 1 : 0;
    EXPECT_GE(random60, 56);
    EXPECT_EQ(origin(withHitches(random(4, 1), 1)).pattern, HitchPattern::TooFew);
}

TEST(HitchOriginTest, TheSamePlacesOfSeveralRunsAreFoundThoughTheirLengthsDiffer) {
    const auto places = random(14, 3);
    const auto run = withHitches(places, 1), longer = withHitches(places, 2, 1.06),
               shorter = withHitches(places, 4, 0.95);
    const capture::Capture* siblings[] = {&longer, &shorter};
    const auto found = origin(run, siblings);
    EXPECT_EQ(found.pattern, HitchPattern::SamePlace);
    EXPECT_GT(found.strength, 0.8);
    const auto other = withHitches(random(14, 8), 5);
    const capture::Capture* unlike[] = {&other};
    EXPECT_EQ(origin(run, unlike).pattern, HitchPattern::Random);
}

TEST(HitchOriginTest, HitchesOfTheFirstRunAlone) {
    const auto fresh = withHitches(random(40, 3), 1), later = withHitches(random(4, 5), 2),
               last = withHitches(random(5, 6), 4);
    const auto first = hitches(fresh.framesMs), second = hitches(later.framesMs), third = hitches(last.framesMs);
    const HitchedRun run{first, partStartsOf(fresh)};
    const HitchedRun siblings[] = {{second, partStartsOf(later)}, {third, partStartsOf(last)}};
    EXPECT_EQ(originOf(run, siblings, true).pattern, HitchPattern::FirstRun);
    EXPECT_NEAR(originOf(run, siblings, true).strength, 0.88, 0.05);
    EXPECT_NE(originOf(run, siblings, false).pattern, HitchPattern::FirstRun);
    const HitchedRun alike[] = {run, run};
    EXPECT_NE(originOf(run, alike, true).pattern, HitchPattern::FirstRun);
}

TEST(HitchOriginTest, MoreAndMoreHitchesAreGrowing) {
    auto moments = random(4, 1, 0, 30);
    for (const double m : random(24, 2, 30, 60)) moments.push_back(m);
    const auto found = origin(withHitches(moments, 1));
    EXPECT_EQ(found.pattern, HitchPattern::Growing);
    EXPECT_NEAR(found.strength, 24.0 / 28, 0.05);
}
