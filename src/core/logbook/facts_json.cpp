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

Json toJson(const run::Variant& v) {
    Json j{{"values", v.values},
           {"resolution", display::keyText(v.resolution)},
           {"cap_fps", v.cap ? Json(v.cap->value()) : Json()},
           {"sync", run::keyOf(v.sync)}};
    // What is off is left out.
    if (v.idleCap) j["idle_cap_fps"] = v.idleCap->value();
    if (v.limiter != run::LimiterPlace::Engine) j["limiter"] = run::keyOf(v.limiter);
    if (v.refresh) j["refresh_hz"] = v.refresh->value();
    if (v.upscaling) j["upscaling"] = {{"kind", game::keyOf(v.upscaling->kind)}, {"ratio", v.upscaling->ratio}};
    if (v.sharpening > 0) j["sharpening"] = v.sharpening;
    if (const auto& g = v.generation)
        j["generation"] = {{"kind", run::keyOf(g->kind)},
                           {"multiplier", g->multiplier},
                           {"target_fps", g->target ? Json(g->target->value()) : Json()},
                           {"second_gpu", g->onSecondGpu}};
    if (v.direct) j["direct"] = true;
    return j;
}

run::Variant variantOf(const Json& j) {
    run::Variant v;
    v.values = j.at("values").get<game::Values>();
    v.resolution = display::parseResolution(j.at("resolution").get<std::string>()).value_or(display::Resolution{});
    if (!j.at("cap_fps").is_null()) v.cap = Fps(j.at("cap_fps").get<double>());
    v.sync = required(run::syncOf(j.at("sync").get<std::string>()));
    if (j.contains("idle_cap_fps")) v.idleCap = Fps(j.at("idle_cap_fps").get<double>());
    v.limiter = required(run::limiterPlaceOf(j.value("limiter", std::string(run::keyOf(v.limiter)))));
    if (j.contains("refresh_hz")) v.refresh = Hertz(j.at("refresh_hz").get<double>());
    if (j.contains("upscaling"))
        v.upscaling = {required(game::upscalerKindOf(j.at("upscaling").at("kind").get<std::string>())),
                       j.at("upscaling").at("ratio").get<double>()};
    v.sharpening = j.value("sharpening", 0.0);
    if (j.contains("generation")) {
        const Json& g = j.at("generation");
        v.generation = {required(run::generationKindOf(g.at("kind").get<std::string>())),
                        g.at("multiplier").get<int>(),
                        {},
                        g.at("second_gpu").get<bool>()};
        if (!g.at("target_fps").is_null()) v.generation->target = Fps(g.at("target_fps").get<double>());
    }
    v.direct = j.value("direct", false);
    return v;
}

Json toJson(const run::Conditions& c) {
    return {{"fans", run::keyOf(c.fans)},         {"plan", run::keyOf(c.plan)}, {"supply", run::keyOf(c.supply)},
            {"warm_up_seconds", c.warmUpSeconds}, {"reload", c.reload},         {"driver_updated", c.driverUpdated}};
}

/// Orders from before conditions were kept said only whether the driver was updated.
run::Conditions conditionsOf(const Json& order) {
    run::Conditions c;
    if (!order.contains("conditions")) {
        c.driverUpdated = order.at("driver_updated").get<bool>();
        return c;
    }
    const Json& j = order.at("conditions");
    c.fans = required(run::fanProfileOf(j.at("fans").get<std::string>()));
    c.plan = required(run::powerPlanOf(j.at("plan").get<std::string>()));
    c.supply = required(run::supplyOf(j.at("supply").get<std::string>()));
    c.warmUpSeconds = j.at("warm_up_seconds").get<double>();
    c.reload = j.at("reload").get<bool>();
    c.driverUpdated = j.at("driver_updated").get<bool>();
    return c;
}

} // namespace

std::string toJson(const run::Order& o) {
    Json j = toJson(o.variant);
    j["id"] = o.id.hex();
    j["machine"] = o.machine;
    j["game"] = o.game;
    j["route"] = o.route;
    j["seconds"] = o.seconds;
    j["conditions"] = toJson(o.conditions);
    j["purpose"] = run::keyOf(o.purpose);
    j["seed"] = o.seed;
    return written(j);
}

Result<run::Order> orderFromJson(std::string_view text) {
    return guarded(text, "order", [](const Json& j) {
        run::Order o;
        o.id = {required(bytesFromHex(j.at("id").get<std::string>()))};
        o.variant = variantOf(j);
        o.machine = j.value("machine", std::string());
        o.game = j.value("game", std::string());
        o.route = j.at("route").get<std::string>();
        o.seconds = j.at("seconds").get<double>();
        o.conditions = conditionsOf(j);
        o.purpose = required(run::purposeOf(j.at("purpose").get<std::string>()));
        o.seed = j.at("seed").get<std::uint64_t>();
        return o;
    });
}

std::string headJson(const capture::Capture& c) {
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
    return written(j);
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
    std::vector<NamedColumn> out{{"frame_ms", c.framesMs}};
    for (const auto& column : capture::optionalColumns)
        if (const auto& values = c.*column.values) out.push_back({std::string(column.name), *values});
    for (const auto& track : c.tracks) {
        out.push_back({fmt::format("{}.time_ms", capture::keyOf(track.sensor)), track.timeMs});
        out.push_back({fmt::format("{}.value", capture::keyOf(track.sensor)),
                       std::vector<double>(track.values.begin(), track.values.end())});
    }
    for (std::size_t i = 0; i < c.others.size(); ++i)
        out.push_back(
            {fmt::format("other.{}", i), std::vector<double>(c.others[i].values.begin(), c.others[i].values.end())});
    return out;
}

bool putColumn(capture::Capture& c, std::string_view name, std::vector<double> values) {
    const auto append = [&values](std::vector<double>& to) { to.insert(to.end(), values.begin(), values.end()); };
    if (name == "frame_ms") {
        append(c.framesMs);
        return true;
    }
    for (const auto& column : capture::optionalColumns)
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
    for (std::size_t i = 0; i < c.others.size(); ++i) {
        if (name != fmt::format("other.{}", i)) continue;
        for (const double v : values) c.others[i].values.push_back(capture::narrowed(v));
        return true;
    }
    return false;
}

} // namespace impasto::logbook
