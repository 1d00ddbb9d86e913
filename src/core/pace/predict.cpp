// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/pace/predict.h>

#include <cmath>
#include <impasto/stats/solve.h>

namespace impasto::pace {
namespace {

/// Scales of a figure: of runs that are alike, how it grows towards the average, and where the pipeline leaves more
/// open. Logarithms of rates; of the on-time share its square root. Found over simulated games (docs/method.md, Caps).
struct Scale {
    double usual, small; // one machine to the next run
    double towards;      // at caps from 0.75 of the average up
    double copied;       // below, where a stage after the GPU was fitted
    double bottom;       // both sides, near the bottom of a variable range
};
Scale scaleOf(Figure figure, stats::LowRule rule) {
    const bool percentile = rule == stats::LowRule::Percentile;
    switch (figure) {
    case Figure::Average:
    case Figure::LeastPart:
        return {0.0015, 0.02, 0.008, 0, 0};
    case Figure::OnePercentLow:
        if (percentile) return {0.006, 0.06, 0.02, 0.04, 0.06};
        return {rule == stats::LowRule::WorstMean ? 0.035 : 0.02, 0.06, 0, 0.04, 0.03};
    case Figure::TenthPercentLow:
        return {0.06, 0.08, 0, 0.04, 0.03};
    case Figure::SlowestSecond:
        return {0.006, 0.05, 0.012, 0, 0};
    case Figure::OnTime:
        return {0.008, 0.06, 0.006, 0.02, 0.03};
    }
    return {};
}

/// How far a lagging governor or a freed power limit may move a figure.
double governedOf(Clocks clocks) {
    switch (clocks) {
    case Clocks::Held:
        return 0;
    case Clocks::Free:
        return 0.10;
    case Clocks::Small:
        return 0.35;
    }
    return 0;
}

double rateOf(const Replay& replay, const CapPlan& plan) {
    const auto paced = plan.pacedTo();
    return std::min(paced ? paced->value() : 1e9, replay.average().value());
}

/// Replays of every run, at three shares of deferred work, and the one that falling clocks would give.
struct Replays {
    std::vector<std::array<Figures, 3>> shares; // at 0, 1/2, 1
    std::vector<Figures> down;
};

/// Clocks that take all the idle time a cap leaves.
std::array<double, 2> sagging(const RecordedRun& run, const CapPlan& plan) {
    const double interval = 1000 / plan.cap->value();
    const bool gpu = run.gpu.meanMs >= run.cpu.meanMs;
    const double mean = std::max(gpu ? run.gpu.meanMs : run.cpu.meanMs, 1e-3);
    const double by = std::clamp((gpu ? 0.97 : 0.90) * interval / mean, 1.0, 2.8);
    return gpu ? std::array{1.0, by} : std::array{by, 1.0};
}

std::optional<Replays> replaysOf(const Replay& replay, const CapPlan& plan) {
    Replays all;
    const bool moves = replay.lanes && replay.clocks != Clocks::Held && plan.cap;
    for (const auto& run : replay.runs) {
        const auto at = [&](double share, std::array<double, 2> stretch = {1, 1}) {
            return replayed(replay, run, plan, share, stretch);
        };
        const auto none = at(0), whole = at(1);
        const auto half = replay.lanes ? at(0.5) : none;
        if (!none || !half || !whole) return std::nullopt;
        all.shares.push_back({*none, *half, *whole});
        if (!replay.lanes)
            for (const auto figure : allFigures)
                all.shares.back()[1].of(figure) = 0.5 * (none->of(figure) + whole->of(figure));
        if (!moves) continue;
        if (const auto down = at(0, sagging(run, plan))) all.down.push_back(*down);
    }
    return all;
}

double meanOver(std::span<const Figures> runs, Figure figure) {
    double sum = 0;
    for (const auto& f : runs) sum += measureOf(figure, f.of(figure));
    return sum / static_cast<double>(runs.size());
}

/// Mean over the runs at a share, between those that were replayed.
double atShare(const Replays& all, Figure figure, double share) {
    const auto mean = [&](std::size_t k) {
        double sum = 0;
        for (const auto& run : all.shares) sum += measureOf(figure, run[k].of(figure));
        return sum / static_cast<double>(all.shares.size());
    };
    const double x = 2 * std::clamp(share, 0.0, 1.0);
    return x <= 1 ? mean(0) + x * (mean(1) - mean(0)) : mean(1) + (x - 1) * (mean(2) - mean(1));
}

/// How the runs differ, with what is usual counted as four runs.
double spreadOf(const Replays& all, Figure figure, double usual) {
    const double mean = atShare(all, figure, 0.5);
    double square = 4 * usual * usual;
    for (const auto& run : all.shares) {
        const double off = measureOf(figure, run[1].of(figure)) - mean;
        square += off * off;
    }
    return square / static_cast<double>(3 + all.shares.size());
}

/// How far a quantile jumps where frames lie on a lattice of refreshes (Woodruff 1952): the low a little further in and
/// out.
std::array<double, 2> jump(const Replays& all) {
    double below = 0, above = 0;
    for (const auto& run : all.shares) {
        const auto& f = run[1];
        below += std::log(f.of(Figure::OnePercentLow) / f.lowerLow);
        above += std::log(f.upperLow / f.of(Figure::OnePercentLow));
    }
    const double n = static_cast<double>(all.shares.size());
    return {0.5 * std::max(0.0, below / n), 0.5 * std::max(0.0, above / n)};
}

bool nearBottom(const Replay& replay, const CapPlan& plan) {
    const bool follows = plan.sync == run::Sync::Variable || plan.sync == run::Sync::VariableTearing;
    if (!follows || !replay.panel || !replay.panel->variable) return false;
    return 1000 / rateOf(replay, plan) > 1000 / replay.panel->variable->lowest.value() - 3;
}

} // namespace

double measureOf(Figure figure, double value) {
    return figure == Figure::OnTime ? -std::sqrt(std::max(0.0, 1 - value)) : std::log(std::max(value, 1e-3));
}
double valueOf(Figure figure, double measure) {
    return figure == Figure::OnTime ? 1 - std::min(1.0, measure * measure) : std::exp(measure);
}

Expected expectedOf(const Replay& replay, const CapPlan& plan) {
    Expected out;
    const auto all = replaysOf(replay, plan);
    if (!all) return out;
    const auto rule = replay.brief.lowRule;
    const double governed = governedOf(replay.clocks);
    const double towards = std::clamp((rateOf(replay, plan) / replay.average().value() - 0.75) / 0.25, 0.0, 1.0);
    const bool copied = replay.copyMs > 0, bottom = nearBottom(replay, plan);
    const auto jumps = jump(*all);
    for (const auto figure : allFigures) {
        const auto i = static_cast<std::size_t>(figure);
        const auto scale = scaleOf(figure, rule);
        const double c = atShare(*all, figure, replay.deferred);
        const double open = (atShare(*all, figure, 1) - atShare(*all, figure, 0)) * replay.deferredSd;
        double square = spreadOf(*all, figure, replay.clocks == Clocks::Small ? scale.small : scale.usual) +
                        open * open + scale.towards * towards * scale.towards * towards;
        if (bottom) square += scale.bottom * scale.bottom;
        double below = square, above = square;
        if (!all->down.empty()) below += std::pow(governed * std::max(0.0, c - meanOver(all->down, figure)), 2);
        if (copied) below += scale.copied * scale.copied;
        const bool quantile = figure == Figure::OnePercentLow && rule != stats::LowRule::WorstMean;
        if (quantile) {
            below += jumps[0] * jumps[0];
            above += jumps[1] * jumps[1];
        }
        out.middle[i] = c;
        out.below[i] = std::sqrt(below);
        out.above[i] = std::sqrt(above);
    }
    const auto meanOfRuns = [&](auto member) -> std::optional<double> {
        double sum = 0;
        for (const auto& run : all->shares) {
            if (!(run[1].*member)) return std::nullopt;
            sum += *(run[1].*member);
        }
        return sum / static_cast<double>(all->shares.size());
    };
    out.latencyMs = meanOfRuns(&Figures::latencyMs);
    out.gpuBusy = meanOfRuns(&Figures::gpuBusy);
    return out;
}

namespace {

/// How alike the misses of two caps of one set are, at no distance, and over which distance of their logarithms that
/// falls by e.
struct Alike {
    double at0, length;
};
Alike alikeOf(Figure figure, stats::LowRule rule) {
    switch (figure) {
    case Figure::Average:
    case Figure::LeastPart:
        return {0.92, 0.8};
    case Figure::OnePercentLow:
        if (rule == stats::LowRule::TimeShare) return {0.90, 0.8};
        return rule == stats::LowRule::Percentile ? Alike{0.98, 0.5} : Alike{0.98, 0.8};
    case Figure::TenthPercentLow:
        return {0.94, 0.8};
    case Figure::SlowestSecond:
        return {0.98, 0.5};
    case Figure::OnTime:
        return {0.98, 0.3};
    }
    return {0.9, 0.5};
}

/// Simple kriging (Krige 1951) of the misses at proven caps, in scales.
struct Kriged {
    double z = 0, explained = 0;
};
Kriged kriged(const Replay& replay, Figure figure, double rate) {
    const auto& proven = replay.proven;
    const auto [at0, length] = alikeOf(figure, replay.brief.lowRule);
    const auto alike = [&, at0 = at0, length = length](double a, double b) {
        return at0 * std::exp(-std::abs(std::log(a / b)) / length);
    };
    const std::size_t n = proven.size();
    std::vector<double> between(n * n, 1.0);
    std::vector<double> to(n), z(n);
    for (std::size_t i = 0; i < n; ++i) {
        for (std::size_t j = 0; j < n; ++j)
            if (i != j) between[i * n + j] = alike(rateOf(replay, proven[i].plan), rateOf(replay, proven[j].plan));
        to[i] = alike(rateOf(replay, proven[i].plan), rate);
        z[i] = proven[i].offBy[static_cast<std::size_t>(figure)];
    }
    const auto weights = stats::solve(between, to);
    Kriged out;
    for (std::size_t i = 0; i < n; ++i) {
        out.z += weights[i] * z[i];
        out.explained += weights[i] * to[i];
    }
    return out;
}

} // namespace

Expected learntOf(const Replay& replay, const CapPlan& plan) {
    Expected e = expectedOf(replay, plan);
    if (replay.proven.empty()) return e;
    for (const auto figure : allFigures) {
        const auto i = static_cast<std::size_t>(figure);
        const auto k = kriged(replay, figure, rateOf(replay, plan));
        e.middle[i] += k.z * (k.z > 0 ? e.above[i] : e.below[i]);
        const double left = std::min(1.0, 1.7 * std::sqrt(std::max(0.02, 1 - k.explained)));
        e.below[i] *= left;
        e.above[i] *= left;
    }
    return e;
}

void learn(Replay& replay, const CapPlan& plan, const Figures& measured) {
    const auto e = expectedOf(replay, plan);
    ProvenCap proven{plan, measured, {}};
    for (const auto figure : allFigures) {
        const auto i = static_cast<std::size_t>(figure);
        const double off = measureOf(figure, measured.of(figure)) - e.middle[i];
        const double scale = off > 0 ? e.above[i] : e.below[i];
        proven.offBy[i] = scale > 0 ? std::clamp(off / scale, -12.0, 12.0) : 0;
    }
    replay.proven.push_back(std::move(proven));
}

CapPrediction predict(const Replay& replay, const CapPlan& plan, const CapRules& rules, Taught taught) {
    const auto e = taught == Taught::ByProofs ? learntOf(replay, plan) : expectedOf(replay, plan);
    CapPrediction p;
    p.plan = plan;
    p.latencyMs = e.latencyMs;
    p.gpuBusy = e.gpuBusy;
    for (const auto figure : allFigures) {
        const auto i = static_cast<std::size_t>(figure);
        const auto& reach = rules.reachesOf(replay).of(figure, replay.brief.lowRule);
        const auto value = [&](double measure) {
            return valueOf(figure, figure == Figure::OnTime ? std::min(0.0, measure) : measure);
        };
        p.of(figure) = {value(e.middle[i] - reach.below * e.below[i]), value(e.middle[i]),
                        value(e.middle[i] + reach.above * e.above[i])};
    }
    // Nothing is faster than its cap.
    if (plan.cap)
        for (const auto figure : {Figure::Average, Figure::LeastPart})
            p.of(figure).high = std::max(p.of(figure).middle, std::min(p.of(figure).high, plan.cap->value()));
    return p;
}

bool keepsFloor(const run::Brief& brief, const CapPrediction& p) {
    if (!brief.floor()) return true;
    const bool second = brief.floorOf == run::FloorOf::SlowestSecond;
    return p.of(second ? Figure::SlowestSecond : Figure::OnePercentLow).middle >= brief.floor()->value();
}

bool wouldHold(const run::Brief& brief, const CapPrediction& p) {
    const double target = brief.target.value();
    return p.of(Figure::LeastPart).middle >= frames::heldAverage * target &&
           p.of(Figure::OnTime).middle >= brief.wishedOnTime() &&
           p.of(Figure::SlowestSecond).middle >= frames::heldSecond * target && keepsFloor(brief, p);
}

} // namespace impasto::pace
