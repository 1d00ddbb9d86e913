// SPDX-License-Identifier: GPL-3.0-or-later
#include "heading.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <impasto/base/text.h>
#include <utility>

namespace impasto::logs {
namespace {

/// "time of 10 frames (ms)", "per 60 frames".
bool ofSeveralFrames(std::string_view heading) {
    const auto at = heading.find("frames");
    if (at == std::string_view::npos) return false;
    const auto digit = heading.substr(0, at).find_last_not_of(' ');
    return digit != std::string_view::npos && heading[digit] >= '0' && heading[digit] <= '9';
}

/// The heading has a word of its own that says which of several frames it is of.
bool isOfSeveral(std::string_view heading) {
    constexpr std::array words{"min", "max", "minimum", "maximum", "worst", "longest", "slowest", "fastest"};
    const auto letter = [](char c) { return c >= 'a' && c <= 'z'; };
    return std::any_of(words.begin(), words.end(), [&](std::string_view word) {
        const auto at = heading.find(word);
        if (at == std::string_view::npos || (at > 0 && letter(heading[at - 1]))) return false;
        return at + word.size() == heading.size() || !letter(heading[at + word.size()]);
    });
}

} // namespace

bool hasWord(std::string_view heading, std::string_view word) {
    return heading.find(word) != std::string_view::npos;
}

std::optional<TimeUnit> unitInHeader(std::string_view heading) {
    std::string word;
    std::vector<std::string> words;
    for (const char c : std::string(heading) + " ") {
        const bool letter = (c >= 'a' && c <= 'z') || static_cast<unsigned char>(c) >= 0x80;
        if (letter)
            word += c;
        else if (!word.empty())
            words.push_back(std::exchange(word, {}));
    }
    if (words.empty()) return std::nullopt;
    const std::string& last = words.back();
    if (last == "s" || last == "sec" || last == "seconds") return TimeUnit::Seconds;
    if (last == "ms" || last == "msec" || last == "milliseconds") return TimeUnit::Milliseconds;
    if (last == "us" || last == "\xc2\xb5s" || last == "\xb5s" || last == "\xce\xbcs" || last == "microseconds")
        return TimeUnit::Microseconds;
    if (last == "ns" || last == "nanoseconds") return TimeUnit::Nanoseconds;
    return std::nullopt;
}

bool saysRate(std::string_view heading) {
    constexpr std::array said{"fps", "per second", "framerate", "frame rate", "frame_rate", "frames/s"};
    return heading == "rate" || heading == "hz" || heading.starts_with("rate (") ||
           std::any_of(said.begin(), said.end(), [heading](const char* word) { return hasWord(heading, word); });
}

bool saysFrameCount(std::string_view heading) {
    return hasWord(heading, "frames") && !unitInHeader(heading) && !hasWord(heading, "time") && !saysRate(heading);
}

bool saysInvented(std::string_view text) {
    constexpr std::array said{"generated", "interpolated", "invented", "synthesized", "synthesised", "synthetic"};
    constexpr std::array negated{"not ", "not-", "non"};
    const auto has = [text](const char* word) { return hasWord(text, word); };
    return std::any_of(said.begin(), said.end(), has) && std::none_of(negated.begin(), negated.end(), has);
}

bool saysFramesOfRow(std::string_view heading) {
    constexpr std::array said{"frames", "frame count", "number of frames", "rendered frames", "frames rendered"};
    return std::find(said.begin(), said.end(), heading) != said.end();
}

std::string namesOf(const std::vector<std::string>& header, const std::vector<std::size_t>& columns) {
    std::string out;
    for (std::size_t i = 0; i < std::min<std::size_t>(columns.size(), 8); ++i) {
        const bool named = columns[i] < header.size() && !header[columns[i]].empty();
        out += (out.empty() ? "" : ", ") + (named ? header[columns[i]] : std::to_string(columns[i] + 1));
    }
    return columns.size() > 8 ? out + ", \u2026" : out;
}

bool saysDropped(std::string_view heading) {
    return (hasWord(heading, "dropped") || hasWord(heading, "discarded") || hasWord(heading, "not shown")) &&
           !unitInHeader(heading);
}

bool saysWasShown(std::string_view heading) {
    constexpr std::array said{"displayed", "presented", "shown", "was displayed", "was shown", "was presented"};
    return std::find(said.begin(), said.end(), heading) != said.end();
}

bool saysInventedCount(std::string_view heading) {
    constexpr std::array counts{"frames", "count", "number"};
    constexpr std::array other{"total", "sum", "time", "%", "load", "id", "index"};
    const auto has = [heading](const char* word) { return hasWord(heading, word); };
    return saysInvented(heading) && std::any_of(counts.begin(), counts.end(), has) && !unitInHeader(heading) &&
           !saysRate(heading) && std::none_of(other.begin(), other.end(), has);
}

bool saysTime(std::string_view heading) {
    constexpr std::array said{"time", "frame", "elapsed", "stamp", "clock", "delta", "interval"};
    return unitInHeader(heading) || heading == "dt" ||
           std::any_of(said.begin(), said.end(), [heading](const char* word) { return hasWord(heading, word); });
}

bool saysFrameTime(std::string_view heading) {
    return hasWord(heading, "frame") && !hasWord(heading, "stamp") &&
           (unitInHeader(heading) || hasWord(heading, "time") || hasWord(heading, "delta"));
}

bool saysOtherFigure(std::string_view heading, bool clockTime) {
    const auto any = [heading](std::initializer_list<std::string_view> words) {
        return std::any_of(words.begin(), words.end(), [heading](auto word) { return hasWord(heading, word); });
    };
    if (saysRate(heading) || saysFrameCount(heading) || any({"load", "%"})) return true;
    const bool threads = hasWord(heading, "thread") && !hasWord(heading, "frame"); // their work, not their names
    if (any({"latency", " lag", "photon", "delay"}) || (threads && (unitInHeader(heading) || hasWord(heading, "time"))))
        return true;
    if (any({"average", "avg", "mean", "median", "smooth", "target", "budget", "percentile", "p99", "p95"}))
        return true;
    if (ofSeveralFrames(heading) || heading.starts_with("ping") || any({" ping", "rtt", "round trip", "jitter"}))
        return true;
    if (!clockTime && any({"minute", "hour"})) return true; // longer than a frame's clock counts in
    if (!clockTime && isOfSeveral(heading)) return true;    // or, as "elapsed (min)", minutes again
    if (unitInHeader(heading)) return false;
    return any({"mhz", "temp", "\xc2\xb0", "power", "watt", "fan", "memory", "vram", "usage", "util", "dropped"}) ||
           (hasWord(heading, "count") && !hasWord(heading, "counter"));
}

namespace {

/// MiB of one of the unit that the heading says; 0: it says none.
double mebibytesOf(std::string_view heading) {
    const auto any = [heading](std::initializer_list<std::string_view> words) {
        return std::any_of(words.begin(), words.end(), [heading](auto word) { return hasWord(heading, word); });
    };
    return any({"gib", "gb"})   ? 1024
           : any({"kib", "kb"}) ? 1.0 / 1024
           : any({"mib", "mb"}) ? 1
           : any({"bytes"})     ? 1.0 / 1024 / 1024
                                : 0;
}

/// Degrees that are none of Celsius.
bool saysOtherDegrees(std::string_view heading) {
    if (hasWord(heading, "fahrenheit") || hasWord(heading, "kelvin")) return true;
    while (!heading.empty() && (heading.back() == ')' || heading.back() == ']')) heading.remove_suffix(1);
    constexpr std::string_view before = " _([\xb0"; // the last byte of a degree sign
    return heading.size() > 1 && (heading.back() == 'f' || heading.back() == 'k') &&
           before.find(heading[heading.size() - 2]) != std::string_view::npos;
}

/// Shares of one, mostly neither 0 nor 1.
bool areShares(std::span<const double> values) {
    std::size_t told = 0, between = 0;
    for (const double v : values) {
        if (!std::isfinite(v)) continue;
        if (v > 1) return false;
        ++told;
        between += v > 0 && v < 1 ? 1U : 0U;
    }
    return told > 0 && 2 * between > told;
}

/// To MHz: as the heading says, else by the size of the values. Nothing where they can be none: a clock of a chip at
/// work is neither 0 nor as few as a share.
std::optional<double> hertzTo(std::string_view heading, std::span<const double> values) {
    double most = 0;
    for (const double v : values) most = std::isfinite(v) ? std::max(most, v) : most;
    const double factor = hasWord(heading, "ghz")        ? 1000
                          : hasWord(heading, "mhz")      ? 1
                          : hasWord(heading, "khz")      ? 0.001
                          : hasWord(heading, "hz")       ? 1e-6
                          : most >= 0.2 && most <= 10    ? 1000
                          : most >= 150 && most <= 10000 ? 1
                                                         : 0;
    return most * factor >= 150 ? std::optional(factor) : std::nullopt;
}

/// From the unit of a column to the sensor's: as the heading says, else by the size of the values. Nothing where no
/// factor leads there.
std::optional<double> factorTo(capture::Sensor sensor, std::string_view heading, std::span<const double> values) {
    constexpr double fewMebibytes = 256;
    switch (sensor) {
    case capture::Sensor::GpuMemory:
    case capture::Sensor::SystemMemory:
        if (const double said = mebibytesOf(heading); said > 0) return said;
        return std::none_of(values.begin(), values.end(), [](double v) { return v >= fewMebibytes; }) ? 1024 : 1;
    case capture::Sensor::GpuLoad:
    case capture::Sensor::CpuLoad:
    case capture::Sensor::BusiestCore:
    case capture::Sensor::SecondGpuLoad:
        return areShares(values) ? 100 : 1;
    case capture::Sensor::GpuPower:
    case capture::Sensor::CpuPower:
    case capture::Sensor::SystemPower:
        return hasWord(heading, "mw") || hasWord(heading, "milliwatt") ? 0.001 : 1;
    case capture::Sensor::GpuTemperature:
    case capture::Sensor::CpuTemperature:
        return saysOtherDegrees(heading) ? std::nullopt : std::optional(1.0);
    case capture::Sensor::CpuMhz:
    case capture::Sensor::GpuMhz:
        return hertzTo(heading, values);
    case capture::Sensor::Fan:
    case capture::Sensor::CpuClock:
    case capture::Sensor::GpuClock:
        return 1;
    }
    return std::nullopt;
}

/// The greatest reading that makes sense, in the sensor's unit; 0: it is not read from a log.
double greatestOf(capture::Sensor sensor) {
    switch (sensor) {
    case capture::Sensor::GpuLoad:
    case capture::Sensor::CpuLoad:
    case capture::Sensor::BusiestCore:
    case capture::Sensor::SecondGpuLoad:
        return 100.5;
    case capture::Sensor::GpuMemory:
    case capture::Sensor::SystemMemory:
        return 1e6;
    case capture::Sensor::GpuPower:
    case capture::Sensor::CpuPower:
    case capture::Sensor::SystemPower:
        return 3000;
    case capture::Sensor::CpuTemperature:
    case capture::Sensor::GpuTemperature:
        return 150;
    case capture::Sensor::Fan:
        return 100;
    case capture::Sensor::CpuMhz:
    case capture::Sensor::GpuMhz:
        return 10000;
    case capture::Sensor::CpuClock:
    case capture::Sensor::GpuClock:
        return 0;
    }
    return 0;
}

/// Some values, all of them possible.
bool canBe(const SensorColumn& column, std::span<const double> values) {
    const double most = greatestOf(column.sensor) / column.factor;
    const auto impossible = [most](double v) { return v < 0 || v > most; };
    const bool some = std::any_of(values.begin(), values.end(), [](double v) { return std::isfinite(v); });
    return most > 0 && some && std::none_of(values.begin(), values.end(), impossible);
}

/// The number in "gpu 1 load", "gpu#0"; empty without one.
std::string_view numberOf(std::string_view heading, std::string_view unit) {
    const auto at = heading.find(unit);
    if (at == std::string_view::npos) return {};
    const auto from = heading.find_first_not_of(" _#-([", at + unit.size());
    if (from == std::string_view::npos) return {};
    const auto to = heading.find_first_not_of("0123456789", from);
    return heading.substr(from, (to == std::string_view::npos ? heading.size() : to) - from);
}

/// The number of a core in "cpu 1 load", "core #3 %", "thread 0 usage"; empty without one.
std::string_view coreOf(std::string_view heading) {
    for (const char* unit : {"cpu", "core", "thread"})
        if (const auto number = numberOf(heading, unit); !number.empty()) return number;
    return {};
}

} // namespace

std::optional<SensorColumn> sensorOf(std::string_view h, std::size_t column, const std::vector<double>& values) {
    const auto any = [h](std::initializer_list<std::string_view> words) {
        return std::any_of(words.begin(), words.end(), [h](std::string_view w) { return hasWord(h, w); });
    };
    const bool gpu = any({"gpu", "vram", "video", "graphics"}), core = any({"core", "thread"}) && !gpu,
               cpu = any({"cpu", "processor"}), load = any({"load", "usage", "util", "%", "percent"});
    std::optional<SensorColumn> found;
    const auto is = [&](capture::Sensor sensor) {
        if (const auto factor = factorTo(sensor, h, values)) found = SensorColumn{sensor, column, *factor};
    };
    if (core && load && any({"busiest", "max", "highest"}) && !any({"clock", "mhz", "freq", "temp"})) {
        is(capture::Sensor::BusiestCore);
    } else if (any({"limit", "max", "total", "size", "fps"}) || unitInHeader(h)) {
        // none that is kept
    } else if (any({"clock", "mhz", "ghz", "freq"})) {
        if ((gpu || cpu) && !any({"mem", "vram", "video", "base", "boost", "%", "percent"}))
            is(gpu ? capture::Sensor::GpuMhz : capture::Sensor::CpuMhz);
    } else if (any({"fan"})) {
        if (any({"%", "percent"})) is(capture::Sensor::Fan);
    } else if (any({"temp", "\xc2\xb0"})) {
        if (gpu || cpu) is(gpu ? capture::Sensor::GpuTemperature : capture::Sensor::CpuTemperature);
    } else if (any({"power", "watt"})) {
        is(gpu ? capture::Sensor::GpuPower : cpu ? capture::Sensor::CpuPower : capture::Sensor::SystemPower);
    } else if (any({"mem", "vram", "ram "}) || h == "ram") {
        if (!any({"%", "percent", "load"})) is(gpu ? capture::Sensor::GpuMemory : capture::Sensor::SystemMemory);
    } else if ((gpu || cpu || (core && !coreOf(h).empty())) && load) {
        is(gpu ? capture::Sensor::GpuLoad : capture::Sensor::CpuLoad);
    }
    return found && canBe(*found, values) ? found : std::nullopt;
}

namespace {

bool isOfGpu(capture::Sensor sensor) {
    return sensor == capture::Sensor::GpuLoad || sensor == capture::Sensor::GpuMemory ||
           sensor == capture::Sensor::GpuPower || sensor == capture::Sensor::GpuTemperature ||
           sensor == capture::Sensor::GpuMhz;
}

} // namespace

std::vector<SensorColumn> oneOfEach(const std::vector<SensorFound>& found) {
    using capture::Sensor;
    const auto best = [&](capture::Sensor sensor, std::string_view of) {
        const SensorFound* out = nullptr;
        std::size_t columns = 0;
        for (const auto& each : found) {
            if (each.column.sensor != sensor) continue;
            ++columns;
            const auto number = numberOf(each.heading, "gpu");
            if (!of.empty() && number == of) return &each;
            const bool another = out != nullptr && isOfGpu(sensor) && number != numberOf(out->heading, "gpu");
            if (out == nullptr || (another && each.mean > out->mean)) out = &each;
        }
        const bool aCore = out != nullptr && columns > 1 &&
                           (sensor == capture::Sensor::CpuLoad || sensor == capture::Sensor::CpuMhz) &&
                           !coreOf(out->heading).empty();
        return aCore ? nullptr : out;
    };
    const auto* atWork = best(capture::Sensor::GpuLoad, {});
    const auto gpu = atWork == nullptr ? std::string_view() : numberOf(atWork->heading, "gpu");
    std::vector<SensorColumn> out;
    const SensorFound* second = nullptr; // the busiest besides the one at work
    for (const auto& each : found)
        if (each.column.sensor == capture::Sensor::GpuLoad && !gpu.empty() && !numberOf(each.heading, "gpu").empty() &&
            numberOf(each.heading, "gpu") != gpu && (second == nullptr || each.mean > second->mean))
            second = &each;
    if (second != nullptr)
        out.push_back({capture::Sensor::SecondGpuLoad, second->column.column, second->column.factor});
    for (const auto sensor : capture::allSensors)
        if (const auto* column = best(sensor, isOfGpu(sensor) ? gpu : std::string_view()))
            out.push_back(column->column);
    const bool told =
        std::any_of(out.begin(), out.end(), [](const auto& c) { return c.sensor == Sensor::BusiestCore; });
    std::vector<SensorColumn> cores;
    for (const auto& each : found)
        if (each.column.sensor == Sensor::CpuLoad && !coreOf(each.heading).empty())
            cores.push_back({Sensor::BusiestCore, each.column.column, each.column.factor});
    if (!told && cores.size() > 1) out.insert(out.end(), cores.begin(), cores.end());
    return out;
}

bool canCountInvented(std::span<const double> values) {
    std::size_t told = 0, some = 0;
    double most = 0;
    for (const double v : values) {
        if (std::isnan(v)) continue;
        if (v < 0 || v > mostInvented || v != std::floor(v)) return false;
        ++told;
        some += v > 0 ? 1U : 0U;
        most = std::max(most, v);
    }
    // None and one in turn may say which rows are invented.
    return most > 1 || (some > 0 && 10 * some >= 9 * told);
}

std::optional<SensorColumn> takenForSensor(capture::Sensor sensor, std::size_t column, std::string_view heading,
                                           std::span<const double> values) {
    const auto factor = factorTo(sensor, lowered(heading), values);
    const SensorColumn out{sensor, column, factor.value_or(1)};
    return factor && canBe(out, values) ? std::optional(out) : std::nullopt;
}

} // namespace impasto::logs
