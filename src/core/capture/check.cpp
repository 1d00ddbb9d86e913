// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/check.h>

#include <algorithm>
#include <cmath>

namespace impasto::capture {
namespace {

constexpr double longestMs = 900000, largest = 1e15;

bool makesSense(double value) {
    return std::isnan(value) || std::abs(value) <= largest;
}

std::optional<std::string> faultOfOther(const OtherColumn& other, std::size_t frames) {
    if (other.values.size() != frames) return "column of another length";
    const auto known = [&other](float v) {
        return std::isnan(v) || (v >= 0 && v < static_cast<float>(other.words.size()));
    };
    if (!other.words.empty() && !std::all_of(other.values.begin(), other.values.end(), known)) return "unknown word";
    return std::nullopt;
}

} // namespace

std::optional<std::string> faultOf(const Capture& capture) {
    const auto frame = [](double ms) { return ms > 0 && ms <= longestMs; }; // NaN is neither
    if (!std::all_of(capture.framesMs.begin(), capture.framesMs.end(), frame)) return "frame time out of sense";
    for (const auto& column : optionalColumns) {
        const auto& values = capture.*column.values;
        if (!values) continue;
        if (values->size() != capture.frames()) return "column of another length";
        if (!std::all_of(values->begin(), values->end(), makesSense)) return "value out of sense";
    }
    for (const auto& other : capture.others)
        if (auto fault = faultOfOther(other, capture.frames())) return fault;
    for (std::size_t i = 0; i < capture.marks.size(); ++i) {
        const std::size_t first = capture.marks[i].firstFrame;
        if (first >= capture.frames() || (i > 0 && first < capture.marks[i - 1].firstFrame)) return "part out of order";
    }
    for (const auto& track : capture.tracks) {
        if (track.timeMs.size() != track.values.size()) return "reading without its time";
        const auto time = [](double ms) { return std::isfinite(ms) && std::abs(ms) <= largest; };
        if (!std::all_of(track.timeMs.begin(), track.timeMs.end(), time)) return "reading at no time";
    }
    return std::nullopt;
}

} // namespace impasto::capture
