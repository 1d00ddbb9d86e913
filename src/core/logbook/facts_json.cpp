// SPDX-License-Identifier: GPL-3.0-or-later
#include "facts_json.h"

#include <nlohmann/json.hpp>

namespace impasto::logbook {
namespace {

using Json = nlohmann::ordered_json;

std::string written(const Json& j) {
    return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

template <class Read>
auto guarded(std::string_view text, const char* key, Read read) -> Result<decltype(read(Json()))> {
    try {
        return read(Json::parse(text));
    } catch (const std::exception& error) {
        return fail(ErrorCode::DamagedLogbook, error.what(), {{}, {}, {}, key}, Kept::RestOfLogbook);
    }
}

template <class T>
T required(const std::optional<T>& value) {
    if (!value) throw std::invalid_argument("unknown key");
    return *value;
}

struct ColumnOf {
    std::string_view name;
    std::optional<std::vector<double>> capture::Capture::*values;
};
constexpr std::array<ColumnOf, 3> optionalColumns{{{"cpu_work_ms", &capture::Capture::cpuWorkMs},
                                                   {"gpu_work_ms", &capture::Capture::gpuWorkMs},
                                                   {"latency_ms", &capture::Capture::latencyMs}}};

} // namespace

std::string toJson(const run::Order& o) {
    return written({{"id", o.id.hex()},
                    {"values", o.variant.values},
                    {"resolution", display::keyText(o.variant.resolution)},
                    {"cap_fps", o.variant.cap ? Json(o.variant.cap->value()) : Json()},
                    {"sync", run::keyOf(o.variant.sync)},
                    {"machine", o.machine},
                    {"route", o.route},
                    {"seconds", o.seconds},
                    {"driver_updated", o.driverUpdated},
                    {"purpose", run::keyOf(o.purpose)},
                    {"seed", o.seed}});
}

Result<run::Order> orderFromJson(std::string_view text) {
    return guarded(text, "order", [](const Json& j) {
        run::Order o;
        o.id = {required(bytesFromHex(j.at("id").get<std::string>()))};
        o.variant.values = j.at("values").get<game::Values>();
        o.variant.resolution =
            display::parseResolution(j.at("resolution").get<std::string>()).value_or(display::Resolution{});
        if (!j.at("cap_fps").is_null()) o.variant.cap = Fps(j.at("cap_fps").get<double>());
        o.variant.sync = required(run::syncOf(j.at("sync").get<std::string>()));
        o.machine = j.value("machine", std::string());
        o.route = j.at("route").get<std::string>();
        o.seconds = j.at("seconds").get<double>();
        o.driverUpdated = j.at("driver_updated").get<bool>();
        o.purpose = required(run::purposeOf(j.at("purpose").get<std::string>()));
        o.seed = j.at("seed").get<std::uint64_t>();
        return o;
    });
}

std::string headJson(const capture::Capture& c) {
    Json j;
    j["kind"] = capture::keyOf(c.kind);
    j["columns"] = Json::array();
    for (const auto& column : optionalColumns)
        if (c.*column.values) j["columns"].push_back(column.name);
    j["tracks"] = Json::array();
    for (const auto& track : c.tracks) j["tracks"].push_back(capture::keyOf(track.sensor));
    j["marks"] = Json::array();
    for (const auto& mark : c.marks) j["marks"].push_back({{"part", mark.part}, {"first_frame", mark.firstFrame}});
    j["notes"] = c.notes;
    return written(j);
}

Result<capture::Capture> captureFromHead(std::string_view text) {
    return guarded(text, "capture", [](const Json& j) {
        capture::Capture c;
        c.kind = required(capture::intervalKindOf(j.at("kind").get<std::string>()));
        for (const auto& name : j.at("columns"))
            for (const auto& column : optionalColumns)
                if (name == column.name) (c.*column.values).emplace();
        for (const auto& name : j.at("tracks"))
            c.tracks.push_back({required(capture::sensorOf(name.get<std::string>())), {}, {}});
        for (const auto& mark : j.at("marks"))
            c.marks.push_back({mark.at("part").get<std::string>(), mark.at("first_frame").get<std::size_t>()});
        c.notes = j.at("notes").get<std::map<std::string, std::string>>();
        return c;
    });
}

std::vector<NamedColumn> columnsOf(const capture::Capture& c) {
    std::vector<NamedColumn> out{{"frame_ms", c.framesMs}};
    for (const auto& column : optionalColumns)
        if (const auto& values = c.*column.values) out.push_back({std::string(column.name), *values});
    for (const auto& track : c.tracks) {
        out.push_back({fmt::format("{}.time_ms", capture::keyOf(track.sensor)), track.timeMs});
        out.push_back({fmt::format("{}.value", capture::keyOf(track.sensor)),
                       std::vector<double>(track.values.begin(), track.values.end())});
    }
    return out;
}

bool putColumn(capture::Capture& c, std::string_view name, std::vector<double> values) {
    const auto append = [&values](std::vector<double>& to) { to.insert(to.end(), values.begin(), values.end()); };
    if (name == "frame_ms") {
        append(c.framesMs);
        return true;
    }
    for (const auto& column : optionalColumns)
        if (name == column.name && c.*column.values) {
            append(*(c.*column.values));
            return true;
        }
    const auto dot = name.find('.');
    for (auto& track : c.tracks) {
        if (name.substr(0, dot) != capture::keyOf(track.sensor)) continue;
        if (name.substr(dot) == ".time_ms")
            append(track.timeMs);
        else
            for (const double v : values) track.values.push_back(static_cast<float>(v));
        return true;
    }
    return false;
}

} // namespace impasto::logbook
