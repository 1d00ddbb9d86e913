// SPDX-License-Identifier: GPL-3.0-or-later
// Bench: what machine, what game, and who records.
#include "shell/studio.h"
#include "stations/bench/bench.h"

#include <QtCore/Qt>
#include <impasto/base/file.h>
#include <set>

namespace impasto::app {
namespace {

using Q = const QString&;

StateLine state(const View& view) {
    return view.empty()                        ? StateLine(say("start here"), false)
           : view.session.machine() == nullptr ? say("no machine yet")
           : view.session.game() == nullptr    ? say("no game yet")
           : countsOf(view).toDo > 0           ? say("%1 to do").arg(countsOf(view).toDo)
                                               : qs(view.session.machine()->name);
}

std::vector<Practice> practiceIn(const std::filesystem::path& dataDir) {
    std::vector<Practice> out;
    for (const char* folder : {"machines", "games"}) {
        std::error_code failure;
        std::set<std::filesystem::path> files; // sorted
        for (const auto& entry : std::filesystem::directory_iterator(dataDir / folder, failure))
            files.insert(entry.path());
        for (const auto& file : files) {
            const auto text = readFile(file, 1U << 22U);
            if (!text) continue;
            if (folder == std::string_view("machines")) {
                if (const auto m = machine::parseMachine(*text, file.string()))
                    out.push_back(
                        {true, qs(m->name),
                         say("%1, %2 GiB")
                             .arg(qs(wording::resolution(m->panel.native)), qs(wording::gib(m->gpuMemory.value()))),
                         file});
            } else if (const auto g = game::parseGame(*text, file.string())) {
                out.push_back({false, qs(g->name), say("%1 settings").arg(g->settings.size()), file});
            }
        }
    }
    return out;
}

Loaded load(const std::filesystem::path& dataDir) {
    BenchState read;
    read.practice = practiceIn(dataDir);
    const auto file = dataDir / "usual_settings.toml";
    std::optional<Error> fault;
    if (const auto text = readFile(file)) {
        if (auto usual = game::parseGame(*text, file.string()))
            read.usualSettings = std::move(usual->settings);
        else
            fault = usual.error();
    }
    const auto points = dataDir / "checklist.toml";
    if (const auto text = readFile(points)) {
        if (auto parsed = checklist::parseChecklist(*text, points.string()))
            read.points = std::move(*parsed);
        else
            fault = parsed.error();
    }
    return [read = std::move(read), fault](Studio& s) {
        s.state<BenchState>() = read;
        if (fault) s.tell(*fault);
    };
}

void find(Studio& s, std::vector<Findable>& out) {
    if (const auto* game = s.view().session.game())
        for (const auto& setting : game->settings) {
            const auto& baseline = s.view().edits().settings.baseline;
            const auto level = baseline.find(setting.id);
            const QString id = qs(setting.id);
            out.push_back({say("setting"), qs(setting.label), level == baseline.end() ? QString() : qs(level->second),
                           [&s, id] {
                               const bool measured = !results::idsOf<results::CostRuns>(*s.view().results).empty();
                               s.go(measured ? stationDoing(path::Action::RecordCosts) : benchStation().id);
                               if (measured) s.activate(QStringLiteral("open.") + id);
                           },
                           QStringLiteral("level.") + id});
        }
    // Machines that were read or described before: of each name the newest.
    const auto& machines = s.view().session.facts->machines;
    std::set<std::string> named;
    for (std::size_t i = machines.size(); i-- > 0;)
        if (named.insert(machines[i]->name).second && machines[i].get() != s.view().session.machine())
            out.push_back({say("machine"), qs(machines[i]->name),
                           machines[i]->readAt != 0 ? say("read %1").arg(dateTime(machines[i]->readAt))
                           : machines[i]->simulated ? say("simulated")
                                                    : say("described"),
                           [&s, i] {
                               s.go(benchStation().id);
                               s.apply(document::useMachine(i));
                           }});
    for (const auto& practice : s.state<BenchState>().practice)
        out.push_back({say("practice"), (practice.isMachine ? say("Machine: %1") : say("Game: %1")).arg(practice.name),
                       practice.note, [&s, file = practice.file] { openPractice(s, file); }});
}

} // namespace

void typeMachine(Studio& s) {
    if (s.open() == nullptr) return;
    machine::Machine m;
    m.name = say("My machine").toStdString();
    m.cpu = m.gpu = "not said";
    const auto index = s.addMachine(toToml(m), m.name);
    if (!index) return s.tell(index.error());
    s.go(benchStation().id);
    s.apply(document::useMachine(*index));
}

namespace {

void addOwnGame(Studio& s) {
    game::Game game;
    game.name = say("My game").toStdString();
    game.version = "not said";
    game.settings = s.state<BenchState>().usualSettings;
    game::Preset now{"as now", {}};
    for (const auto& setting : game.settings) now.values[setting.id] = setting.levels.back().name;
    game.presets = {now};
    game.routes = {{"the same minute", {{"whole route", 60}}}};
    const auto index = s.addGame(toToml(game), game.name);
    if (!index) return s.tell(index.error());
    std::vector<document::Edit> edits{document::useGame(*index, *s.view().session.facts->games[*index]),
                                      document::useRig(document::RigKind::Hand), document::askStart(true)};
    if (s.view().session.machine() == nullptr) readThisMachine(s);
    s.go(benchStation().id);
    s.apply(document::together("use-game", std::move(edits)));
}

} // namespace

void describeGame(Studio& s) {
    if (s.open() == nullptr) return;
    if (s.view().session.facts->runs.empty()) return addOwnGame(s);
    // Runs are of the game that they were made in: another one has a session of its own, on the same machine.
    const auto* machine = s.view().session.machine();
    const auto* text = machine == nullptr ? nullptr : s.open()->originals.find(machine->mark);
    const std::string described = text == nullptr ? std::string() : *text;
    s.newSession(s.view().session.facts->seed + 1);
    s.whenOpen([&s, described] {
        if (!described.empty())
            if (const auto index = s.addMachine(described, {})) s.apply(document::useMachine(*index));
        addOwnGame(s);
    });
}

void openPractice(Studio& s, const std::filesystem::path& file) {
    if (const auto done = s.openDescription(file); !done) return s.tell(done.error());
    if (s.view().canSimulate && s.view().edits().subject.rig != document::RigKind::Simulated)
        s.apply(document::useRig(document::RigKind::Simulated));
}

Station benchStation() {
    using path::Action;
    Station station{
        {"bench"}, "Bench", {Action::Begin, Action::SayMachine, Action::SayGame, Action::SayStart}, {}, state};
    station.easel = layoutBench;
    station.column = layoutBenchColumn;
    station.hands = {{"start.practice", [](Studio& s, Q) { s.startPractice(); }},
                     {"start.game", [](Studio& s, Q) { describeGame(s); }},
                     {"machine.read", [](Studio& s, Q) { readThisMachine(s); }},
                     {"machine.new", [](Studio& s, Q) { typeMachine(s); }},
                     {"begin.1", [](Studio& s, Q) { readThisMachine(s); }},
                     {"begin.2", [](Studio& s, Q) { describeGame(s); }},
                     {"rig.simulated", [](Studio& s, Q) { s.apply(document::useRig(document::RigKind::Simulated)); }},
                     {"rig.hand", [](Studio& s, Q) { s.apply(document::useRig(document::RigKind::Hand)); }}};
    for (const auto& hands : {machineHands(), gameHands(), checkHands()})
        station.hands.insert(station.hands.end(), hands.begin(), hands.end());
    station.keys = {{Qt::Key_V, "V", "the checklist, or settings",
                     [](Studio& s) { showChecks(s, !s.state<BenchState>().checks); }}};
    station.find = find;
    station.load = load;
    station.shots = {{"bench", Action::RecordWarmUp},
                     {"checklist", Action::RecordWarmUp, [](Studio& s) { showChecks(s, true); }}};
    return station;
}

} // namespace impasto::app
