// SPDX-License-Identifier: GPL-3.0-or-later
// What a headset's runtime makes of a set's frames: which refreshes get a frame of their own, which are filled in, at
// every rate the headset has; and whether foveation pays, from the user's own CPU and GPU work.
#pragma once

#include <impasto/pace/predict.h>

namespace impasto::pace {

struct WornRate {
    Hertz mode;
    double onTime = 0;                    // share of frames shown for one refresh, in the part where it is least
    std::optional<double> cpuOnTime = {}; // share of the frames whose work fits one refresh; none where it is not told
    double gpuOnTime = 0;
    double full = 0, half = 0, third = 0; // of the time: every refresh, every second, every third or fewer
    bool holds = false;                   // the wished share, in every part
};
/// In every mode, ascending: as recorded in the mode it was recorded in, replayed in the others. Empty without GPU
/// work.
std::vector<WornRate> wornRates(const Replay& replay);

/// A frame that missed its refresh: when, in the recording, and for how many refreshes the one before it stayed.
struct LateFrame {
    double atMs = 0;
    int refreshes = 2;
};
std::vector<LateFrame> lateFrames(const Replay& replay, Hertz mode);

enum class FoveationAdvice { NotNeeded, Use, CpuLacks, NotEnough, CpuNotTold };
/// Common practice, no source: it saves a tenth of the GPU's work and costs 0.8 to 1.2 ms of the CPU's; where the CPU
/// has no room, the GPU reading gets worse too.
struct Foveation {
    FoveationAdvice advice = FoveationAdvice::NotNeeded;
    double gpuSavedMs = 0, cpuCostMs = 1.0;
    double gpuMs = 0;            // at the wished share of the frames, as now
    std::optional<double> cpuMs; // the same
    double onTime = 0, onTimeWith = 0;
};
std::optional<Foveation> foveationOf(const Replay& replay, Hertz mode);

} // namespace impasto::pace
