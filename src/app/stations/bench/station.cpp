// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Bench: the machine and the game are described and corrected.
#include "shell/studio.h"
#include "stations/bench/bench.h"
#include "stations/hands.h"

#include <QtCore/QRegularExpression>
#include <QtCore/QStringList>
#include <impasto/base/file.h>
#include <impasto/rig_sim/simulated.h>
#include <set>

namespace impasto::app {
namespace {

using Q = const QString&;

Error badValue(const char* wanted, Q field) {
    return {ErrorCode::BadValue, wanted, {{}, {}, {}, field.toStdString()}, Kept::AllAsBefore};
}

/// A changed machine, with what the simulator knows of the one before.
void useEditedMachine(Studio& s, const machine::Machine& machine) {
    const auto* before = s.view().session.machine();
    const auto* text = before == nullptr ? nullptr : s.open()->originals.find(before->mark);
    const std::string hidden = text == nullptr ? std::string() : rig_sim::hiddenTables(*text);
    const auto index = s.addMachine(toToml(machine) + hidden, machine.name);
    if (!index) return s.tell(index.error());
    s.apply(document::useMachine(*index));
}

/// A changed game: levels, locks and route stay where it still has them.
void useEditedGame(Studio& s, const game::Game& game) {
    const auto index = s.addGame(toToml(game), game.name);
    if (!index) return s.tell(index.error());
    s.apply(document::reviseGame(*index, *s.view().session.facts->games[*index]));
}

void editRange(machine::Machine& m, Q text) {
    const auto parts = text.split(QRegularExpression(QStringLiteral("[^0-9.]+")), Qt::SkipEmptyParts);
    m.panel.variable.reset();
    if (parts.size() == 2)
        m.panel.variable =
            display::RefreshRange{Hertz(typedNumber(parts[0]).value_or(0)), Hertz(typedNumber(parts[1]).value_or(0))};
}

void editMachine(Studio& s, Q field, Q text) {
    if (s.view().session.machine() == nullptr) return;
    machine::Machine m = *s.view().session.machine();
    const auto number = typedNumber(text);
    if (field == QStringLiteral("cpu")) {
        m.cpu = text.toStdString();
    } else if (field == QStringLiteral("gpu")) {
        m.gpu = text.toStdString();
    } else if (field == QStringLiteral("native")) {
        const auto r =
            display::parseResolution(text.trimmed().toLower().replace(QChar(0xd7), QLatin1Char('x')).toStdString());
        if (!r) return s.tell(badValue("a resolution such as 2560x1440", field));
        m.panel.native = *r;
    } else if (field == QStringLiteral("range")) {
        editRange(m, text);
    } else if (!number) {
        return s.tell(badValue("a number", field));
    } else if (field == QStringLiteral("system")) {
        m.systemMemory = Mebibytes(1024 * *number);
    } else if (field == QStringLiteral("vram")) {
        m.gpuMemory = Mebibytes(1024 * *number);
    } else if (field == QStringLiteral("refresh")) {
        m.panel.refresh = Hertz(*number);
    }
    useEditedMachine(s, m);
}

/// "Draw distance: near, middle, far"; nothing is known of it, so that both CPU and GPU are asked.
std::optional<game::Setting> settingFrom(const game::Game& game, Q text) {
    const auto colon = text.indexOf(QLatin1Char(':'));
    const QStringList levels = text.mid(colon + 1).split(QLatin1Char(','), Qt::SkipEmptyParts);
    if (colon <= 0 || levels.size() < 2) return std::nullopt;
    game::Setting setting;
    setting.label = text.left(colon).trimmed().toStdString();
    setting.id = "own_" + std::to_string(game.settings.size() + 1);
    while (game.setting(setting.id) != nullptr) setting.id += "x";
    setting.paysCpu = setting.paysGpu = true;
    for (qsizetype i = 0; i < levels.size(); ++i)
        setting.levels.push_back(
            {levels[i].trimmed().toStdString(), static_cast<double>(i) / static_cast<double>(levels.size() - 1), {}});
    return setting;
}

void editGame(Studio& s, Q field, Q text) {
    if (s.view().session.game() == nullptr) return;
    game::Game game = *s.view().session.game();
    if (field == QStringLiteral("name")) {
        game.name = text.trimmed().toStdString();
    } else if (field == QStringLiteral("route")) {
        const auto comma = text.lastIndexOf(QLatin1Char(','));
        const auto seconds = typedNumber(text.mid(comma + 1));
        if (comma <= 0 || !seconds) return s.tell(badValue("a name and seconds, as \"Market square, 60\"", field));
        game.routes = {{text.left(comma).trimmed().toStdString(), {{"whole route", *seconds}}}};
    } else if (field == QStringLiteral("add")) {
        auto setting = settingFrom(game, text);
        if (!setting) return s.tell(badValue("a name and its levels, as \"Draw distance: near, middle, far\"", field));
        for (auto& preset : game.presets) preset.values[setting->id] = setting->levels.back().name;
        game.settings.push_back(std::move(*setting));
    }
    useEditedGame(s, game);
}

void toggleUsual(Studio& s, Q rest) {
    const auto* now = s.view().session.game();
    if (now == nullptr) return;
    const std::string id = rest.toStdString();
    game::Game game = *now;
    if (game.setting(id) != nullptr) {
        if (game.settings.size() == 1)
            return s.tell({ErrorCode::OutOfRange, "1 to 200", {{}, {}, {}, "settings"}, Kept::AllAsBefore});
        std::erase_if(game.settings, [&](const game::Setting& setting) { return setting.id == id; });
        for (auto& preset : game.presets) preset.values.erase(id);
    } else {
        for (const auto& usual : s.state<BenchState>().usualSettings) {
            if (usual.id != id) continue;
            game.settings.push_back(usual);
            for (auto& preset : game.presets) preset.values[id] = usual.levels.back().name;
        }
    }
    useEditedGame(s, game);
}

void stepLevel(Studio& s, Q rest, int steps) {
    const std::string id = rest.toStdString();
    const auto* game = s.view().session.game();
    const auto* setting = game == nullptr ? nullptr : game->setting(id);
    game::Values values = s.view().edits().settings.baseline;
    if (setting == nullptr || !values.contains(id)) return;
    if (const auto level = levelAway(*setting, values[id], steps)) {
        values[id] = *level;
        s.apply(document::setBaseline(*game, values));
    }
}

void usePreset(Studio& s, Q name) {
    const auto* game = s.view().session.game();
    const auto* preset = game == nullptr ? nullptr : game->preset(name.toStdString());
    if (preset != nullptr) s.apply(document::setBaseline(*game, preset->values));
}

StateLine state(const View& view) {
    return view.empty()                        ? StateLine(say("start here"), false)
           : view.session.machine() == nullptr ? say("no machine yet")
           : view.session.game() == nullptr    ? say("no game yet")
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
    for (const auto& practice : s.state<BenchState>().practice)
        out.push_back({say("practice"), (practice.isMachine ? say("Machine: %1") : say("Game: %1")).arg(practice.name),
                       practice.note, [&s, file = practice.file] { openPractice(s, file); }});
}

} // namespace

void describeMachine(Studio& s) {
    if (s.open() == nullptr) return;
    machine::Machine m;
    m.name = say("My machine").toStdString();
    m.cpu = m.gpu = "not said";
    m.gpuMemory = Mebibytes(8 * 1024);
    m.systemMemory = Mebibytes(16 * 1024);
    m.panel = {{1920, 1080}, Hertz(60), {}};
    const auto index = s.addMachine(toToml(m), m.name);
    if (!index) return s.tell(index.error());
    s.go(benchStation().id);
    s.apply(document::useMachine(*index));
}

void describeGame(Studio& s) {
    if (s.open() == nullptr) return;
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
                                      document::useRig(document::RigKind::Hand)};
    if (s.view().session.machine() == nullptr) describeMachine(s);
    s.go(benchStation().id);
    s.apply(document::together("use-game", std::move(edits)));
}

void openPractice(Studio& s, const std::filesystem::path& file) {
    if (const auto done = s.openDescription(file); !done) return s.tell(done.error());
    if (s.view().canSimulate && s.view().edits().subject.rig != document::RigKind::Simulated)
        s.apply(document::useRig(document::RigKind::Simulated));
}

Station benchStation() {
    using path::Action;
    Station station{{"bench"}, "Bench", {Action::Begin, Action::SayMachine, Action::SayGame}, {}, state};
    station.easel = layoutBench;
    station.column = layoutBenchColumn;
    station.hands = {{"start.practice", [](Studio& s, Q) { s.startPractice(); }},
                     {"start.game", [](Studio& s, Q) { describeGame(s); }},
                     {"machine.new", [](Studio& s, Q) { describeMachine(s); }},
                     {"begin.1", [](Studio& s, Q) { describeMachine(s); }},
                     {"begin.2", [](Studio& s, Q) { describeGame(s); }},
                     {"machine.", nullptr, editMachine},
                     {"game.", nullptr, editGame},
                     {"usual.", toggleUsual},
                     {"preset.", usePreset},
                     {"rig.simulated", [](Studio& s, Q) { s.apply(document::useRig(document::RigKind::Simulated)); }},
                     {"rig.hand", [](Studio& s, Q) { s.apply(document::useRig(document::RigKind::Hand)); }},
                     {"level.", nullptr, nullptr, stepLevel}};
    station.find = find;
    station.load = load;
    station.shots = {{"bench", Action::RecordWarmUp}};
    return station;
}

} // namespace impasto::app
