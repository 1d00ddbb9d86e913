// SPDX-License-Identifier: GPL-3.0-or-later
// What still fits around a set that does, asked of the set as it is.
#include <impasto/choose/chooser.h>

#include <algorithm>

namespace impasto::choose {
namespace {

/// One level, or the size, and what picture it gives.
struct Move {
    std::optional<std::size_t> dial; // nothing: the size
    std::size_t to = 0;
    std::int64_t gain = 0;

    void apply(cost::Set& set) const { (dial ? set.levels[*dial] : set.size) = to; }
};

/// One move, or two of which one may take picture. Two up may fit where neither does alone: nearer to what was run
/// there is less doubt.
struct Climb {
    std::size_t first = 0;
    std::optional<std::size_t> second;
    std::int64_t gain = 0;
};

/// The most picture first.
std::vector<Climb> climbsOf(const std::vector<Move>& moves, int atOnce) {
    std::vector<Climb> out;
    for (std::size_t a = 0; a < moves.size(); ++a) {
        if (moves[a].gain <= 0) continue;
        out.push_back({a, {}, moves[a].gain});
        for (std::size_t b = 0; b < moves.size() && atOnce > 1; ++b) {
            const bool again = moves[b].gain > 0 && b <= a; // two ways up are one pair
            const auto gain = moves[a].gain + moves[b].gain;
            if (!again && moves[a].dial != moves[b].dial && gain > 0) out.push_back({a, b, gain});
        }
    }
    std::stable_sort(out.begin(), out.end(), [](const Climb& a, const Climb& b) { return a.gain > b.gain; });
    return out;
}

} // namespace

/// A set that fits, with all that still fits raised, or exchanged for more, the most picture first: what settings do to
/// each other, and doubt, may leave room that the sums do not show.
cost::Set Chooser::raised(cost::Set set, const Allowed& allowed, const Room& room, double safety, int atOnce) const {
    constexpr int mostLooks = 60; // at sets as they are, in one step
    for (bool moved = true; moved;) {
        moved = false;
        std::vector<Move> moves;
        for (std::size_t s = 0; s < m_values.size(); ++s)
            for (std::size_t l = 0; l < m_values[s].size(); ++l)
                if (allowed.levels[s][l] && l != set.levels[s])
                    moves.push_back({s, l, m_values[s][l] - m_values[s][set.levels[s]]});
        for (std::size_t g = 0; g < m_sizeValues.size(); ++g)
            if (allowed.sizes[g] && g != set.size) moves.push_back({{}, g, m_sizeValues[g] - m_sizeValues[set.size]});
        // What is left by the means alone, with what the sums lie off at this set; the tightest limit is asked first.
        struct Limit {
            const Row* row;
            double left, load;
            std::vector<double> more; // by move
        };
        std::vector<Limit> limits;
        for (const auto& row : m_rows) {
            const double usable = room[row.resource][row.part], plain = meanOf(row, set);
            const auto [mean, sd] = trueOf(row, set);
            auto& limit = limits.emplace_back(Limit{&row, usable - mean, (mean + safety * sd) / usable, {}});
            for (const auto& move : moves) {
                auto other = set;
                move.apply(other);
                limit.more.push_back(meanOf(row, other) - plain);
            }
        }
        std::stable_sort(limits.begin(), limits.end(), [](const auto& a, const auto& b) { return a.load > b.load; });
        int looks = 0;
        for (const auto& climb : climbsOf(moves, atOnce)) {
            const bool hopeless = std::any_of(limits.begin(), limits.end(), [&](const Limit& limit) {
                return limit.more[climb.first] + (climb.second ? limit.more[*climb.second] : 0) > limit.left;
            });
            if (hopeless) continue;
            auto other = set;
            moves[climb.first].apply(other);
            if (climb.second) moves[*climb.second].apply(other);
            if (!allowed.obeyed(other)) continue;
            if (std::all_of(limits.begin(), limits.end(), [&](const Limit& limit) {
                    const auto [mean, sd] = trueOf(*limit.row, other);
                    return mean + safety * sd <= room[limit.row->resource][limit.row->part] * fitTolerance;
                })) {
                set = std::move(other);
                moved = true;
                break;
            }
            if (++looks == mostLooks) break;
        }
    }
    return set;
}

cost::Set Chooser::asItRuns(cost::Set set, const Allowed& allowed, const Room& room, double safety) const {
    const auto& dials = m_belief.layout().dials;
    for (std::size_t s = 0; s < dials.size(); ++s) {
        if (dials[s].ordered) continue;
        auto other = set;
        other.levels[s] = dials[s].now;
        if (picture(other) >= picture(set) && allowed.has(other) && fits(other, room, safety)) set = std::move(other);
    }
    return set;
}

} // namespace impasto::choose
