// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/rig/rig.h>

namespace impasto::rig {

void append(capture::Capture& capture, const FrameSample& frame, const std::string& part) {
    const auto put = [&capture](std::optional<std::vector<double>>& column, double value, bool needed) {
        if (!column && needed) column.emplace(capture.frames(), 0.0);
        if (column) column->push_back(value);
    };
    if (capture.marks.empty() || capture.marks.back().part != part) capture.marks.push_back({part, capture.frames()});
    put(capture.cpuWorkMs, frame.cpuWorkMs, true);
    put(capture.gpuWorkMs, frame.gpuWorkMs, true);
    put(capture.latencyMs, frame.latencyMs, true);
    put(capture.invented, static_cast<double>(frame.inventedMs.size()), !frame.inventedMs.empty());
    put(capture.lost, static_cast<double>(frame.lost), frame.lost > 0);
    capture.framesMs.push_back(frame.frameMs);
}

} // namespace impasto::rig
