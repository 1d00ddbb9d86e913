// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/parts.h>

#include <cmath>

namespace impasto::capture {

std::vector<PartMark> marksByTime(const Capture& capture, std::span<const NamedSeconds> parts) {
    double nominal = 0;
    for (const auto& part : parts) nominal += part.seconds;
    if (parts.size() < 2 || !(nominal > 0) || capture.framesMs.empty()) return {};
    const double scale = durationMs(capture) / nominal;
    std::vector<PartMark> out{{parts.front().name, 0}};
    double begin = parts.front().seconds * scale, at = 0;
    std::size_t next = 1;
    for (std::size_t i = 0; i < capture.framesMs.size() && next < parts.size(); ++i) {
        // A frame belongs to the part that holds its middle.
        while (next < parts.size() && at + capture.framesMs[i] / 2 >= begin) {
            if (out.back().firstFrame == i)
                out.back().part = parts[next].name; // shorter than a frame
            else
                out.push_back({parts[next].name, i});
            begin += parts[next++].seconds * scale;
        }
        at += capture.framesMs[i];
    }
    return out;
}

bool namesParts(const OtherColumn& column) {
    constexpr std::size_t mostNames = 20, mostChanges = 100;
    if (column.words.size() < 2 || column.words.size() > mostNames) return false;
    const auto marks = marksByColumn(column);
    return marks.size() >= 2 && marks.size() <= mostChanges;
}

std::vector<PartMark> marksByColumn(const OtherColumn& column) {
    std::vector<PartMark> out;
    for (std::size_t i = 0; i < column.values.size(); ++i) {
        const float value = column.values[i];
        if (!std::isfinite(value) || value < 0 || static_cast<std::size_t>(value) >= column.words.size()) continue;
        const auto& word = column.words[static_cast<std::size_t>(value)];
        if (out.empty())
            out.push_back({word, 0});
        else if (out.back().part != word)
            out.push_back({word, i});
    }
    return out;
}

} // namespace impasto::capture
