// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/exports/json.h>

#include <impasto/base/shown.h>
#include <impasto/display/timing.h>
#include <nlohmann/json.hpp>

namespace impasto::exports {
namespace {

using Json = nlohmann::ordered_json;

Json known(const std::string& text) {
    return text.empty() || text == "not said" ? Json() : Json(shown(text));
}
Json known(double value) {
    return value > 0 ? Json(value) : Json();
}

Json panelJson(const display::Panel& panel) {
    if (panel.native.widthPx == 0) return Json();
    Json modes = Json::array();
    for (const auto hz : panel.modes) modes.push_back(hz.value());
    const auto best = display::bestTimingOf(panel);
    return {{"native", display::keyText(panel.native)},
            {"refresh_hz", known(panel.refresh.value())},
            {"modes_hz", modes},
            {"variable_hz",
             panel.variable ? Json{panel.variable->lowest.value(), panel.variable->highest.value()} : Json()},
            {"best_mode_gbit_s",
             best ? Json{{"bits_8", display::gbitPerSecond(*best, 8)}, {"bits_10", display::gbitPerSecond(*best, 10)}}
                  : Json()}};
}

} // namespace

std::string machineJson(const probe::Probed& read, std::span<const CheckedPoint> points) {
    const auto& m = read.machine;
    Json j{{"schema", 1},
           {"name", shown(m.name)},
           {"cpu", known(m.cpu)},
           {"cores", m.cores > 0 ? Json(m.cores) : Json()},
           {"gpu", known(m.gpu)},
           {"gpu_memory_mib", known(m.gpuMemory.value())},
           {"second_gpu", known(m.secondGpu)},
           {"system_memory_mib", known(m.systemMemory.value())},
           {"copy_route", m.copyRoute},
           {"panel", panelJson(m.panel)},
           {"read_at_s", m.readAt},
           {"facts", Json::object()},
           {"not_read", Json::array()}};
    for (const auto& [key, fact] : m.facts) {
        const auto* number = std::get_if<double>(&fact);
        j["facts"][key] = number != nullptr ? Json(*number) : Json(shown(std::get<std::string>(fact)));
    }
    for (const auto what : read.missing) j["not_read"].push_back(probe::keyOf(what));
    for (const auto& p : points)
        j["checklist"].push_back({{"point", p.point.id},
                                  {"place", checklist::keyOf(p.point.place)},
                                  {"standing", checklist::keyOf(p.judged.standing)},
                                  {"title", p.point.title},
                                  {"rests_on", shown(p.rests)}});
    return j.dump(2, ' ', false, Json::error_handler_t::replace);
}

} // namespace impasto::exports
