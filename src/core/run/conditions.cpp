// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/run/conditions.h>

#include <cmath>
#include <impasto/base/text.h>

namespace impasto::run {
namespace {

template <class Unit>
std::string textOf(const std::optional<Unit>& value) {
    return value ? shortestText(value->value()) : std::string();
}

/// A number above 0.
template <class Unit>
bool put(std::optional<Unit>& out, std::string_view text) {
    const auto number = parseDouble(text);
    if (!number || !(*number > 0)) return false;
    out = Unit(*number);
    return true;
}

template <class Value>
bool put(Value& out, const std::optional<Value>& value) {
    if (value) out = *value;
    return value.has_value();
}

bool put(double& out, std::string_view text) {
    const auto number = parseDouble(text);
    if (!number || !(*number >= 0)) return false;
    out = *number;
    return true;
}

bool put(bool& out, std::string_view text) {
    if (text != "true" && text != "false") return false;
    out = text == "true";
    return true;
}

std::string textOf(bool value) {
    return value ? "true" : "false";
}

bool setMultiplier(Order& o, std::string_view text) {
    double number = 0;
    if (!o.variant.generation || !put(number, text) || number < 1 || number > 1000) return false;
    o.variant.generation->multiplier = static_cast<int>(std::lround(number));
    return true;
}

/// Upscaler and generation are there once their kind is.
template <class Group, class Kind>
bool begin(std::optional<Group>& group, const std::optional<Kind>& kind) {
    if (!kind) return false;
    group = Group{};
    group->kind = *kind;
    return true;
}

const std::vector<std::string> onOrOff{"true", "false"};

std::vector<Condition> picture() {
    return {
        {"resolution",
         "--resolution",
         "Of the output, such as 2560x1440",
         "",
         true,
         "Output resolution: {}.",
         "",
         "resolution",
         {},
         [](const Order& o) { return display::keyText(o.variant.resolution); },
         [](Order& o, std::string_view t) {
             if (t == "0x0") return put(o.variant.resolution, std::optional(display::Resolution{}));
             return put(o.variant.resolution, display::parseResolution(t));
         }},
        {"refresh_hz",
         "--refresh",
         "Mode of the panel, Hz",
         "",
         false,
         "Set the panel to {} Hz.",
         "",
         "",
         {},
         [](const Order& o) { return textOf(o.variant.refresh); },
         [](Order& o, std::string_view t) { return put(o.variant.refresh, t); }},
        {"upscaling.kind",
         "--upscaler",
         "Kind of upscaler",
         "",
         false,
         "Turn on the upscaler: {}.",
         "",
         "",
         {"spatial", "temporal", "learned", "engine"},
         [](const Order& o) {
             return o.variant.upscaling ? std::string(game::keyOf(o.variant.upscaling->kind)) : std::string();
         },
         [](Order& o, std::string_view t) { return begin(o.variant.upscaling, game::upscalerKindOf(t)); }},
        {"upscaling.ratio",
         "--ratio",
         "Of the upscaler, per axis; 1.5 otherwise",
         "",
         false,
         "Upscaler ratio: {} per axis.",
         "",
         "",
         {},
         [](const Order& o) { return o.variant.upscaling ? shortestText(o.variant.upscaling->ratio) : std::string(); },
         [](Order& o, std::string_view t) { return o.variant.upscaling && put(o.variant.upscaling->ratio, t); }},
        {"sharpening",
         "--sharpening",
         "Strength, 0 to 1",
         "0",
         false,
         "Sharpening: {} of 1.",
         "",
         "",
         {},
         [](const Order& o) { return shortestText(o.variant.sharpening); },
         [](Order& o, std::string_view t) { return put(o.variant.sharpening, t); }}};
}

std::vector<Condition> pace() {
    return {{"cap_fps",
             "--cap",
             "Frame rate cap, fps",
             "",
             true,
             "Cap the frame rate at {} fps.",
             "Turn off frame caps.",
             "",
             {},
             [](const Order& o) { return textOf(o.variant.cap); },
             [](Order& o, std::string_view t) { return put(o.variant.cap, t); }},
            {"idle_cap_fps",
             "--idle-cap",
             "Cap while nothing moves, fps",
             "",
             false,
             "Cap the frame rate at {} fps while nothing moves.",
             "",
             "",
             {},
             [](const Order& o) { return textOf(o.variant.idleCap); },
             [](Order& o, std::string_view t) { return put(o.variant.idleCap, t); }},
            {"limiter",
             "--limiter",
             "Where the cap is applied",
             "engine",
             false,
             "Apply the cap in: {}.",
             "",
             "cap applied in",
             {"engine", "present", "driver", "compositor"},
             [](const Order& o) { return std::string(keyOf(o.variant.limiter)); },
             [](Order& o, std::string_view t) { return put(o.variant.limiter, limiterPlaceOf(t)); }},
            {"sync",
             "--sync",
             "When a frame is shown",
             "none",
             true,
             "Sync: {}.",
             "Turn off sync.",
             "sync while measuring",
             {"none", "fixed", "latest", "variable", "variable-tearing"},
             [](const Order& o) { return std::string(keyOf(o.variant.sync)); },
             [](Order& o, std::string_view t) { return put(o.variant.sync, syncOf(t)); }},
            {"direct", "--direct", "Bypass the copy route", "false", false,
             "Connect the panel to the GPU that renders.", "", "past the copy route", onOrOff,
             [](const Order& o) { return textOf(o.variant.direct); },
             [](Order& o, std::string_view t) { return put(o.variant.direct, t); }}};
}

std::vector<Condition> generation() {
    return {{"generation.kind",
             "--generation",
             "Kind of frame generation",
             "",
             false,
             "Turn on frame generation: {}.",
             "",
             "",
             {"built-in", "driver", "external"},
             [](const Order& o) {
                 return o.variant.generation ? std::string(keyOf(o.variant.generation->kind)) : std::string();
             },
             [](Order& o, std::string_view t) { return begin(o.variant.generation, generationKindOf(t)); }},
            {"generation.multiplier",
             "--multiplier",
             "Shown frames per rendered frame; 2 otherwise",
             "",
             false,
             "Frame generation: {} shown frames per rendered frame.",
             "",
             "",
             {},
             [](const Order& o) { // an aim stands in its place
                 const auto& g = o.variant.generation;
                 return g && !g->target ? std::to_string(g->multiplier) : std::string();
             },
             setMultiplier},
            {"generation.target_fps",
             "--generation-target",
             "Shown rate to come near, fps",
             "",
             false,
             "Frame generation: aim at {} fps.",
             "",
             "",
             {},
             [](const Order& o) { return o.variant.generation ? textOf(o.variant.generation->target) : std::string(); },
             [](Order& o, std::string_view t) { return o.variant.generation && put(o.variant.generation->target, t); }},
            {"generation.second_gpu", "--second-gpu", "Generate on the second GPU", "", false,
             "Generate frames on the second GPU: {}.", "", "", onOrOff,
             [](const Order& o) {
                 return o.variant.generation ? textOf(o.variant.generation->onSecondGpu) : std::string();
             },
             [](Order& o, std::string_view t) {
                 return o.variant.generation && put(o.variant.generation->onSecondGpu, t);
             }}};
}

std::vector<Condition> around() {
    return {{"conditions.fans",
             "--fans",
             "Fan profile",
             "automatic",
             true,
             "Fan profile: {}.",
             "",
             "fans",
             {"automatic", "quiet", "full"},
             [](const Order& o) { return std::string(keyOf(o.conditions.fans)); },
             [](Order& o, std::string_view t) { return put(o.conditions.fans, fanProfileOf(t)); }},
            {"conditions.plan",
             "--plan",
             "Power plan",
             "balanced",
             true,
             "Power plan: {}.",
             "",
             "power plan",
             {"balanced", "performance", "saving"},
             [](const Order& o) { return std::string(keyOf(o.conditions.plan)); },
             [](Order& o, std::string_view t) { return put(o.conditions.plan, powerPlanOf(t)); }},
            {"conditions.supply",
             "--supply",
             "Power supply",
             "mains",
             true,
             "Power: {}.",
             "",
             "power",
             {"mains", "battery"},
             [](const Order& o) { return std::string(keyOf(o.conditions.supply)); },
             [](Order& o, std::string_view t) { return put(o.conditions.supply, supplyOf(t)); }},
            {"conditions.window",
             "--window",
             "How the game's window is shown",
             "full-screen",
             true,
             "Window mode: {}.",
             "",
             "window mode",
             {"full-screen", "borderless", "windowed"},
             [](const Order& o) { return std::string(keyOf(o.conditions.window)); },
             [](Order& o, std::string_view t) { return put(o.conditions.window, windowModeOf(t)); }},
            {"conditions.driver_updated", "--driver-updated", "The first run after a driver update", "false", true,
             "Make this the first run after the driver update.", "", "driver just updated", onOrOff,
             [](const Order& o) { return textOf(o.conditions.driverUpdated); },
             [](Order& o, std::string_view t) { return put(o.conditions.driverUpdated, t); }},
            {"conditions.reload", "--reload", "Reload the save first", "true", true, "Do not reload the save.",
             "Reload the save first.", "", onOrOff, [](const Order& o) { return textOf(o.conditions.reload); },
             [](Order& o, std::string_view t) { return put(o.conditions.reload, t); }},
            {"conditions.warm_up_seconds",
             "--warm-up",
             "Seconds played before the recording",
             "0",
             true,
             "Play for {} seconds before the log starts.",
             "",
             "settling, s",
             {},
             [](const Order& o) { return shortestText(o.conditions.warmUpSeconds); },
             [](Order& o, std::string_view t) { return put(o.conditions.warmUpSeconds, t); }}};
}

} // namespace

std::span<const Condition> conditions() {
    static const std::vector<Condition> all = [] {
        std::vector<Condition> out = picture();
        for (auto* more : {&pace, &generation, &around})
            for (auto& condition : (*more)()) out.push_back(std::move(condition));
        return out;
    }();
    return all;
}

std::string canonicalText(const Variant& variant) {
    Order order;
    order.variant = variant;
    std::string out;
    for (const auto& condition : conditions()) {
        if (std::string_view(condition.key).starts_with("conditions.")) continue; // no part of a variant
        const std::string text = condition.read(order);
        if (text == condition.usual && !condition.always) continue;
        out += fmt::format("{}={};", condition.key, text.empty() ? "none" : text);
    }
    for (const auto& [id, level] : variant.values) out += fmt::format("{}={};", id, level);
    if (!out.empty()) out.pop_back();
    return out;
}

} // namespace impasto::run
