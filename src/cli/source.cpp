// SPDX-License-Identifier: GPL-3.0-or-later
#include "source.h"

#include <impasto/base/file.h>
#include <impasto/description/description.h>
#include <impasto/logbook/logbook.h>
#include <impasto/logs/rates.h>
#include <impasto/path/perform.h>

namespace impasto::cli {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t mostBytes = std::size_t{1} << 22U;

struct TableRow {
    fs::path log;                        // empty: read off
    std::optional<run::ReadOff> readOff; // what a counter showed in its place
    game::Values values;                 // of all settings
};

/// Nothing where the row names a log.
std::optional<run::ReadOff> readOffIn(const description::Section& section) {
    constexpr double fastest = 20000, largest = 1e7;
    if (!section.has("average_fps")) return std::nullopt;
    run::ReadOff out;
    out.average = Fps(section.number("average_fps", 0, fastest));
    const auto rate = [&](const char* key) {
        return section.has(key) ? std::optional(Fps(section.number(key, 0, fastest))) : std::nullopt;
    };
    out.least = rate("least_fps");
    out.most = rate("most_fps");
    out.onePercentLow = rate("one_percent_low_fps");
    if (section.has("gpu_memory_mib")) out.gpuMemory = Mebibytes(section.number("gpu_memory_mib", 0, largest));
    if (const auto fault = run::faultOf(out)) section.fault(fault->key, ErrorCode::OutOfRange, fault->range);
    return out;
}

/// Each row says what differs from the first; what that does not say is as in the game's first preset.
Result<std::vector<TableRow>> tableOf(const std::string& file, const game::Game& game) {
    const auto text = readFile(file, mostBytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = description::Document::parse(*text, file);
    if (!document) return tl::unexpected(document.error());
    std::vector<TableRow> rows;
    for (const auto& section : document->root().tables("run")) {
        TableRow row{{}, readOffIn(section), rows.empty() ? game.presets.front().values : rows.front().values};
        if (rows.empty() && section.has("preset")) {
            const auto name = section.text("preset");
            if (const auto* preset = game.preset(name))
                row.values = preset->values;
            else
                section.fault("preset", ErrorCode::UnknownName, name);
        }
        if (!row.readOff) row.log = fs::path(file).parent_path() / section.text("log");
        const auto values = section.table("values");
        for (const auto& key : values.keys()) {
            const auto level = values.text(key);
            const auto* setting = game.setting(key);
            if (setting == nullptr || !setting->levelIndex(level))
                values.fault(key, ErrorCode::UnknownName, setting == nullptr ? key : level);
            row.values[key] = level;
        }
        rows.push_back(std::move(row));
    }
    if (rows.empty()) document->root().fault("run", ErrorCode::MissingKey, "run");
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    return rows;
}

Result<document::Session> fromLogs(const Source& source) {
    for (const auto& [name, value] : {std::pair("--game", &source.game), {"--runs", &source.runs}})
        if (value->empty()) return fail(ErrorCode::MissingKey, name);
    if (!source.targetFps) return fail(ErrorCode::MissingKey, "--target");
    const auto text = readFile(source.game, mostBytes);
    if (!text) return tl::unexpected(text.error());
    auto game = game::parseGame(*text, source.game);
    if (!game) return tl::unexpected(game.error());
    const auto rows = tableOf(source.runs, *game);
    if (!rows) return tl::unexpected(rows.error());
    const auto ids = seededIdSource(1);
    document::Session start;
    start.id = {ids()};
    document::SessionStore store(start);
    std::vector<document::Edit> edits;
    if (!source.machine.empty()) {
        const auto machineText = readFile(source.machine, mostBytes);
        if (!machineText) return tl::unexpected(machineText.error());
        auto machine = machine::parseMachine(*machineText, source.machine);
        if (!machine) return tl::unexpected(machine.error());
        edits.push_back(document::useMachine(store.addMachine(std::move(*machine))));
    }
    run::Brief brief;
    brief.target = Fps(*source.targetFps);
    edits.push_back(document::useGame(store.addGame(*game), *game));
    edits.push_back(document::setBaseline(*game, rows->front().values));
    edits.push_back(document::setBrief(brief));
    if (const auto done = store.apply(document::together("start", std::move(edits))); !done)
        return tl::unexpected(done.error());
    for (const auto& row : *rows) {
        run::Run run;
        run.id = {ids()};
        run.readOff = row.readOff;
        run.capture = std::make_shared<const capture::Capture>();
        if (!row.readOff) {
            run.name = row.log.filename().string();
            auto capture = readLogOrInput(row.log.string(), {});
            if (capture) {
                run.capture = std::make_shared<const capture::Capture>(std::move(*capture));
            } else {
                const auto rates = logs::readRates(row.log);
                if (capture.error().code != ErrorCode::NotFrames || !rates) return tl::unexpected(capture.error());
                run.readOff =
                    run::ReadOff{rates->average, rates->least, rates->most, {}, {}, rates->rates, rates->stepMs};
            }
        }
        if (row.values != rows->front().values) {
            const auto order = path::testOrder(store.session(), row.values, ids);
            run.order = order.id;
            store.addOrders({order});
        }
        store.addRuns({std::move(run)});
    }
    return store.session();
}

} // namespace

Result<document::Session> storedSession(const Source& source) {
    auto logbook = logbook::Logbook::openToRead(source.logbook);
    if (!logbook) return tl::unexpected(logbook.error());
    const auto heads = (*logbook)->sessions();
    if (!heads) return tl::unexpected(heads.error());
    for (const auto& head : *heads) {
        if (head.deleted || (!source.session.empty() && head.name != source.session && head.id.hex() != source.session))
            continue;
        auto stored = (*logbook)->load(head.id);
        if (!stored) return tl::unexpected(stored.error());
        for (const auto& damage : stored->damage) failed(damage);
        return std::move(stored->session);
    }
    return fail(ErrorCode::UnknownName, source.session, {source.logbook, {}, {}, {}});
}

Result<void> say(const game::Game& game, const std::vector<std::string>& pairs, game::Values& values) {
    for (const auto& pair : pairs) {
        const auto equals = pair.find('=');
        if (equals == std::string::npos) return fail(ErrorCode::BadValue, "setting=level", {{}, {}, {}, pair});
        values[pair.substr(0, equals)] = pair.substr(equals + 1);
    }
    return game::checkValues(game, values);
}

std::vector<Option> sourceOptions(Source& s) {
    return {{"--logbook", "Logbook to read a session of", &s.logbook},
            {"--session", "Its name or id; the newest where none is said", &s.session},
            {"--game", "Game description, TOML, where there is no logbook", &s.game},
            {"--machine", "Machine description, TOML: memory and panel", &s.machine},
            {"--runs", "Table of logs and what each was played with, TOML", &s.runs},
            {"--target", "Rate to hold, fps", &s.targetFps, std::pair(1.0, 1000.0)},
            {"--lock", "setting=level that must stay, several", &s.locked}};
}

Result<Sourced> read(const Source& source) {
    auto session = source.logbook.empty() ? fromLogs(source) : storedSession(source);
    if (!session) return tl::unexpected(session.error());
    if (session->game() == nullptr) return fail(ErrorCode::LacksGame);
    document::SessionStore store(*session);
    game::Values locks;
    if (const auto said = say(*session->game(), source.locked, locks); !said) return tl::unexpected(said.error());
    for (const auto& [setting, level] : locks)
        if (const auto done = store.apply(document::lockSetting(setting, level)); !done)
            return tl::unexpected(done.error());
    if (source.targetFps)
        if (const auto done = store.apply(document::setTarget(Fps(*source.targetFps))); !done)
            return tl::unexpected(done.error());
    if (!store.session().edits->goal.brief) return fail(ErrorCode::LacksBrief);
    Sourced out{store.session(), {}, store.session().edits->goal.brief->target};
    results::ResultsCache cache;
    out.results = results::compute(out.session, cache, {});
    for (const auto& [stage, error] : out.results.errors()) failed(error);
    if (!results::groundOf(out.results)) return fail(ErrorCode::LacksRuns, "1");
    return out;
}

} // namespace impasto::cli
