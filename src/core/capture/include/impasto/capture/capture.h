// SPDX-License-Identifier: GPL-3.0-or-later
// Frames as recorded: a column store. A missing cell is NaN, a missing column an empty optional; nothing is invented.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include <impasto/base/quantity.h>

namespace impasto::capture {

/// What the frame times are the intervals between. Unlike kinds are never compared.
enum class IntervalKind { Unknown, Displayed, Started };
std::string_view keyOf(IntervalKind kind);
std::optional<IntervalKind> intervalKindOf(std::string_view key);
/// Whether frame times of both kinds may be held against each other: not displayed ones against started ones.
bool alike(IntervalKind a, IntervalKind b);

enum class Sensor {
    GpuLoad,
    CpuLoad,
    BusiestCore, // the load of the core that is busiest
    GpuMemory,
    SystemMemory,
    GpuPower,
    CpuPower,
    SystemPower,
    CpuClock, // of its highest
    GpuClock,
    CpuTemperature,
    GpuTemperature,
    Fan,
    CpuMhz, // of a log that does not tell the highest
    GpuMhz,
    SecondGpuLoad // of the busiest GPU besides the one that renders
};
/// The sensor's name with its unit, as files write it: "gpu_load_percent", "gpu_memory_mib", "gpu_power_w".
std::string_view keyOf(Sensor sensor);
std::optional<Sensor> sensorOf(std::string_view key);
inline constexpr std::array<Sensor, 16> allSensors{
    Sensor::GpuLoad,      Sensor::CpuLoad,  Sensor::BusiestCore,    Sensor::GpuMemory,
    Sensor::SystemMemory, Sensor::GpuPower, Sensor::CpuPower,       Sensor::SystemPower,
    Sensor::CpuClock,     Sensor::GpuClock, Sensor::CpuTemperature, Sensor::GpuTemperature,
    Sensor::Fan,          Sensor::CpuMhz,   Sensor::GpuMhz,         Sensor::SecondGpuLoad};

constexpr bool isClock(Sensor sensor) {
    return sensor == Sensor::CpuClock || sensor == Sensor::GpuClock || sensor == Sensor::CpuMhz ||
           sensor == Sensor::GpuMhz;
}

/// A slow reading: value i was read at timeMs[i] after the first frame's start.
struct Track {
    Sensor sensor = Sensor::GpuLoad;
    std::vector<double> timeMs;
    std::vector<float> values;
    friend bool operator==(const Track&, const Track&) = default;
};

/// What a log says besides, under its own heading: one value a frame, NaN where it says none.
struct OtherColumn {
    std::string name;
    std::vector<float> values;
    std::vector<std::string> words = {}; // where it holds words: value i is the word's index
    friend bool operator==(const OtherColumn&, const OtherColumn&) = default;
};

/// As float, at most the greatest one.
float narrowed(double value);

/// Frames from firstFrame (index) up to the next mark belong to the part.
struct PartMark {
    std::string part;
    std::size_t firstFrame = 0;
    friend bool operator==(const PartMark&, const PartMark&) = default;
};

/// A row is a rendered frame that was shown; what was invented between two of them, or lost, is counted.
struct Capture {
    IntervalKind kind = IntervalKind::Unknown;
    std::vector<double> framesMs;                 // time since the rendered frame shown before, > 0
    std::optional<std::vector<double>> cpuWorkMs; // same length as framesMs where present
    std::optional<std::vector<double>> gpuWorkMs;
    std::optional<std::vector<double>> latencyMs; // CPU start to shown
    std::optional<std::vector<double>> invented;  // frames shown before this one that were not rendered; none: 0 each
    std::optional<std::vector<double>> lost;      // frames rendered before this one and never shown; none: 0 each
    std::vector<PartMark> marks;                  // ascending; empty: one part
    std::vector<Track> tracks;
    std::vector<OtherColumn> others;
    std::map<std::string, std::string> notes; // how it was made; free keys of [a-z0-9_.]

    [[nodiscard]] std::size_t frames() const { return framesMs.size(); }
    [[nodiscard]] const Track* track(Sensor sensor) const;
};

/// The columns besides the frame time, as files name them.
struct Column {
    std::string_view name;
    std::optional<std::vector<double>> Capture::*values;
};
inline constexpr std::array<Column, 5> optionalColumns{{{"cpu_work_ms", &Capture::cpuWorkMs},
                                                        {"gpu_work_ms", &Capture::gpuWorkMs},
                                                        {"latency_ms", &Capture::latencyMs},
                                                        {"invented_frames", &Capture::invented},
                                                        {"lost_frames", &Capture::lost}}};

/// Sum of the frame times, ms, compensated (Neumaier 1974).
double durationMs(const Capture& capture);
/// Frames shown a second, those invented among them; 0 without frames.
Fps shownRate(const Capture& capture);
/// Mean of a track's finite values; nothing when it has none.
std::optional<double> trackMean(const Capture& capture, Sensor sensor);
/// The frames [first, last) of each part, in order. One entry named "" when there are no marks.
struct PartRange {
    std::string part;
    std::size_t first = 0, last = 0;
};
std::vector<PartRange> partsOf(const Capture& capture);
/// Memory that the columns take.
std::size_t bytesOf(const Capture& capture);
/// Takes readings that were made beside it, by a clock of which `zeroMs` is the first frame's start: those within its
/// time, of sensors that it does not tell itself. Gives of how many sensors.
std::size_t addBeside(Capture& capture, std::span<const Track> readings, double zeroMs);
/// A mark of all that was recorded, missing cells too; the notes are not in it.
std::uint64_t fingerprintOf(const Capture& capture);

} // namespace impasto::capture
