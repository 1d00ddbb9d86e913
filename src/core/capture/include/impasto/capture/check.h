// SPDX-License-Identifier: GPL-3.0-or-later
// Whether a capture makes sense, asked where captures enter: from a log, from a logbook, from a rig. What is computed
// of one may rely on it afterwards.
#pragma once

#include <impasto/capture/capture.h>

namespace impasto::capture {

/// Nothing where frame times are finite, above 0 and at most a quarter of an hour, columns are of one length and hold
/// numbers of sense or NaN, words are known, marks lie inside and ascend, and readings have their times; else the first
/// thing that is wrong, in a few words.
std::optional<std::string> faultOf(const Capture& capture);

} // namespace impasto::capture
