// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/places.h>

#include <cmath>
#include <impasto/stats/stats.h>
#include <numeric>

namespace impasto::frames {
namespace {

constexpr double pieceMs = 1000;

/// What each piece of each run comes to, and how long the pieces of a part are.
struct Places {
    std::vector<std::vector<double>> rate; // by run, by piece: frames a ms
    std::vector<std::size_t> pieces;       // of each part
    [[nodiscard]] std::size_t count() const { return rate.front().size(); }
};

/// Frames a ms in pieces of equal time; a frame that lies in two counts in both by its share.
void addRates(std::span<const double> frames, std::size_t pieces, std::vector<double>& out) {
    const double whole = std::accumulate(frames.begin(), frames.end(), 0.0), each = whole / static_cast<double>(pieces);
    const std::size_t first = out.size();
    out.resize(first + pieces, 0.0);
    double at = 0;
    for (const double ms : frames) {
        const double end = std::min(at + ms, whole);
        for (double from = at; from < end;) {
            const auto piece = std::min(pieces - 1, static_cast<std::size_t>(from / each));
            const double to = piece + 1 == pieces ? end : std::min(end, static_cast<double>(piece + 1) * each);
            if (!(to > from)) break;
            out[first + piece] += (to - from) / ms / each;
            from = to;
        }
        at += ms;
    }
}

std::optional<Places> placesOf(const Captures& runs) {
    Places out;
    std::vector<std::vector<capture::PartRange>> ranges;
    for (const auto* run : runs) ranges.push_back(capture::partsOf(*run));
    const auto inPart = [&](std::size_t run, std::size_t part) {
        const auto& range = ranges[run][part];
        return std::span(runs[run]->framesMs).subspan(range.first, range.last - range.first);
    };
    for (std::size_t part = 0; part < ranges.front().size(); ++part) {
        double longest = 0;
        for (std::size_t run = 0; run < runs.size(); ++run) {
            if (ranges[run].size() != ranges.front().size() || ranges[run][part].part != ranges.front()[part].part)
                return std::nullopt;
            const auto frames = inPart(run, part);
            if (frames.size() < 2) return std::nullopt;
            longest = std::max(longest, std::accumulate(frames.begin(), frames.end(), 0.0));
        }
        out.pieces.push_back(std::max<std::size_t>(1, static_cast<std::size_t>(longest / pieceMs)));
    }
    for (std::size_t run = 0; run < runs.size(); ++run) {
        out.rate.emplace_back();
        for (std::size_t part = 0; part < out.pieces.size(); ++part)
            addRates(inPart(run, part), out.pieces[part], out.rate.back());
    }
    return out;
}

/// The rates over their places' means, in logarithms, without the runs' own means.
std::vector<std::vector<double>> leftOver(const Places& places) {
    auto out = places.rate;
    const double runs = static_cast<double>(out.size());
    for (std::size_t k = 0; k < places.count(); ++k) {
        double mean = 0;
        for (auto& run : out) {
            run[k] = std::log(std::max(run[k], 1e-12));
            mean += run[k] / runs;
        }
        for (auto& run : out) run[k] -= mean;
    }
    for (auto& run : out) {
        const double mean = *stats::mean(run);
        for (double& v : run) v -= mean;
    }
    return out;
}

/// The deepest stretch of a run that is slower than its place; `off`: logarithms of its rates over the usual ones.
Examined sagOf(std::vector<double> off, double durationMs) {
    constexpr std::size_t shortest = 2;
    constexpr double least = 0.03, deviations = 4;
    const double level = *stats::quantile(off, 0.5);
    std::vector<double> apart;
    for (double& v : off) apart.push_back(std::abs(v -= level));
    const double reach = std::max(least, deviations * 1.4826 * *stats::quantile(apart, 0.5));
    Examined out{Finding::Sags, false, 0};
    const double whole = durationMs / static_cast<double>(off.size());
    double lowest = 0;
    for (std::size_t k = 0; k < off.size();) {
        std::size_t end = k, deep = 0, mostDeep = 0; // pieces in a row beyond the reach
        double sum = 0;
        for (; end < off.size() && off[end] < -reach / 2; ++end) {
            sum += off[end];
            deep = off[end] < -reach ? deep + 1 : 0;
            mostDeep = std::max(mostDeep, deep);
        }
        const double mean = end > k ? sum / static_cast<double>(end - k) : 0;
        if (mostDeep >= shortest && (!out.found || sum < lowest)) {
            lowest = sum;
            out = {Finding::Sags, true, std::expm1(mean), true,
                   capture::Span{static_cast<double>(k) * whole, static_cast<double>(end) * whole}};
        }
        k = std::max(end, k + 1);
    }
    return out;
}

} // namespace

std::vector<double> errorsWithoutRoute(const Captures& runs) {
    constexpr std::size_t fewestPieces = 8;
    if (runs.size() < 2) return {};
    const auto places = placesOf(runs);
    if (!places || places->count() < fewestPieces) return {};
    double squares = 0, neighbours = 0;
    for (const auto& run : leftOver(*places))
        for (std::size_t k = 0; k < run.size(); ++k) {
            squares += run[k] * run[k];
            neighbours += k > 0 ? run[k] * run[k - 1] : 0;
        }
    const double pieces = static_cast<double>(places->count()), n = static_cast<double>(runs.size());
    const double free = (n - 1) * (pieces - 1);
    const double variance = std::max(squares / 4, squares + 2 * neighbours) / free;
    std::vector<double> out;
    for (const auto* run : runs)
        out.push_back(1000 * static_cast<double>(run->frames()) / capture::durationMs(*run) *
                      std::sqrt(variance / pieces));
    return out;
}

void takeRouteOut(std::vector<RunDoubt>& doubt, const Captures& runs) {
    const auto errors = errorsWithoutRoute(runs);
    if (errors.size() != doubt.size()) return;
    for (std::size_t i = 0; i < doubt.size(); ++i)
        doubt[i].average.standardError = std::min(doubt[i].average.standardError, errors[i]);
}

std::vector<Examined> sags(const Captures& runs) {
    constexpr std::size_t fewestRuns = 3, fewestPieces = 8;
    if (runs.size() < fewestRuns) return {};
    const auto places = placesOf(runs);
    if (!places || places->count() < fewestPieces) return {};
    // Against the middle of all runs, which one that sags does not move.
    std::vector<double> middle;
    for (std::size_t k = 0; k < places->count(); ++k) {
        std::vector<double> here;
        for (const auto& run : places->rate) here.push_back(run[k]);
        middle.push_back(*stats::quantile(here, 0.5));
    }
    std::vector<Examined> out;
    for (std::size_t run = 0; run < runs.size(); ++run) {
        std::vector<double> off;
        for (std::size_t k = 0; k < middle.size(); ++k)
            off.push_back(std::log(std::max(places->rate[run][k], 1e-12) / std::max(middle[k], 1e-12)));
        out.push_back(sagOf(std::move(off), capture::durationMs(*runs[run])));
    }
    return out;
}

} // namespace impasto::frames
