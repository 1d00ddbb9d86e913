// SPDX-License-Identifier: GPL-3.0-or-later
// How a log is read, in words.
#pragma once

#include <impasto/logs/import.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// How a foreign log was read.
std::string dialect(const Words& w, const logs::Dialect& dialect);
/// Means of a run's sensors while it was recorded; empty where there are none.
/// "GPU load, %".
std::string sensor(const Words& w, capture::Sensor sensor);
std::string meanwhile(const Words& w, const capture::Capture& capture);

} // namespace impasto::wording
