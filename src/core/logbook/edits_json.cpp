// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/edits_json.h>

#include <impasto/document/edit.h>
#include <nlohmann/json.hpp>

namespace impasto::logbook {

using namespace document;

namespace {

using Json = nlohmann::ordered_json;

Json basisJson(const Basis& basis) {
    Json j = Json::object();
    for (const auto& [name, mark] : basis) j[name] = mark;
    return j;
}

template <class T>
Json orNull(const std::optional<T>& value) {
    return value ? Json(*value) : Json();
}

Json fpsOrNull(const std::optional<Fps>& rate) {
    return rate ? Json(rate->value()) : Json();
}

Json briefJson(const run::Brief& b) {
    return {{"target_fps", b.target.value()},
            {"lowest_low_fps", fpsOrNull(b.lowestLow)},
            {"picture_floor", orNull(b.pictureFloor)},
            {"school", stats::keyOf(b.lowRule)},
            {"style", run::keyOf(b.style)}};
}

/// Reads one field; a wrong type or a missing one throws, caught once below.
template <class T>
std::optional<T> maybe(const Json& j, const char* key) {
    const Json& v = j.at(key);
    if (v.is_null()) return std::nullopt;
    return v.get<T>();
}

std::optional<Fps> maybeFps(const Json& j, const char* key) {
    const auto v = maybe<double>(j, key);
    return v ? std::optional(Fps(*v)) : std::nullopt;
}

template <class T>
T required(const std::optional<T>& value, const char* what) {
    if (!value) throw std::invalid_argument(what);
    return *value;
}

RunId runId(const std::string& hex) {
    return {required(bytesFromHex(hex), "run id")};
}

run::Brief briefFrom(const Json& j) {
    run::Brief b;
    b.target = Fps(j.at("target_fps").get<double>());
    if (!(b.target.value() >= 1 && b.target.value() <= 2000)) throw std::invalid_argument("target_fps");
    b.lowestLow = maybeFps(j, "lowest_low_fps");
    b.pictureFloor = maybe<double>(j, "picture_floor");
    b.lowRule = required(stats::lowRuleOf(j.at("school").get<std::string>()), "school");
    b.style = required(run::styleOf(j.at("style").get<std::string>()), "style");
    return b;
}

Edits editsFrom(const Json& j) {
    Edits e;
    e.subject.title = j.at("title").get<std::string>();
    e.subject.name = j.value("name", std::string());
    e.subject.machine = maybe<std::size_t>(j, "machine");
    e.subject.game = maybe<std::size_t>(j, "game");
    e.subject.rig = j.at("rig") == "hand" ? RigKind::Hand : RigKind::Simulated;
    e.subject.route = j.at("route").get<std::string>();
    e.settings.baseline = j.at("baseline").get<game::Values>();
    if (!j.at("brief").is_null()) e.goal.brief = briefFrom(j.at("brief"));
    e.goal.shares = {j.at("shares").at("gpu").get<double>(), j.at("shares").at("cpu").get<double>(),
                     j.at("shares").at("frame").get<double>()};
    if (j.contains("hitch_rule")) { // those from before it could be edited have the usual one
        const Json& rule = j.at("hitch_rule");
        e.runs.hitchRule = {rule.at("ratio").get<double>(), rule.at("excess_ms").get<double>(),
                            rule.at("neighbours").get<std::size_t>()};
        if (!document::setHitchRule(e.runs.hitchRule).apply(e)) throw std::invalid_argument("hitch_rule");
    }
    e.runs.followRestS = j.value("follow_rest_s", e.runs.followRestS); // or from before it could be edited
    if (!document::setFollowRest(e.runs.followRestS).apply(e)) throw std::invalid_argument("follow_rest_s");
    e.settings.locked = j.at("locked").get<game::Values>();
    for (const auto& [hex, reason] : j.at("left_out").items())
        e.runs.leftOut[runId(hex)] = required(leftOutOf(reason.get<std::string>()), "left_out");
    if (j.contains("trims")) // logbooks from before runs could be trimmed have none
        for (const auto& [hex, spans] : j.at("trims").items())
            for (const auto& span : spans)
                e.runs.trims[runId(hex)].push_back({span.at(0).get<double>(), span.at(1).get<double>()});
    for (const auto& hex : j.at("hidden")) e.runs.hidden.insert(runId(hex.get<std::string>()));
    // Those from before a run could be counted against its recording, or read another way, say neither.
    if (j.contains("counted"))
        for (const auto& hex : j.at("counted")) e.runs.counted.insert(runId(hex.get<std::string>()));
    if (j.contains("readings"))
        for (const auto& [first, used] : j.at("readings").items())
            e.runs.readings[runId(first)] = runId(used.get<std::string>());
    if (const Json& c = j.at("choice"); !c.is_null())
        e.settings.choice =
            AcceptedChoice{c.at("values").get<game::Values>(), c.at("by_hand").get<bool>(), c.at("basis").get<Basis>()};
    if (const Json& c = j.at("cap"); !c.is_null())
        e.pacing.cap = ChosenCap{required(pace::capSchoolOf(c.at("school").get<std::string>()), "cap school"),
                                 maybeFps(c, "cap_fps"), c.at("basis").get<Basis>()};
    if (const Json& k = j.at("kept"); !k.is_null())
        e.record.kept = KeptResult{k.at("at_s").get<std::int64_t>(), k.at("basis").get<Basis>()};
    e.record.note = j.at("note").get<std::string>();
    return e;
}

} // namespace

std::string toJson(const Edits& e) {
    Json j;
    j["title"] = e.subject.title;
    j["name"] = e.subject.name;
    j["machine"] = orNull(e.subject.machine);
    j["game"] = orNull(e.subject.game);
    j["rig"] = e.subject.rig == RigKind::Hand ? "hand" : "simulated";
    j["route"] = e.subject.route;
    j["baseline"] = e.settings.baseline;
    j["brief"] = e.goal.brief ? briefJson(*e.goal.brief) : Json();
    j["shares"] = {{"gpu", e.goal.shares.gpu}, {"cpu", e.goal.shares.cpu}, {"frame", e.goal.shares.frame}};
    j["hitch_rule"] = {{"ratio", e.runs.hitchRule.ratio},
                       {"excess_ms", e.runs.hitchRule.excessMs},
                       {"neighbours", e.runs.hitchRule.neighbours}};
    j["follow_rest_s"] = e.runs.followRestS;
    j["locked"] = e.settings.locked;
    j["left_out"] = Json::object();
    for (const auto& [id, reason] : e.runs.leftOut) j["left_out"][id.hex()] = keyOf(reason);
    j["trims"] = Json::object(); // ms from the first frame's start
    for (const auto& [id, spans] : e.runs.trims)
        for (const auto& span : spans) j["trims"][id.hex()].push_back({span.fromMs, span.toMs});
    j["hidden"] = Json::array();
    for (const auto& id : e.runs.hidden) j["hidden"].push_back(id.hex());
    j["counted"] = Json::array();
    for (const auto& id : e.runs.counted) j["counted"].push_back(id.hex());
    j["readings"] = Json::object();
    for (const auto& [first, used] : e.runs.readings) j["readings"][first.hex()] = used.hex();
    j["choice"] = e.settings.choice ? Json{{"values", e.settings.choice->values},
                                           {"by_hand", e.settings.choice->byHand},
                                           {"basis", basisJson(e.settings.choice->basis)}}
                                    : Json();
    j["cap"] = e.pacing.cap ? Json{{"school", pace::keyOf(e.pacing.cap->school)},
                                   {"cap_fps", fpsOrNull(e.pacing.cap->cap)},
                                   {"basis", basisJson(e.pacing.cap->basis)}}
                            : Json();
    j["kept"] =
        e.record.kept ? Json{{"at_s", e.record.kept->atSeconds}, {"basis", basisJson(e.record.kept->basis)}} : Json();
    j["note"] = e.record.note;
    return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Result<Edits> editsFromJson(std::string_view text) {
    try {
        return editsFrom(Json::parse(text));
    } catch (const std::exception& error) {
        return fail(ErrorCode::DamagedLogbook, error.what(), {{}, {}, {}, "edits"}, Kept::RestOfLogbook);
    }
}

} // namespace impasto::logbook
