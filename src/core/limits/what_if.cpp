// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/limits/what_if.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/stats/stats.h>

namespace impasto::limits {
namespace {

constexpr Keys<Change, 6> keys{{{Change::GpuFaster, "gpu-faster"},
                                {Change::CpuFaster, "cpu-faster"},
                                {Change::BothFaster, "both-faster"},
                                {Change::FansUp, "fans-up"},
                                {Change::PowerHigher, "power-limit-higher"},
                                {Change::NoCopyRoute, "no-copy-route"}}};

/// Work times these, and of what a frame takes besides this share.
struct Factors {
    double cpu = 1, gpu = 1, beside = 1;
    double doubt = 0.015; // of the model, a share of the rate
};

/// Nine tenths of the work follows the clock, the rest waits for memory; from 0.8 to 0.96 (common practice, no source).
double ofClock(double share) {
    constexpr double bound = 0.88;
    return bound * share + 1 - bound;
}

std::optional<Factors> factorsOf(Change change, double by, const PartVerdict& v) {
    switch (change) {
    case Change::GpuFaster:
        return Factors{1, 1 / (1 + by), 1};
    case Change::CpuFaster:
        return Factors{1 / (1 + by), 1, 1};
    case Change::BothFaster:
        return Factors{1 / (1 + by), 1 / (1 + by), 1};
    case Change::FansUp:
        for (const auto& s : v.suspicions)
            for (const auto& fact : s.evidence)
                if (s.cause == Cause::Heat && fact.sign == Sign::ClockFell && fact.value > 0) {
                    const double share = ofClock(fact.other / fact.value);
                    const bool gpu = s.chip == run::Lane::Gpu;
                    return Factors{gpu ? 1 : share, gpu ? share : 1, 1, 0.05 + 0.3 * (1 - share)};
                }
        return std::nullopt;
    case Change::PowerHigher:
        // A clock goes with between the third and the square root of the power (voltage follows it near the top).
        for (const auto& s : v.suspicions)
            if (s.cause == Cause::Power && !s.evidence.empty() && s.evidence.front().sign == Sign::PowerFlat) {
                const double share = ofClock(std::pow(1 + by, -0.4));
                const bool gpu = s.chip == run::Lane::Gpu;
                return Factors{gpu ? 1 : share, gpu ? share : 1, 1, 0.02};
            }
        return std::nullopt;
    case Change::NoCopyRoute:
        for (const auto& s : v.suspicions)
            if (s.cause == Cause::CopyRoute) return Factors{1, 1, 0, 0.04};
        return std::nullopt;
    }
    return std::nullopt;
}

struct Sums {
    std::vector<double> periods; // a run each
    double cpu = 0, gpu = 0;
};

Sums changed(const PartVerdict& v, std::span<const std::shared_ptr<const capture::Capture>> runs, const Factors& f) {
    Sums out;
    for (const auto& run : runs) {
        if (!run->cpuWorkMs || !run->gpuWorkMs) continue;
        for (const auto& range : capture::partsOf(*run)) {
            if (range.part != v.part) continue;
            double sum = 0;
            std::size_t count = 0;
            for (std::size_t i = range.first; i < range.last; ++i) {
                const double cpu = (*run->cpuWorkMs)[i], gpu = (*run->gpuWorkMs)[i];
                if (!std::isfinite(cpu) || !std::isfinite(gpu)) continue;
                // Where they take turns a frame holds both.
                const double share = v.beside.cpuShare;
                const auto held = [share](double c, double g) { return share > 0 ? g + share * c : std::max(c, g); };
                sum += held(f.cpu * cpu, f.gpu * gpu) + f.beside * (run->framesMs[i] - held(cpu, gpu));
                out.cpu += f.cpu * cpu;
                out.gpu += f.gpu * gpu;
                ++count;
            }
            if (count > 0) out.periods.push_back(sum / static_cast<double>(count));
        }
    }
    return out;
}

/// Where neither lane fills the frame and nothing is known to stand between them or to follow, they may take turns:
/// what a frame takes beside the longer one is the other's work then, and a faster chip shortens it, too. The rate if
/// it does.
double mostOf(Change change, Factors f, const PartVerdict& v,
              std::span<const std::shared_ptr<const capture::Capture>> runs) {
    if (v.brake != Brake::CannotTell || v.cause() != nullptr || v.beside.ms > 0 || change == Change::NoCopyRoute)
        return 0;
    f.beside = std::min(f.cpu, f.gpu);
    const auto mean = stats::mean(changed(v, runs, f).periods);
    return mean && *mean > 0 ? 1000 / *mean : 0;
}

} // namespace

std::string_view keyOf(Change change) {
    return keyIn(keys, change);
}

std::vector<WhatIf> whatIfsOf(const PartVerdict& v, std::span<const std::shared_ptr<const capture::Capture>> runs,
                              std::span<const double> shares) {
    constexpr std::array none{0.0}, higher{powerHigherBy};
    std::vector<WhatIf> out;
    // What holds the frames holds them still.
    if (!v.cpu || !v.gpu || v.brake == Brake::Cap || v.brake == Brake::Refresh) return out;
    if (v.brake == Brake::CannotTell && v.flat) return out;
    if (v.cause() != nullptr && v.cause()->cause == Cause::Generation) return out;
    for (const auto& [change, key] : keys) {
        const bool faster = change == Change::GpuFaster || change == Change::CpuFaster || change == Change::BothFaster;
        for (const double by : faster                          ? shares
                               : change == Change::PowerHigher ? std::span<const double>(higher)
                                                               : std::span<const double>(none)) {
            const auto factors = factorsOf(change, by, v);
            if (!factors) continue;
            const auto sums = changed(v, runs, *factors);
            const auto mean = stats::meanInterval(sums.periods);
            if (!mean || !(mean->estimate > 0)) continue;
            const double share =
                std::hypot(mean->halfWidth.value_or(0.02 * mean->estimate) / mean->estimate, factors->doubt);
            const double rate = 1000 / mean->estimate, most = std::max(rate, mostOf(change, *factors, v, runs));
            out.push_back({change, by, Fps((rate + most) / 2), Fps(rate * (1 - share)), Fps(most * (1 + share)),
                           v.beside.cpuShare > 0  ? v.brake
                           : sums.gpu >= sums.cpu ? Brake::Gpu
                                                  : Brake::Cpu});
        }
    }
    return out;
}

} // namespace impasto::limits
