// SPDX-License-Identifier: GPL-3.0-or-later
// Around the choice: why a level is not in it, and what goes into the game's files.
#pragma once

#include <impasto/choose/front.h>
#include <impasto/config/files.h>
#include <impasto/wording/layers.h>

namespace impasto::wording {

/// What the level alone would do to the choice: "It costs 1.6 ms more on the GPU and gains 2% of the picture. The
/// landing would hold only 55 fps: 1.0 ms over the safe limit."
std::string whyNot(const Words& w, const document::Session& session, const choose::WhyNot& answer, Fps target);
/// What has to go for it: "The best set that has it shows 84.5% of the picture, 6.5 points less."
std::string rule(const Words& w, const document::Session& session, const game::Rule& rule);
std::string whatHasToGo(const Words& w, const choose::WhyNot& answer);
/// "60 fps fits into 4.6 GiB of GPU memory, with 71% of the picture."
std::string leastMemory(const Words& w, const choose::LeastMemory& least, Fps target);
/// "2 files, 5 values; 3 stand there already".
std::string plan(const Words& w, const config::Plan& plan);

} // namespace impasto::wording
