// SPDX-License-Identifier: GPL-3.0-or-later
// What limits a part, on what evidence, and the test that would confirm it.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/limits/limits.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

std::string bottleneck(const Words& w, const limits::PartVerdict& verdict); // "GPU-limited, sure"
std::string bottleneckEvidence(const Words& w, const limits::PartVerdict& verdict, Fps target);
std::string bottleneckTest(const Words& w, const limits::PartVerdict& verdict);

} // namespace impasto::wording
