// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/examine.h>

#include <algorithm>
#include <impasto/frames/shape.h>
#include <impasto/stats/stats.h>

namespace impasto::frames {
namespace {

constexpr double quarterMs = 250;  // a menu's end is found to within two of them
constexpr double otherRate = 1.75; // of a menu against the route
constexpr double edgeMs = 3000, settleMs = 300;

/// Half of the run's time goes by in frames up to this one: a menu has most of the frames, but not most of the time.
double usualMsOf(std::span<const double> frames) {
    std::vector<double> sorted(frames.begin(), frames.end());
    std::sort(sorted.begin(), sorted.end());
    double whole = 0, sum = 0;
    for (const double ms : sorted) whole += ms;
    for (const double ms : sorted)
        if ((sum += ms) >= whole / 2) return ms;
    return 0;
}

struct Piece {
    double endMs = 0, medianMs = 0;
    bool flat = false; // half of its frames lie within 3% of each other
};

std::vector<Piece> piecesOf(std::span<const double> frames) {
    std::vector<Piece> out;
    std::vector<double> inside;
    double at = 0, begun = 0;
    for (const double ms : frames) {
        at += ms;
        inside.push_back(ms);
        if (at - begun < quarterMs) continue;
        const double middle = *stats::quantile(inside, 0.5);
        const double half = *stats::quantile(inside, 0.75) - *stats::quantile(inside, 0.25);
        out.push_back({at, middle, half <= 0.03 * middle});
        begun = at;
        inside.clear();
    }
    return out;
}

/// The end of a menu at the run's begin, ms; 0 without one. It runs far faster than the route ever does, and as evenly
/// as something that stands still, or so fast that no route would.
double menuEnd(const std::vector<Piece>& pieces, double usual, std::size_t asked) {
    constexpr double farFaster = 3;
    constexpr std::size_t gap = 4; // a second
    const std::size_t shortest = asked * 2;
    std::size_t last = 0, faster = 0, even = 0, farCount = 0;
    double slowest = 0;
    for (std::size_t i = 0; i < pieces.size() && i <= last + gap; ++i) {
        if (pieces[i].medianMs * otherRate > usual) continue;
        last = i;
        ++faster;
        even += pieces[i].flat ? 1 : 0;
        farCount += pieces[i].medianMs * farFaster < usual ? 1 : 0;
        slowest = std::max(slowest, pieces[i].medianMs);
    }
    if (faster < shortest || 2 * last > pieces.size()) return 0;
    if (20 * even < asked * 7 * faster && 20 * farCount < asked * 9 * faster) return 0;
    // Where later pieces run as fast, the route itself does; not those of a menu at the other end.
    const auto fast = [&](std::size_t i) { return pieces[i].medianMs <= 1.15 * slowest; };
    std::size_t end = pieces.size(), alike = 0;
    while (end > last + 1 && (fast(end - 1) || (end > last + 2 && fast(end - 2)))) --end;
    for (std::size_t i = last + 1; i < end; ++i) alike += fast(i) ? 1 : 0;
    return 50 * alike > pieces.size() - last ? 0 : pieces[last].endMs;
}

/// The end of the loading that begins at a moment, ms; that moment without any. One long frame is a hitch.
double loadingEnd(std::span<const double> frames, double from, double usual, double whole, std::size_t asked) {
    const double fewestMs = 500 * static_cast<double>(asked);
    double at = 0, end = from, gone = 0;
    std::size_t odd = 0;
    for (const double ms : frames) {
        at += ms;
        if (at - ms >= from + edgeMs) break;
        if (at <= from || ms <= 4 * usual) continue;
        ++odd;
        gone += ms;
        end = at + settleMs;
    }
    const bool loads = gone >= fewestMs || (odd > 1 && gone >= fewestMs / 2);
    return loads && end < whole / 2 ? end : from;
}

/// `asked`: two, or one where runs of the same route have something there.
double otherUntil(std::span<const double> frames, double usual, bool menus, std::size_t asked) {
    double whole = 0;
    for (const double ms : frames) whole += ms;
    return loadingEnd(frames, menus ? menuEnd(piecesOf(frames), usual, asked) : 0, usual, whole, asked);
}

} // namespace

std::vector<capture::Span> pollutionOf(const capture::Capture& capture, Ends expected) {
    constexpr double shortestMs = 5000; // there is nothing to compare with
    const double whole = capture::durationMs(capture);
    if (whole < shortestMs) return {};
    const double usual = usualMsOf(capture.framesMs);
    const std::vector<double> backwards(capture.framesMs.rbegin(), capture.framesMs.rend());
    const double head = otherUntil(capture.framesMs, usual, capture.marks.empty(), expected.begin ? 1 : 2),
                 tail = otherUntil(backwards, usual, capture.marks.empty(), expected.end ? 1 : 2);
    std::vector<capture::Span> out;
    if (head > 0) out.push_back({0, std::min(head, whole)});
    if (tail > 0) out.push_back({std::max(0.0, whole - tail), whole});
    out = capture::joined(std::move(out));
    // A run that is slow throughout is not a loading screen.
    double gone = 0;
    for (const auto& span : out) gone += span.toMs - span.fromMs;
    return gone > whole / 2 ? std::vector<capture::Span>() : out;
}

Ends expectedIn(std::span<const std::vector<capture::Span>> proposed) {
    std::size_t begins = 0, ends = 0;
    for (const auto& spans : proposed)
        for (const auto& span : spans) ++(span.fromMs == 0 ? begins : ends);
    const auto many = [&](std::size_t count) { return count >= 2 && 2 * count > proposed.size(); };
    return {many(begins), many(ends)};
}

} // namespace impasto::frames
