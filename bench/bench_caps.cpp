// SPDX-License-Identifier: GPL-3.0-or-later
// How often a cap's proof (the mean of three runs) falls into the band that was predicted from the uncapped runs, and
// how much the recommended cap loses against the best of all that were tried, over machines, games, settings, targets
// and styles drawn at random. bench_caps FIRST-SEED CASES [scores]: with "scores" the 97% quantiles of the misses
// instead, in scales, below and above, as data/cap_rules.toml holds them; with "power" what caps drew against what was
// told, and the exponents. Without arguments a few cases.
#include "cap_study.h"

#include <cstdio>
#include <fmt/core.h>
#include <impasto/base/parallel.h>
#include <map>

namespace {

using namespace impasto;
using namespace impasto::cap_study;

const std::filesystem::path data = IMPASTO_DATA_DIR;

const char* nameOf(pace::Figure figure) {
    constexpr const char* names[] = {"average",           "least_part",     "one_percent_low",
                                     "tenth_percent_low", "slowest_second", "on_time"};
    return names[static_cast<std::size_t>(figure)];
}
const char* nameOf(std::size_t reaches) {
    constexpr const char* names[] = {"lanes", "frames", "small_lanes", "small_frames"};
    return names[reaches];
}

double quantileOf(std::vector<double> values, double share) {
    return values.empty() ? 0 : *stats::quantile(values, share);
}

void reportPower(const std::vector<Outcome>& all) {
    constexpr const char* clocks[] = {"held", "free", "small"};
    for (const bool gpuAlone : {false, true})
        for (std::size_t k = 0; k < 3; ++k) {
            std::vector<double> exponent, least, most, width;
            double inside = 0, n = 0, insideAfter = 0, nAfter = 0;
            for (const auto& o : all)
                for (const auto& w : o.watts) {
                    if (w.gpuAlone != gpuAlone || static_cast<std::size_t>(w.clocks) != k) continue;
                    ++n;
                    inside += w.inside ? 1 : 0;
                    nAfter += w.judgedAfter ? 1 : 0;
                    insideAfter += w.insideAfter ? 1 : 0;
                    width.push_back(w.width);
                    if (w.exponent) exponent.push_back(*w.exponent);
                    if (w.least) least.push_back(*w.least);
                    if (w.most) most.push_back(*w.most);
                }
            if (n == 0) continue;
            fmt::print(
                "power {:7} {:5} = [{:.2f}, {:.2f}, {:.2f}]  inside {:5.1f}% of {:5}, width {:5.1f}%; after another "
                "cap's proof {:5.1f}%\n",
                gpuAlone ? "gpu" : "machine", clocks[k], quantileOf(exponent, 0.5), quantileOf(most, 0.03),
                quantileOf(least, 0.97), 100 * inside / n, n, 100 * quantileOf(width, 0.5),
                100 * insideAfter / std::max(1.0, nAfter));
        }
}

void report(const std::vector<Outcome>& all, bool scores) {
    struct Sums {
        std::vector<double> below, above, width;
        std::size_t inside = 0, n = 0, insideAfter = 0, nAfter = 0;
    };
    std::map<Cell, Sums> cells;
    for (const auto& o : all)
        for (const auto& miss : o.misses) {
            auto cell = miss.cell;
            const bool low = cell.figure == pace::Figure::OnePercentLow || cell.figure == pace::Figure::TenthPercentLow;
            if (!low) cell.rule = stats::LowRule::Percentile;
            auto& s = cells[cell];
            if (miss.afterAProof) {
                s.insideAfter += miss.inside ? 1 : 0;
                ++s.nAfter;
                continue;
            }
            s.below.push_back(miss.below);
            s.above.push_back(miss.above);
            s.width.push_back(miss.width);
            s.inside += miss.inside ? 1 : 0;
            ++s.n;
        }
    std::size_t last = 9;
    for (const auto& [cell, s] : cells) {
        const bool low = cell.figure == pace::Figure::OnePercentLow || cell.figure == pace::Figure::TenthPercentLow;
        if (scores && cell.reaches != last) fmt::print("[bands.{}]\n", nameOf(cell.reaches));
        last = cell.reaches;
        if (scores)
            fmt::print("{}{} = [{:.1f}, {:.1f}]\n", nameOf(cell.figure),
                       low ? fmt::format(".{}", stats::keyOf(cell.rule)) : "", std::max(0.3, quantileOf(s.below, 0.97)),
                       std::max(0.3, quantileOf(s.above, 0.97)));
        else
            fmt::print(
                "{:13} {:15} {:11} inside {:5.1f}% of {:5}, width {:6.1f}%; after another cap's proof {:5.1f}%\n",
                nameOf(cell.reaches), nameOf(cell.figure), stats::keyOf(cell.rule),
                100.0 * static_cast<double>(s.inside) / static_cast<double>(s.n), s.n, 100 * quantileOf(s.width, 0.5),
                100.0 * static_cast<double>(s.insideAfter) / static_cast<double>(std::max<std::size_t>(1, s.nAfter)));
    }
    if (scores) return;
    const auto regrets = [&](const char* name, auto wanted) {
        std::vector<double> before, after;
        std::size_t in = 0, inAfter = 0, proofs = 0, conflicts = 0;
        for (const auto& o : all) {
            if (!o.regret || !wanted(o)) continue;
            before.push_back(*o.regret);
            after.push_back(*o.regretAfter);
            in += *o.regret <= 0.05 ? 1 : 0;
            inAfter += *o.regretAfter <= 0.05 ? 1 : 0;
            proofs += o.proofs;
            conflicts += o.conflict ? 1 : 0;
        }
        const double n = static_cast<double>(std::max<std::size_t>(1, before.size()));
        double a = 0, b = 0;
        for (const double v : before) a += v / n;
        for (const double v : after) b += v / n;
        fmt::print("{:13} {:4} cases: within 5% of the best {:5.1f}%, after the proofs {:5.1f}%; mean loss {:.3f}, "
                   "{:.3f}; {:.2f} proofs; against the panel {}\n",
                   name, before.size(), 100 * static_cast<double>(in) / n, 100 * static_cast<double>(inAfter) / n, a, b,
                   static_cast<double>(proofs) / n, conflicts);
    };
    for (std::size_t r = 0; r < 4; ++r) regrets(nameOf(r), [r](const Outcome& o) { return o.reaches == r; });
    for (const auto style : run::allStyles)
        regrets(std::string(run::keyOf(style)).c_str(),
                [style](const Outcome& o) { return o.style == style && o.reaches % 2 == 0; });
}

} // namespace

int main(int count, char** arguments) {
    const bool said = count > 2 && arguments[1][0] != '-';
    const std::uint64_t first = said ? std::stoull(arguments[1]) : 1;
    const std::size_t cases = said ? std::stoul(arguments[2]) : 4;
    const auto rules = pace::parseCapRules(*readFile(data / "cap_rules.toml"), "cap_rules.toml");
    if (!rules) return 1;
    std::vector<std::vector<Outcome>> made(cases);
    inParallel(cases, [&](std::size_t i) { made[i] = study(data, first + i, *rules); });
    std::vector<Outcome> all;
    for (auto& each : made) all.insert(all.end(), each.begin(), each.end());
    if (count > 3 && std::string_view(arguments[3]) == "power")
        reportPower(all);
    else
        report(all, count > 3);
    return 0;
}
