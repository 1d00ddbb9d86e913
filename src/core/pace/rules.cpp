// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/description/description.h>
#include <impasto/pace/predict.h>

namespace impasto::pace {
namespace {

Reach reachIn(const description::Section& section, std::string_view key) {
    if (!section.has(key)) return {};
    const auto both = section.numbers(key, 0, 100);
    if (both.size() != 2) {
        section.fault(key, ErrorCode::BadValue, "[below, above]");
        return {};
    }
    return {both[0], both[1]};
}

void readReaches(const description::Section& bands, CapRules& rules) {
    constexpr std::array names{"lanes", "frames", "small_lanes", "small_frames"};
    for (std::size_t i = 0; i < names.size(); ++i) {
        const auto section = bands.table(names[i]);
        Reaches& r = rules.reaches[i];
        if (!bands.has(names[i])) continue;
        r.average = reachIn(section, "average");
        r.leastPart = reachIn(section, "least_part");
        r.slowestSecond = reachIn(section, "slowest_second");
        r.onTime = reachIn(section, "on_time");
        for (const auto rule : stats::allLowRules) {
            const auto k = static_cast<std::size_t>(rule);
            r.onePercentLow[k] = reachIn(section.table("one_percent_low"), stats::keyOf(rule));
            r.tenthPercentLow[k] = reachIn(section.table("tenth_percent_low"), stats::keyOf(rule));
        }
    }
}

void readPower(const description::Section& power, PowerRules& rules) {
    constexpr std::array clocks{"held", "free", "small"}; // by Clocks
    const auto each = [&](const description::Section& of, std::array<PowerRule, 3>& to) {
        for (std::size_t i = 0; i < clocks.size(); ++i) {
            if (!of.has(clocks[i])) continue;
            const auto numbers = of.numbers(clocks[i], 0, 10);
            if (numbers.size() == 3 && numbers[1] <= numbers[0] && numbers[0] <= numbers[2])
                to[i] = {numbers[0], numbers[1], numbers[2]};
            else
                of.fault(clocks[i], ErrorCode::BadValue, "[exponent, least, most]");
        }
    };
    if (power.has("machine")) each(power.table("machine"), rules.machine);
    if (power.has("gpu")) each(power.table("gpu"), rules.gpu);
    rules.noise = power.number("noise", 0, 1, rules.noise);
    rules.roomC = power.number("room_c", -20, 60, rules.roomC);
}

} // namespace

/// As the shipped data/cap_rules.toml has them.
std::array<Reaches, 4> CapRules::usualReaches() {
    return {Reaches{{1.2, 1.1},
                    {1.9, 2.2},
                    {3.4, 2.4},
                    {4.8, 4.1},
                    {{{7.5, 1.4}, {3.3, 2.7}, {2.8, 1.9}}},
                    {{{2.9, 3}, {3, 3}, {3.4, 3.5}}}},
            Reaches{{1.7, 1},
                    {3.4, 2.2},
                    {7.5, 2.3},
                    {5.5, 8.5},
                    {{{2.6, 5.1}, {3.8, 1.8}, {1.7, 2.7}}},
                    {{{4.2, 2.2}, {4.5, 1.7}, {4.9, 2.3}}}},
            Reaches{{3.1, 0.6},
                    {3.8, 1},
                    {5, 3.2},
                    {3.2, 1.6},
                    {{{2.7, 2.1}, {4, 1.5}, {4, 6.1}}},
                    {{{3.3, 2.1}, {5.1, 1.8}, {5.1, 2.6}}}},
            Reaches{{4, 0.6},
                    {7.5, 1},
                    {8.3, 3.5},
                    {6, 1.8},
                    {{{3, 2}, {6, 1.3}, {4.3, 6.2}}},
                    {{{4.5, 1.2}, {6.1, 0.8}, {6.5, 1.6}}}}};
}

const Reach& Reaches::of(Figure figure, stats::LowRule rule) const {
    switch (figure) {
    case Figure::Average:
        return average;
    case Figure::LeastPart:
        return leastPart;
    case Figure::OnePercentLow:
        return onePercentLow[static_cast<std::size_t>(rule)];
    case Figure::TenthPercentLow:
        return tenthPercentLow[static_cast<std::size_t>(rule)];
    case Figure::SlowestSecond:
        return slowestSecond;
    case Figure::OnTime:
        return onTime;
    }
    return average;
}

const Reaches& CapRules::reachesOf(const Replay& replay) const {
    return reaches[(replay.lanes ? 0U : 1U) + (replay.clocks == Clocks::Small ? 2U : 0U)];
}

Result<CapRules> parseCapRules(std::string_view text, std::string fileName) {
    const auto document = description::Document::parse(text, std::move(fileName));
    if (!document) return tl::unexpected(document.error());
    const auto root = document->root();
    CapRules r;
    r.headroomShare = root.number("headroom_share", 0.1, 1, r.headroomShare);
    r.headroomQuantile = root.number("headroom_quantile", 0.5, 1, r.headroomQuantile);
    r.switchLossMs = root.number("switch_loss_ms", 0, 5, r.switchLossMs);
    r.smoothingFrames = static_cast<int>(root.number("smoothing_frames", 1, 1000, r.smoothingFrames));
    r.bottomQuantile = root.number("bottom_quantile", 0, 0.5, r.bottomQuantile);
    r.evenShare = root.number("even_share", 0.1, 1, r.evenShare);
    r.limiterErrorMs = root.number("limiter_error_ms", 0, 5, r.limiterErrorMs);
    readReaches(root.table("bands"), r);
    if (root.has("power")) readPower(root.table("power"), r.power);
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return r;
}

} // namespace impasto::pace
