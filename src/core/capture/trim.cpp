// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <impasto/capture/trim.h>

namespace impasto::capture {
namespace {

bool inside(std::span<const Span> spans, double ms) {
    return std::any_of(spans.begin(), spans.end(), [ms](const Span& s) { return ms > s.fromMs && ms <= s.toMs; });
}

/// Time that the spans take away before a moment.
double goneBefore(std::span<const Span> spans, double ms) {
    double gone = 0;
    for (const auto& s : spans) gone += std::max(0.0, std::min(ms, s.toMs) - s.fromMs);
    return gone;
}

} // namespace

std::vector<Span> joined(std::vector<Span> spans) {
    std::erase_if(spans, [](const Span& s) { return !(s.toMs > s.fromMs); });
    std::sort(spans.begin(), spans.end());
    std::vector<Span> out;
    for (const auto& s : spans) {
        if (!out.empty() && s.fromMs <= out.back().toMs)
            out.back().toMs = std::max(out.back().toMs, s.toMs);
        else
            out.push_back(s);
    }
    return out;
}

Capture without(const Capture& capture, std::span<const Span> spans) {
    const auto cut = joined({spans.begin(), spans.end()});
    Capture out;
    out.kind = capture.kind;
    out.notes = capture.notes;
    for (const auto& column : optionalColumns)
        if (capture.*column.values) (out.*column.values).emplace();
    for (const auto& other : capture.others) out.others.push_back({other.name, {}, other.words});
    double at = 0;
    std::size_t mark = 0;
    for (std::size_t i = 0; i < capture.frames(); ++i) {
        at += capture.framesMs[i];
        for (; mark < capture.marks.size() && capture.marks[mark].firstFrame <= i; ++mark) {
            // A part that is gone as a whole leaves no mark.
            if (!out.marks.empty() && out.marks.back().firstFrame == out.frames()) out.marks.pop_back();
            out.marks.push_back({capture.marks[mark].part, out.frames()});
        }
        if (inside(cut, at)) continue;
        out.framesMs.push_back(capture.framesMs[i]);
        for (const auto& column : optionalColumns)
            if (const auto& values = capture.*column.values) (out.*column.values)->push_back((*values)[i]);
        for (std::size_t c = 0; c < out.others.size(); ++c) out.others[c].values.push_back(capture.others[c].values[i]);
    }
    std::erase_if(out.marks, [&out](const PartMark& m) { return m.firstFrame >= out.frames(); });
    for (const auto& track : capture.tracks) {
        Track kept{track.sensor, {}, {}};
        for (std::size_t i = 0; i < track.values.size(); ++i) {
            if (inside(cut, track.timeMs[i])) continue;
            kept.timeMs.push_back(track.timeMs[i] - goneBefore(cut, track.timeMs[i]));
            kept.values.push_back(track.values[i]);
        }
        out.tracks.push_back(std::move(kept));
    }
    return out;
}

double timeInWhole(std::span<const Span> spans, double trimmedMs) {
    double at = trimmedMs;
    for (const auto& s : joined({spans.begin(), spans.end()})) {
        if (s.fromMs > at) break;
        at += s.toMs - s.fromMs;
    }
    return at;
}

} // namespace impasto::capture
