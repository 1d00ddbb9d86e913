// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/capture.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <impasto/base/fingerprint.h>
#include <impasto/base/keys.h>
#include <limits>

namespace impasto::capture {
namespace {

constexpr Keys<Sensor, 16> sensors{{{Sensor::GpuLoad, "gpu_load_percent"},
                                    {Sensor::CpuLoad, "cpu_load_percent"},
                                    {Sensor::BusiestCore, "busiest_core_percent"},
                                    {Sensor::GpuMemory, "gpu_memory_mib"},
                                    {Sensor::SystemMemory, "system_memory_mib"},
                                    {Sensor::GpuPower, "gpu_power_w"},
                                    {Sensor::CpuPower, "cpu_power_w"},
                                    {Sensor::SystemPower, "system_power_w"},
                                    {Sensor::CpuClock, "cpu_clock_percent"},
                                    {Sensor::GpuClock, "gpu_clock_percent"},
                                    {Sensor::CpuTemperature, "cpu_temperature_c"},
                                    {Sensor::GpuTemperature, "gpu_temperature_c"},
                                    {Sensor::Fan, "fan_percent"},
                                    {Sensor::CpuMhz, "cpu_clock_mhz"},
                                    {Sensor::GpuMhz, "gpu_clock_mhz"},
                                    {Sensor::SecondGpuLoad, "second_gpu_load_percent"}}};
constexpr Keys<IntervalKind, 3> kinds{
    {{IntervalKind::Unknown, "unknown"}, {IntervalKind::Displayed, "displayed"}, {IntervalKind::Started, "started"}}};

} // namespace

std::string_view keyOf(IntervalKind kind) {
    return keyIn(kinds, kind);
}
std::optional<IntervalKind> intervalKindOf(std::string_view key) {
    return valueIn(kinds, key);
}
std::string_view keyOf(Sensor sensor) {
    return keyIn(sensors, sensor);
}
std::optional<Sensor> sensorOf(std::string_view key) {
    return valueIn(sensors, key);
}

float narrowed(double value) {
    constexpr double most = std::numeric_limits<float>::max();
    return static_cast<float>(std::isfinite(value) ? std::clamp(value, -most, most) : value);
}

const Track* Capture::track(Sensor sensor) const {
    for (const auto& t : tracks)
        if (t.sensor == sensor) return &t;
    return nullptr;
}

double durationMs(const Capture& capture) {
    double sum = 0.0, lost = 0.0;
    for (const double v : capture.framesMs) {
        const double next = sum + v;
        lost += std::abs(sum) >= std::abs(v) ? (sum - next) + v : (v - next) + sum;
        sum = next;
    }
    return sum + lost;
}

std::optional<double> trackMean(const Capture& capture, Sensor sensor) {
    const Track* track = capture.track(sensor);
    double sum = 0.0;
    std::size_t n = 0;
    if (track != nullptr)
        for (const float v : track->values)
            if (std::isfinite(v)) {
                sum += static_cast<double>(v);
                ++n;
            }
    if (n == 0) return std::nullopt;
    return sum / static_cast<double>(n);
}

Fps shownRate(const Capture& capture) {
    double shown = static_cast<double>(capture.frames());
    if (shown == 0) return Fps(0);
    if (capture.invented)
        for (const double v : *capture.invented) shown += std::isfinite(v) ? v : 0;
    return Fps(1000 * shown / durationMs(capture));
}

std::vector<PartRange> partsOf(const Capture& capture) {
    std::vector<PartRange> out;
    if (capture.marks.empty() || capture.marks.front().firstFrame > 0) out.push_back({"", 0, capture.frames()});
    for (const auto& mark : capture.marks) {
        if (!out.empty()) out.back().last = mark.firstFrame;
        out.push_back({mark.part, mark.firstFrame, capture.frames()});
    }
    std::erase_if(out, [](const PartRange& r) { return r.first >= r.last; });
    return out;
}

bool alike(IntervalKind a, IntervalKind b) {
    return a == b || a == IntervalKind::Unknown || b == IntervalKind::Unknown;
}

std::size_t addBeside(Capture& capture, std::span<const Track> readings, double zeroMs) {
    const double lastsMs = durationMs(capture);
    std::size_t added = 0;
    for (const auto& reading : readings) {
        if (capture.track(reading.sensor) != nullptr) continue;
        Track own{reading.sensor, {}, {}};
        for (std::size_t i = 0; i < reading.values.size(); ++i) {
            const double atMs = reading.timeMs[i] - zeroMs;
            if (atMs < 0 || atMs > lastsMs) continue;
            own.timeMs.push_back(atMs);
            own.values.push_back(reading.values[i]);
        }
        if (own.values.empty()) continue;
        capture.tracks.push_back(std::move(own));
        ++added;
    }
    return added;
}

std::size_t bytesOf(const Capture& capture) {
    std::size_t bytes = capture.framesMs.size() * sizeof(double);
    for (const auto& column : optionalColumns)
        if (const auto& values = capture.*column.values) bytes += values->size() * sizeof(double);
    for (const auto& track : capture.tracks) bytes += track.values.size() * (sizeof(double) + sizeof(float));
    for (const auto& other : capture.others) bytes += other.values.size() * sizeof(float);
    return bytes;
}

std::uint64_t fingerprintOf(const Capture& capture) {
    std::uint64_t mark = capture.frames();
    const auto add = [&mark](std::uint64_t v) { // multiplied and folded: eight bytes at once
        mark = (mark ^ v) * 0x9e3779b97f4a7c15ULL;
        mark ^= mark >> 32U;
    };
    const auto addText = [&add](std::string_view text) { add(Fingerprint().add(text).value()); };
    const auto addAll = [&add](const auto& values) {
        add(values.size());
        for (const auto v : values) add(std::bit_cast<std::uint64_t>(static_cast<double>(v)));
    };
    addText(keyOf(capture.kind));
    addAll(capture.framesMs);
    for (const auto& column : optionalColumns) {
        const auto& values = capture.*column.values;
        add(std::uint64_t{values.has_value()});
        if (values) addAll(*values);
    }
    for (const auto& m : capture.marks) {
        addText(m.part);
        add(m.firstFrame);
    }
    for (const auto& t : capture.tracks) {
        addText(keyOf(t.sensor));
        addAll(t.timeMs);
        addAll(t.values);
    }
    for (const auto& other : capture.others) {
        addText(other.name);
        for (const auto& word : other.words) addText(word);
        addAll(other.values);
    }
    return mark;
}

} // namespace impasto::capture
