// SPDX-License-Identifier: GPL-3.0-or-later
#include "facts_json.h"

#include "parsed_json.h"

#include <impasto/base/text.h>
#include <impasto/run/conditions.h>

namespace impasto::logbook {
namespace {

using Json = nlohmann::ordered_json;

std::string written(const Json& j) {
    return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

template <class Read>
auto guarded(std::string_view text, const char* key, Read read) -> Result<decltype(read(Json()))> {
    try {
        return read(parsedJson(text));
    } catch (const std::exception& error) {
        return fail(ErrorCode::DamagedLogbook, error.what(), {{}, {}, {}, key}, Kept::RestOfLogbook);
    }
}

template <class T>
T required(const std::optional<T>& value) {
    if (!value) throw std::invalid_argument("unknown key");
    return *value;
}

/// A text as the JSON value it stands for.
Json valueOf(const std::string& text) {
    if (text.empty()) return Json();
    if (text == "true" || text == "false") return text == "true";
    if (const auto number = parseDouble(text)) return *number;
    return text;
}

std::string textOf(const Json& value) {
    if (value.is_string()) return value.get<std::string>();
    if (value.is_boolean()) return value.get<bool>() ? "true" : "false";
    return shortestText(value.get<double>());
}

/// "conditions.fans" as a path.
Json::json_pointer pathOf(std::string_view key) {
    Json::json_pointer path;
    for (std::size_t dot = key.find('.'); dot != std::string_view::npos; dot = key.find('.')) {
        path /= std::string(key.substr(0, dot));
        key.remove_prefix(dot + 1);
    }
    return path / std::string(key);
}

constexpr std::array<std::pair<const char*, std::optional<Fps> run::ReadOff::*>, 3> rates{
    {{"least_fps", &run::ReadOff::least},
     {"most_fps", &run::ReadOff::most},
     {"one_percent_low_fps", &run::ReadOff::onePercentLow}}};

} // namespace

std::string toJson(const run::Order& o) {
    Json j{{"values", o.variant.values}};
    for (const auto& condition : run::conditions())
        if (const auto text = condition.read(o); condition.always || text != condition.usual)
            j[pathOf(condition.key)] = valueOf(text);
    j["id"] = o.id.hex();
    j["machine"] = o.machine;
    j["game"] = o.game;
    j["route"] = o.route;
    j["seconds"] = o.seconds;
    j["purpose"] = run::keyOf(o.purpose);
    j["seed"] = o.seed;
    return written(j);
}

Result<run::Order> orderFromJson(std::string_view text) {
    return guarded(text, "order", [](const Json& j) {
        run::Order o;
        o.id = {required(bytesFromHex(j.at("id").get<std::string>()))};
        o.variant.values = j.at("values").get<game::Values>();
        for (const auto& condition : run::conditions()) {
            const auto path = pathOf(condition.key);
            if (!j.contains(path) || j.at(path).is_null()) continue;
            if (!condition.write(o, textOf(j.at(path)))) throw std::invalid_argument(condition.key);
        }
        // Orders from before conditions were kept said only whether the driver was updated.
        o.conditions.driverUpdated = j.value("driver_updated", o.conditions.driverUpdated);
        o.machine = j.value("machine", std::string());
        o.game = j.value("game", std::string());
        o.route = j.at("route").get<std::string>();
        o.seconds = j.at("seconds").get<double>();
        o.purpose = required(run::purposeOf(j.at("purpose").get<std::string>()));
        o.seed = j.at("seed").get<std::uint64_t>();
        return o;
    });
}

std::string toJson(const About& about) {
    Json j{{"machine", about.machine}, {"verdict", about.verdict}};
    if (about.targetFps) j["target_fps"] = *about.targetFps;
    return written(j);
}

About aboutFromJson(std::string_view text) {
    constexpr std::size_t mostAbout = 10000;
    About about;
    const Json j = text.size() > mostAbout ? Json() : Json::parse(text, nullptr, false);
    if (!j.is_object()) return about;
    if (const auto it = j.find("machine"); it != j.end() && it->is_string()) about.machine = it->get<std::string>();
    if (const auto it = j.find("verdict"); it != j.end() && it->is_string()) about.verdict = it->get<std::string>();
    if (const auto it = j.find("target_fps"); it != j.end() && it->is_number()) about.targetFps = it->get<double>();
    return about;
}

std::string headJson(const run::Run& run) {
    const capture::Capture& c = *run.capture;
    Json j;
    j["kind"] = capture::keyOf(c.kind);
    j["columns"] = Json::array();
    for (const auto& column : capture::optionalColumns)
        if (c.*column.values) j["columns"].push_back(column.name);
    j["tracks"] = Json::array();
    for (const auto& track : c.tracks) j["tracks"].push_back(capture::keyOf(track.sensor));
    j["others"] = Json::array();
    for (const auto& other : c.others) j["others"].push_back({{"name", other.name}, {"words", other.words}});
    j["marks"] = Json::array();
    for (const auto& mark : c.marks) j["marks"].push_back({{"part", mark.part}, {"first_frame", mark.firstFrame}});
    j["notes"] = c.notes;
    if (!run.readOff) return written(j);
    auto& r = j["read_off"];
    r["average_fps"] = run.readOff->average.value();
    for (const auto& [key, value] : rates)
        if (const auto& rate = (*run.readOff).*value) r[key] = rate->value();
    if (!run.readOff->rates.empty()) r["rates_fps"] = run.readOff->rates;
    if (run.readOff->stepMs) r["step_ms"] = *run.readOff->stepMs;
    if (run.readOff->gpuMemory) r["gpu_memory_mib"] = run.readOff->gpuMemory->value();
    return written(j);
}

Result<std::optional<run::ReadOff>> readOffFromHead(std::string_view text) {
    return guarded(text, "read_off", [](const Json& j) -> std::optional<run::ReadOff> {
        const auto it = j.find("read_off");
        if (it == j.end()) return std::nullopt;
        run::ReadOff out;
        out.average = Fps(it->at("average_fps").get<double>());
        for (const auto& [key, value] : rates)
            if (it->contains(key)) out.*value = Fps(it->at(key).get<double>());
        if (it->contains("rates_fps")) out.rates = it->at("rates_fps").get<std::vector<double>>();
        if (it->contains("step_ms")) out.stepMs = it->at("step_ms").get<double>();
        if (it->contains("gpu_memory_mib")) out.gpuMemory = Mebibytes(it->at("gpu_memory_mib").get<double>());
        if (const auto fault = run::faultOf(out)) throw std::invalid_argument(std::string(fault->key));
        return out;
    });
}

Result<capture::Capture> captureFromHead(std::string_view text) {
    return guarded(text, "capture", [](const Json& j) {
        capture::Capture c;
        c.kind = required(capture::intervalKindOf(j.at("kind").get<std::string>()));
        for (const auto& name : j.at("columns"))
            for (const auto& column : capture::optionalColumns)
                if (name == column.name) (c.*column.values).emplace();
        for (const auto& name : j.at("tracks"))
            c.tracks.push_back({required(capture::sensorOf(name.get<std::string>())), {}, {}});
        if (j.contains("others")) // runs from before other columns came along have none
            for (const auto& other : j.at("others"))
                c.others.push_back(
                    {other.at("name").get<std::string>(), {}, other.at("words").get<std::vector<std::string>>()});
        for (const auto& mark : j.at("marks"))
            c.marks.push_back({mark.at("part").get<std::string>(), mark.at("first_frame").get<std::size_t>()});
        c.notes = j.at("notes").get<std::map<std::string, std::string>>();
        return c;
    });
}

std::vector<NamedColumn> columnsOf(const capture::Capture& c) {
    std::vector<NamedColumn> out{{"frame_ms", std::span(c.framesMs)}};
    for (const auto& column : capture::optionalColumns)
        if (const auto& values = c.*column.values) out.push_back({std::string(column.name), std::span(*values)});
    for (const auto& track : c.tracks) {
        out.push_back({fmt::format("{}.time_ms", capture::keyOf(track.sensor)), std::span(track.timeMs)});
        out.push_back({fmt::format("{}.value", capture::keyOf(track.sensor)), std::span(track.values)});
    }
    for (std::size_t i = 0; i < c.others.size(); ++i)
        out.push_back({fmt::format("other.{}", i), std::span(c.others[i].values)});
    return out;
}

std::optional<ColumnSink> columnIn(capture::Capture& c, std::string_view name) {
    if (name == "frame_ms") return &c.framesMs;
    for (const auto& column : capture::optionalColumns)
        if (name == column.name && c.*column.values) return &*(c.*column.values);
    const auto dot = name.find('.');
    if (dot == std::string_view::npos) return std::nullopt;
    for (auto& track : c.tracks) {
        if (name.substr(0, dot) != capture::keyOf(track.sensor)) continue;
        if (name.substr(dot) == ".time_ms") return &track.timeMs;
        return &track.values;
    }
    for (std::size_t i = 0; i < c.others.size(); ++i)
        if (name == fmt::format("other.{}", i)) return &c.others[i].values;
    return std::nullopt;
}

} // namespace impasto::logbook
