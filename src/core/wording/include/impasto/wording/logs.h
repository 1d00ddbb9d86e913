// SPDX-License-Identifier: GPL-3.0-or-later
// How a log is read, in words.
#pragma once

#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// What was passed over, cut or doubted, a sentence each.
std::vector<std::string> importNotes(const Words& w, const capture::Capture& capture);
std::string importNote(const Words& w, const logs::Note& note);
/// "µs"
std::string timeUnit(logs::TimeUnit unit);
/// How a foreign log was read.
std::string dialect(const Words& w, const logs::Dialect& dialect);
/// "GPU load, %".
std::string sensor(const Words& w, capture::Sensor sensor);
/// Over a narrow column: "GPU W", "GPU GiB"; and a value in it, without its unit.
std::string sensorColumn(const Words& w, capture::Sensor sensor);
std::string sensorInColumn(capture::Sensor sensor, double value);
/// Of what a run measured besides its frame times, by its key: a sensor, a lane, latency, the shown rate.
std::string measured(const Words& w, std::string_view key);
/// The unit of such a value, from its key; empty where it has none.
std::string_view measuredUnit(std::string_view key);
/// Means of a run's sensors while it was recorded; empty where there are none.
std::string meanwhile(const Words& w, const capture::Capture& capture);

} // namespace impasto::wording
