// SPDX-License-Identifier: GPL-3.0-or-later
// What the heading of a column says, in lower case. Private to logs.
#pragma once

#include <impasto/logs/import.h>
#include <string_view>

namespace impasto::logs {

bool hasWord(std::string_view heading, std::string_view word);
/// The unit a heading says ("frame (ms)", "time_s"), where its last word or a bracket is a unit.
std::optional<TimeUnit> unitInHeader(std::string_view heading);
/// Frames a second.
bool saysRate(std::string_view heading);
/// How many frames there were, and no time.
bool saysFrameCount(std::string_view heading);
/// Of frames or rows: invented, not rendered.
bool saysInvented(std::string_view text);
/// How many frames were invented with each, and no running total of them.
/// How many frames a row is of.
bool saysFramesOfRow(std::string_view heading);
/// The columns by name, else by number; of many the first.
std::string namesOf(const std::vector<std::string>& header, const std::vector<std::size_t>& columns);
/// Of a frame that never came to the screen; the other way round: that it did.
bool saysDropped(std::string_view heading);
bool saysWasShown(std::string_view heading);
bool saysInventedCount(std::string_view heading);
/// It names times, or a unit of them.
bool saysTime(std::string_view heading);
/// It names what frames take.
bool saysFrameTime(std::string_view heading);
/// A figure of something else than frames; `clockTime`: its cells are clock times.
bool saysOtherFigure(std::string_view heading, bool clockTime);
/// A slow reading by the heading of the column; its values must be possible ones.
std::optional<SensorColumn> sensorOf(std::string_view heading, std::size_t column, const std::vector<double>& values);

/// A column that may be of a sensor.
struct SensorFound {
    SensorColumn column;
    std::string_view heading;
    double mean = 0; // of its values
};
/// One column of each sensor: of several GPUs the one with the greatest load, or else the greatest figure. Several
/// loads of cores say nothing of the whole, and all together which is the busiest.
std::vector<SensorColumn> oneOfEach(const std::vector<SensorFound>& found);

} // namespace impasto::logs
