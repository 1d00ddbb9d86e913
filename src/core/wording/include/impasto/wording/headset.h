// SPDX-License-Identifier: GPL-3.0-or-later
// What a headset's runtime makes of the frames, and foveation.
#pragma once

#include <impasto/pace/headset.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// The verdict in a few words, and why in a sentence or two.
std::string foveationVerdict(const Words& w, pace::FoveationAdvice advice);
std::string foveationReason(const Words& w, const pace::Foveation& foveation, Hertz mode);
std::vector<std::string> headsetCautions(const Words& w);
Why whyHeadset(const Words& w, Hertz mode, bool cpuTold);

} // namespace impasto::wording
