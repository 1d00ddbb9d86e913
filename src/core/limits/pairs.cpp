// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/limits/pairs.h>

#include <cmath>
#include <impasto/base/keys.h>
#include <impasto/frames/examine.h>
#include <impasto/stats/stats.h>

#include "evidence.h"

namespace impasto::limits {
namespace {

using Runs = std::span<const std::shared_ptr<const capture::Capture>>;

constexpr Keys<PairSign, 4> pairSigns{{{PairSign::NotApplied, "not-applied"},
                                       {PairSign::HitchesFirstOnly, "hitches-first-only"},
                                       {PairSign::CopyRouteOff, "copy-route-off"},
                                       {PairSign::CopyRouteOn, "copy-route-on"}}};

double frameMsOf(const capture::Capture& run) {
    return capture::durationMs(run) / static_cast<double>(run.frames());
}

/// Mean work of a run over its time; nothing where it is not told.
std::optional<double> workOf(const capture::Capture& run, run::Lane lane, std::optional<double> pacedMs) {
    return frames::routeMean(frames::partMeans(run, pacedMs), nullptr, lane);
}

/// One figure of all runs, where all tell it.
template <class Figure>
std::optional<frames::Paid> paidBy(Runs before, Runs after, Figure figure) {
    frames::Paid paid;
    std::vector<double> now;
    for (const auto& run : before)
        if (const std::optional<double> v = figure(*run)) paid.before.push_back(*v);
    for (const auto& run : after)
        if (const std::optional<double> v = figure(*run)) now.push_back(*v);
    if (paid.before.size() != before.size() || now.size() != after.size()) return std::nullopt;
    paid.now = *stats::mean(now);
    return paid;
}

std::optional<PairFinding> notApplied(Runs before, Runs after, std::optional<double> pacedMs) {
    std::vector<frames::Paid> paid;
    for (const auto lane : {run::Lane::Cpu, run::Lane::Gpu})
        if (const auto p = paidBy(before, after, [&](const auto& run) { return workOf(run, lane, pacedMs); }))
            paid.push_back(*p);
    const bool lanesTell = paid.size() == 2;
    paid.push_back(*paidBy(before, after, [](const auto& run) { return std::optional(frameMsOf(run)); }));
    if (const auto p =
            paidBy(before, after, [](const auto& run) { return capture::trackMean(run, capture::Sensor::GpuMemory); }))
        paid.push_back(*p);
    const auto found = frames::notApplied(paid, lanesTell);
    if (!found || !found->found) return std::nullopt;
    const bool several = before.size() > 1;
    return PairFinding{PairSign::NotApplied, "", 0, 100 * found->figure, !lanesTell ? 0.5 : several ? 0.9 : 0.75};
}

/// The rule of hitches at first sight, with the runs of both sides.
std::optional<PairFinding> hitchesFirstOnly(Runs before, Runs after) {
    const double first = lostInHitches(before.front()->framesMs);
    std::vector<double> later;
    for (std::size_t i = 1; i < before.size(); ++i) later.push_back(lostInHitches(before[i]->framesMs));
    for (const auto& run : after) later.push_back(lostInHitches(run->framesMs));
    const auto found = firstSightBeside(first, later);
    if (!found) return std::nullopt;
    return PairFinding{PairSign::HitchesFirstOnly, "", 100 * first, 100 * found->usual, found->sure};
}

bool held(const PartVerdict& v) {
    return v.brake == Brake::Cap || v.brake == Brake::Refresh || v.flat;
}

/// The usual frame of a part, over all runs, ms; hitches do not move it.
struct Usual {
    double frameMs = 0, cpuMs = 0, gpuMs = 0;
    [[nodiscard]] double besides() const { return std::max(0.0, frameMs - std::max(cpuMs, gpuMs)); }
};

/// Nothing where CPU and GPU work are not known, or the frames wait.
std::optional<Usual> usualOf(Runs runs, const PartVerdict& v) {
    if (!v.cpu || !v.gpu || held(v)) return std::nullopt;
    std::array<std::vector<double>, 3> all;
    for (const auto& run : runs)
        for (const auto& range : capture::partsOf(*run)) {
            if (range.part != v.part) continue;
            appendFinite(all[0], run->framesMs, range);
            appendFinite(all[1], *run->cpuWorkMs, range);
            appendFinite(all[2], *run->gpuWorkMs, range);
        }
    const auto middle = [&](std::size_t column) { return stats::quantile(all.at(column), 0.5).value_or(0); };
    return Usual{middle(0), middle(1), middle(2)};
}

struct UsualPart {
    std::string part;
    Usual before, after;
};

/// Of the parts that both have and where neither waits.
std::vector<UsualPart> usualParts(Runs before, Runs after, const run::Variant& variant,
                                  const std::optional<display::Panel>& panel) {
    std::vector<UsualPart> out;
    const auto was = judge(before, variant, panel), is = judge(after, variant, panel);
    for (const auto& v : was)
        for (const auto& other : is) {
            if (v.part != other.part) continue;
            const auto a = usualOf(before, v), b = usualOf(after, other);
            if (a && b) out.push_back({v.part, *a, *b});
        }
    return out;
}

bool same(double was, double is) {
    return std::abs(is - was) <= 0.03 * was;
}

PairFinding routeFound(const std::string& part, double before, double after, double sure) {
    return {after < before ? PairSign::CopyRouteOff : PairSign::CopyRouteOn, part, before, after, sure};
}

/// A part whose frames take less, or more, at the same work.
std::optional<PairFinding> besidesTheWork(const UsualPart& p, double least, bool wiredSo) {
    if (!same(p.before.cpuMs, p.after.cpuMs) || !same(p.before.gpuMs, p.after.gpuMs)) return std::nullopt;
    const double was = p.before.besides(), is = p.after.besides();
    if (std::abs(is - was) < least * p.before.frameMs || std::min(was, is) > std::max(was, is) / 2) return std::nullopt;
    return routeFound(p.part, was, is, wiredSo ? 0.9 : 0.65);
}

/// Some GPU readings hold the copy: then they move by the same time in every part, which a setting may do too.
std::optional<PairFinding> withinTheReading(const std::vector<UsualPart>& parts, double least) {
    constexpr double alike = 0.3; // of the mean
    if (parts.size() < 2) return std::nullopt;
    double before = 0, after = 0, frame = 0;
    const double n = static_cast<double>(parts.size());
    for (const auto& p : parts) {
        if (!same(p.before.cpuMs, p.after.cpuMs)) return std::nullopt;
        before += p.before.gpuMs / n;
        after += p.after.gpuMs / n;
        frame += p.before.frameMs / n;
    }
    const double moved = after - before;
    if (std::abs(moved) < least * frame) return std::nullopt;
    for (const auto& p : parts)
        if (std::abs(p.after.gpuMs - p.before.gpuMs - moved) > alike * std::abs(moved)) return std::nullopt;
    return routeFound("", before, after, 0.5);
}

std::vector<PairFinding> copyRoute(const std::vector<UsualPart>& parts, bool wiredSo) {
    constexpr double least = 0.03; // of the frame
    std::vector<PairFinding> out;
    for (const auto& part : parts)
        if (const auto found = besidesTheWork(part, least, wiredSo)) out.push_back(*found);
    if (!out.empty() || !wiredSo) return out;
    if (const auto found = withinTheReading(parts, least)) out.push_back(*found);
    return out;
}

} // namespace

std::string_view keyOf(PairSign sign) {
    return keyIn(pairSigns, sign);
}

std::vector<PairFinding> heldAgainst(Runs before, Runs after, const run::Variant& variant,
                                     const std::optional<display::Panel>& panel, const machine::Machine* machine) {
    std::vector<PairFinding> out;
    if (before.empty() || after.empty()) return out;
    if (const auto found = notApplied(before, after, frames::pacedMsOf(panel, &variant))) out.push_back(*found);
    if (const auto found = hitchesFirstOnly(before, after)) out.push_back(*found);
    const auto found = copyRoute(usualParts(before, after, variant, panel), machine != nullptr && machine->copyRoute);
    out.insert(out.end(), found.begin(), found.end());
    return out;
}

} // namespace impasto::limits
