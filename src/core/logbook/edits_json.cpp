// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logbook/edits_json.h>

#include "parsed_json.h"

#include <impasto/document/edit.h>

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
    Json bounds = Json::object();
    for (const auto bound : run::allBounds)
        if (b.bounds[bound]) bounds[std::string(run::keyOf(bound))] = *b.bounds[bound];
    return {{"target_fps", b.target.value()},
            {"lowest_low_fps", fpsOrNull(b.lowestLow)},
            {"picture_floor", orNull(b.pictureFloor)},
            {"school", stats::keyOf(b.lowRule)},
            {"floor_of", run::keyOf(b.floorOf)},
            {"on_time_share", orNull(b.onTimeShare)},
            {"tolerance", orNull(b.tolerance)},
            {"style", run::keyOf(b.style)},
            {"shown_fps", fpsOrNull(b.shown)},
            {"bounds", std::move(bounds)},
            {"steering", b.steering ? Json(run::keyOf(*b.steering)) : Json()}};
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

OrderId orderId(const Json& hex) {
    return {required(bytesFromHex(hex.get<std::string>()), "order id")};
}

run::Brief briefFrom(const Json& j) {
    run::Brief b;
    b.target = Fps(j.at("target_fps").get<double>());
    if (!(b.target.value() >= 1 && b.target.value() <= 2000)) throw std::invalid_argument("target_fps");
    b.lowestLow = maybeFps(j, "lowest_low_fps");
    b.pictureFloor = maybe<double>(j, "picture_floor");
    b.lowRule = required(stats::lowRuleOf(j.at("school").get<std::string>()), "school");
    if (j.contains("floor_of")) { // briefs from before these could be said have the usual ones
        b.floorOf = required(run::floorOfKey(j.at("floor_of").get<std::string>()), "floor_of");
        b.onTimeShare = maybe<double>(j, "on_time_share");
        b.tolerance = maybe<double>(j, "tolerance");
    }
    if (j.contains("shown_fps")) b.shown = maybeFps(j, "shown_fps");
    if (j.contains("steering") && !j.at("steering").is_null())
        b.steering = required(run::steeringOf(j.at("steering").get<std::string>()), "steering");
    if (j.contains("bounds"))
        for (const auto bound : run::allBounds)
            if (const auto it = j.at("bounds").find(run::keyOf(bound)); it != j.at("bounds").end())
                b.bounds[bound] = it->get<double>();
    b.style = required(run::styleOf(j.at("style").get<std::string>()), "style");
    return b;
}

/// Before safe limits were measured every logbook held the rules of thumb; those were nobody's decision.
SafeShares sharesFrom(const Json& j) {
    SafeShares shares{maybe<double>(j, "gpu"), maybe<double>(j, "cpu"), maybe<double>(j, "frame")};
    if (shares == SafeShares{0.84, 0.98, 0.90}) return {};
    return shares;
}

Json generationJson(const run::Generation& g) {
    return {{"kind", run::keyOf(g.kind)},
            {"multiplier", g.multiplier},
            {"target_fps", fpsOrNull(g.target)},
            {"on_second_gpu", g.onSecondGpu}};
}

run::Generation generationFrom(const Json& j) {
    run::Generation g;
    g.kind = required(run::generationKindOf(j.at("kind").get<std::string>()), "generation kind");
    g.multiplier = j.at("multiplier").get<int>();
    if (g.multiplier < 2 || g.multiplier > run::mostMultiplier) throw std::invalid_argument("multiplier");
    g.target = maybeFps(j, "target_fps");
    g.onSecondGpu = j.at("on_second_gpu").get<bool>();
    return g;
}

Json capJson(const ChosenCap& cap) {
    Json j{{"school", pace::keyOf(cap.school)},
           {"cap_fps", fpsOrNull(cap.plan.cap)},
           {"sync", run::keyOf(cap.plan.sync)},
           {"refresh_hz", cap.plan.refresh ? Json(cap.plan.refresh->value()) : Json()},
           {"basis", basisJson(cap.basis)}};
    if (cap.plan.generation) j["generation"] = generationJson(*cap.plan.generation);
    if (cap.plan.limiter) j["limiter"] = run::keyOf(*cap.plan.limiter);
    return j;
}

pace::CapPlan planFrom(const Json& j) {
    pace::CapPlan plan{maybeFps(j, "cap_fps")};
    if (!j.contains("sync")) { // from before it was said: the panel followed where it could
        plan.sync = plan.cap ? run::Sync::Variable : run::Sync::None;
        return plan;
    }
    plan.sync = required(run::syncOf(j.at("sync").get<std::string>()), "sync");
    if (const auto hz = maybe<double>(j, "refresh_hz")) plan.refresh = Hertz(*hz);
    if (j.contains("generation")) plan.generation = generationFrom(j.at("generation"));
    if (j.contains("limiter"))
        plan.limiter = required(run::limiterPlaceOf(j.at("limiter").get<std::string>()), "limiter");
    return plan;
}

Json stateJson(const PlayState& state) {
    Json j = Json::object();
    const auto order = state.asOrder(), usual = PlayState{}.asOrder();
    for (const auto& condition : run::conditions())
        if (const auto text = condition.read(order); *condition.label != '\0' && text != condition.read(usual))
            j[condition.key] = text;
    return j;
}

Checks checksFrom(const Json& j) {
    Checks checks;
    for (const auto& [point, t] : j.items())
        checks.ticks[point] = {required(saidOf(t.at("said").get<std::string>()), "checked"),
                               t.at("at_s").get<std::int64_t>(), t.at("mark").get<std::uint64_t>()};
    return checks;
}

document::Pacing pacingFrom(const Json& j) {
    Edits e;
    if (const Json& c = j.at("cap"); !c.is_null())
        e.pacing.cap = ChosenCap{required(pace::capSchoolOf(c.at("school").get<std::string>()), "cap school"),
                                 planFrom(c), c.at("basis").get<Basis>()};
    if (j.contains("upkeep")) {
        const Json& u = j.at("upkeep");
        auto said = document::setUpkeep(
                        {u.value("hours_a_week", 0.0), u.value("price_per_kwh", 0.0), u.value("rest_share", 0.0)})
                        .apply(e);
        if (!said) throw std::invalid_argument("upkeep");
        e = std::move(*said);
    }
    return e.pacing;
}

Json earlierJson(const EarlierRuns& earlier) {
    Json runs = Json::array();
    for (const auto& run : earlier.runs)
        runs.push_back(
            {{"values", run.values}, {"cpu_ms", run.taken[0]}, {"gpu_ms", run.taken[1]}, {"gpu_mib", run.taken[2]}});
    return {{"from", earlier.from}, {"chips", earlier.chips}, {"version", earlier.version}, {"runs", std::move(runs)}};
}

EarlierRuns earlierFrom(const Json& j) {
    EarlierRuns out{
        j.at("from").get<std::string>(), j.at("chips").get<std::string>(), j.at("version").get<std::string>(), {}};
    for (const Json& run : j.at("runs"))
        out.runs.push_back(
            {run.at("values").get<game::Values>(),
             {run.at("cpu_ms").get<double>(), run.at("gpu_ms").get<double>(), run.at("gpu_mib").get<double>()}});
    return out;
}

document::Settings settingsFrom(const Json& j) {
    document::Settings out;
    out.baseline = j.at("baseline").get<game::Values>();
    out.locked = j.at("locked").get<game::Values>();
    if (j.contains("cannot")) out.cannot = j.at("cannot").get<decltype(out.cannot)>();
    out.startOpen = j.value("start_open", false);
    out.enough = j.value("measured_enough", false);
    if (const double share = j.value("good_enough", 0.0); share > 0 && share <= 1) out.goodEnough = share;
    out.walk = choose::walkSchoolOf(j.value("walk", std::string())).value_or(choose::WalkSchool::Measured);
    if (j.contains("earlier")) {
        auto said = document::beginWith(earlierFrom(j.at("earlier"))).apply({});
        if (!said) throw std::invalid_argument("earlier runs");
        out.earlier = std::move(said->settings.earlier);
    }
    if (const Json& c = j.at("choice"); !c.is_null())
        out.choice =
            AcceptedChoice{c.at("values").get<game::Values>(), c.at("by_hand").get<bool>(), c.at("basis").get<Basis>()};
    return out;
}

Edits editsFrom(const Json& j) {
    Edits e;
    e.subject.title = j.at("title").get<std::string>();
    e.subject.name = j.value("name", std::string());
    e.subject.machine = maybe<std::size_t>(j, "machine");
    e.subject.game = maybe<std::size_t>(j, "game");
    e.subject.rig = j.at("rig") == "hand" ? RigKind::Hand : RigKind::Simulated;
    e.subject.route = j.at("route").get<std::string>();
    if (j.contains("scene")) e.subject.scene = required(game::sceneKindOf(j.at("scene").get<std::string>()), "scene");
    if (j.contains("state")) // from before it could be said: the usual one
        for (const auto& [key, text] : j.at("state").items()) {
            auto after = document::setState(key, text.get<std::string>()).apply(e);
            if (!after) throw std::invalid_argument(key);
            e = std::move(*after);
        }
    if (!j.at("brief").is_null()) e.goal.brief = briefFrom(j.at("brief"));
    e.goal.shares = sharesFrom(j.at("shares"));
    if (j.contains("hitch_rule")) { // those from before it could be edited have the usual one
        const Json& rule = j.at("hitch_rule");
        e.runs.hitchRule = {rule.at("ratio").get<double>(), rule.at("excess_ms").get<double>(),
                            rule.at("neighbours").get<std::size_t>(),
                            rule.value("outright_ms", e.runs.hitchRule.outrightMs)};
        if (!document::setHitchRule(e.runs.hitchRule).apply(e)) throw std::invalid_argument("hitch_rule");
    }
    e.runs.followRestS = j.value("follow_rest_s", e.runs.followRestS); // or from before it could be edited
    if (!document::setFollowRest(e.runs.followRestS).apply(e)) throw std::invalid_argument("follow_rest_s");
    e.runs.followSensors = j.value("follow_sensors", true);
    e.runs.partColumn = j.value("part_column", std::string());
    if (j.contains("withdrawn")) // from before orders could be skipped: none
        for (const auto& hex : j.at("withdrawn")) e.runs.withdrawn.insert(orderId(hex));
    e.settings = settingsFrom(j);
    for (const auto& [hex, reason] : j.at("left_out").items())
        e.runs.leftOut[runId(hex)] = required(leftOutOf(reason.get<std::string>()), "left_out");
    if (j.contains("trims")) // logbooks from before runs could be trimmed have none
        for (const auto& [hex, spans] : j.at("trims").items())
            for (const auto& span : spans)
                e.runs.trims[runId(hex)].push_back({span.at(0).get<double>(), span.at(1).get<double>()});
    for (const auto& hex : j.at("hidden")) e.runs.hidden.insert(runId(hex.get<std::string>()));
    // Those from before a run could be counted against its recording, or read another way, say neither.
    if (j.contains("arrived"))
        for (const auto& hex : j.at("arrived")) e.runs.arrived.insert(runId(hex.get<std::string>()));
    if (j.contains("counted"))
        for (const auto& hex : j.at("counted")) e.runs.counted.insert(runId(hex.get<std::string>()));
    if (j.contains("readings"))
        for (const auto& [first, used] : j.at("readings").items())
            e.runs.readings[runId(first)] = runId(used.get<std::string>());
    if (j.contains("variants"))
        for (const auto& [run, name] : j.at("variants").items()) {
            auto named = document::nameVariant(runId(run), name.get<std::string>()).apply(e);
            if (!named) throw std::invalid_argument("variants");
            e = std::move(*named);
        }
    if (j.contains("answers"))
        for (const auto& [run, order] : j.at("answers").items()) e.runs.answers[runId(run)] = orderId(order);
    e.pacing = pacingFrom(j);
    if (const Json& k = j.at("kept"); !k.is_null())
        e.record.kept = KeptResult{k.at("at_s").get<std::int64_t>(), k.at("basis").get<Basis>(),
                                   k.value("goals_met", std::size_t{0}), k.value("goals", std::size_t{0}),
                                   k.value("goals_open", std::size_t{0})};
    if (j.contains("checked")) e.checks = checksFrom(j.at("checked"));
    e.record.note = j.at("note").get<std::string>();
    if (e.record.note.size() > mostNoteBytes || e.subject.name.size() > mostNameBytes)
        throw std::invalid_argument("a text that is too long");
    return e;
}

Json jsonOf(const Edits& e) {
    Json j;
    j["title"] = e.subject.title;
    j["name"] = e.subject.name;
    j["machine"] = orNull(e.subject.machine);
    j["game"] = orNull(e.subject.game);
    j["rig"] = e.subject.rig == RigKind::Hand ? "hand" : "simulated";
    j["route"] = e.subject.route;
    if (e.subject.scene) j["scene"] = game::keyOf(*e.subject.scene);
    j["state"] = stateJson(e.subject.state); // what is not as usual
    j["baseline"] = e.settings.baseline;
    j["brief"] = e.goal.brief ? briefJson(*e.goal.brief) : Json();
    j["shares"] = {
        {"gpu", orNull(e.goal.shares.gpu)}, {"cpu", orNull(e.goal.shares.cpu)}, {"frame", orNull(e.goal.shares.frame)}};
    j["hitch_rule"] = {{"ratio", e.runs.hitchRule.ratio},
                       {"excess_ms", e.runs.hitchRule.excessMs},
                       {"neighbours", e.runs.hitchRule.neighbours},
                       {"outright_ms", e.runs.hitchRule.outrightMs}};
    j["follow_rest_s"] = e.runs.followRestS;
    j["follow_sensors"] = e.runs.followSensors;
    if (e.settings.startOpen) j["start_open"] = true;
    if (e.settings.enough) j["measured_enough"] = true;
    if (e.settings.earlier) j["earlier"] = earlierJson(*e.settings.earlier);
    if (e.settings.goodEnough) j["good_enough"] = *e.settings.goodEnough;
    if (e.settings.walk != choose::WalkSchool::Measured) j["walk"] = choose::keyOf(e.settings.walk);
    j["locked"] = e.settings.locked;
    if (!e.settings.cannot.empty()) j["cannot"] = e.settings.cannot;
    j["left_out"] = Json::object();
    for (const auto& [id, reason] : e.runs.leftOut) j["left_out"][id.hex()] = keyOf(reason);
    j["trims"] = Json::object(); // ms from the first frame's start
    for (const auto& [id, spans] : e.runs.trims)
        for (const auto& span : spans) j["trims"][id.hex()].push_back({span.fromMs, span.toMs});
    j["hidden"] = Json::array();
    for (const auto& id : e.runs.hidden) j["hidden"].push_back(id.hex());
    j["arrived"] = Json::array();
    for (const auto& id : e.runs.arrived) j["arrived"].push_back(id.hex());
    j["counted"] = Json::array();
    for (const auto& id : e.runs.counted) j["counted"].push_back(id.hex());
    if (!e.runs.partColumn.empty()) j["part_column"] = e.runs.partColumn;
    j["withdrawn"] = Json::array();
    for (const auto& id : e.runs.withdrawn) j["withdrawn"].push_back(id.hex());
    j["readings"] = Json::object();
    for (const auto& [first, used] : e.runs.readings) j["readings"][first.hex()] = used.hex();
    for (const auto& [run, name] : e.runs.variants) j["variants"][run.hex()] = name;
    if (!e.runs.answers.empty()) j["answers"] = Json::object();
    for (const auto& [run, order] : e.runs.answers) j["answers"][run.hex()] = order.hex();
    j["choice"] = e.settings.choice ? Json{{"values", e.settings.choice->values},
                                           {"by_hand", e.settings.choice->byHand},
                                           {"basis", basisJson(e.settings.choice->basis)}}
                                    : Json();
    j["cap"] = e.pacing.cap ? capJson(*e.pacing.cap) : Json();
    if (const auto& u = e.pacing.upkeep; u != document::Upkeep{})
        j["upkeep"] = {{"hours_a_week", u.hoursAWeek}, {"price_per_kwh", u.pricePerKwh}, {"rest_share", u.restShare}};
    j["kept"] = e.record.kept ? Json{{"at_s", e.record.kept->atSeconds},
                                     {"basis", basisJson(e.record.kept->basis)},
                                     {"goals_met", e.record.kept->met},
                                     {"goals", e.record.kept->goals},
                                     {"goals_open", e.record.kept->open}}
                              : Json();
    for (const auto& [point, t] : e.checks.ticks) // of the machine's checklist
        j["checked"][point] = {{"said", keyOf(t.said)}, {"at_s", t.atSeconds}, {"mark", t.mark}};
    j["note"] = e.record.note;
    return j;
}

/// What stands in an object and is not written of what was read of it; of objects that are written too, inside them.
Json besides(const Json& stored, const Json& written) {
    Json out = Json::object();
    for (const auto& [key, value] : stored.items()) {
        const auto it = written.find(key);
        if (it == written.end())
            out[key] = value;
        else if (value.is_object() && it->is_object())
            if (Json inside = besides(value, *it); !inside.empty()) out[key] = std::move(inside);
    }
    return out;
}

/// The other way round; what is written stands, and what is not there any more takes along what stood inside it.
void handOn(Json& written, const Json& unknown) {
    for (const auto& [key, value] : unknown.items()) {
        const auto it = written.find(key);
        if (it == written.end())
            written[key] = value;
        else if (value.is_object() && it->is_object())
            handOn(*it, value);
    }
}

} // namespace

std::string toJson(const Edits& e) {
    Json j = jsonOf(e);
    if (!e.unknown.empty()) handOn(j, parsedJson(e.unknown));
    return j.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Result<Edits> editsFromJson(std::string_view text) {
    try {
        const Json stored = parsedJson(text);
        Edits edits = editsFrom(stored);
        if (const Json unknown = besides(stored, jsonOf(edits)); !unknown.empty())
            edits.unknown =
                nlohmann::json::parse(unknown.dump()).dump(); // in an order that does not depend on the rest
        return edits;
    } catch (const std::exception& error) {
        return fail(ErrorCode::DamagedLogbook, error.what(), {{}, {}, {}, "edits"}, Kept::RestOfLogbook);
    }
}

} // namespace impasto::logbook
