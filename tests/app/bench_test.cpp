// SPDX-License-Identifier: GPL-3.0-or-later
// A machine and a game of one's own: nothing is invented, and everything can be said.
#include "app/harness.h"
#include "app/tidy.h"
#include "probe/tree.h"

using namespace impasto;
using namespace impasto::app;
using path::Action;

namespace {

bool shows(const Picture* picture, const QString& text) {
    const auto& shapes = picture->drawing().shapes;
    return std::any_of(shapes.begin(), shapes.end(), [&](const Shape& s) { return s.text.contains(text); });
}

const machine::Machine& machineOf(const Driven& d) {
    return *d.view().session.machine();
}

} // namespace

TEST(BenchTest, WhatIsNotKnownOfAMachineIsNotSet) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    ASSERT_NE(d.view().session.machine(), nullptr);
    EXPECT_EQ(machineOf(d).gpuMemory, Mebibytes(0));
    EXPECT_EQ(machineOf(d).panel, display::Panel{});
    EXPECT_FALSE(d.view().session.panel());
    EXPECT_TRUE(shows(d.window->easel(), QStringLiteral("not set")));
    expectAllTidy(d, "nothing known");
    d.studio.go(StationId{"bench"});
    const std::map<QString, QString> said{{QStringLiteral("name"), QStringLiteral("Quiet box")},
                                          {QStringLiteral("cpu"), QStringLiteral("Alder six")},
                                          {QStringLiteral("cores"), QStringLiteral("6")},
                                          {QStringLiteral("gpu"), QStringLiteral("Birch one")},
                                          {QStringLiteral("vram"), QStringLiteral("8")},
                                          {QStringLiteral("system"), QStringLiteral("16")},
                                          {QStringLiteral("second"), QStringLiteral("Birch zero")},
                                          {QStringLiteral("native"), QStringLiteral("1920 × 1080")},
                                          {QStringLiteral("refresh"), QStringLiteral("90")},
                                          {QStringLiteral("modes"), QStringLiteral("60, 75, 90")}};
    for (const auto& [field, text] : said) {
        d.studio.edited(QStringLiteral("machine.") + field, text);
        d.rest();
        EXPECT_TRUE(d.view().message.isEmpty()) << field.toStdString() << ": " << d.view().message.toStdString();
    }
    EXPECT_EQ(machineOf(d).name, "Quiet box");
    EXPECT_EQ(machineOf(d).cores, 6);
    EXPECT_EQ(machineOf(d).gpuMemory, Mebibytes(8192));
    EXPECT_EQ(machineOf(d).secondGpu, "Birch zero");
    EXPECT_EQ(machineOf(d).panel.native, (display::Resolution{1920, 1080}));
    EXPECT_EQ(machineOf(d).panel.modes, (std::vector<Hertz>{Hertz(60), Hertz(75), Hertz(90)}));
    ASSERT_TRUE(d.view().session.panel());
    d.click(d.window->easel(), QStringLiteral("machine.copy"));
    EXPECT_TRUE(machineOf(d).copyRoute);
    d.studio.edited(QStringLiteral("machine.refresh"), QStringLiteral("120"));
    EXPECT_EQ(machineOf(d).panel.modes.back(), Hertz(120)) << "a rate that is none of the modes becomes one";
    d.studio.edited(QStringLiteral("machine.range"), QStringLiteral("48-120"));
    EXPECT_EQ(machineOf(d).panel.variable, (display::RefreshRange{Hertz(48), Hertz(120)}));
    d.studio.edited(QStringLiteral("machine.range"), QStringLiteral("headset"));
    EXPECT_TRUE(machineOf(d).panel.headset);
    d.studio.edited(QStringLiteral("machine.range"), QStringLiteral("fixed"));
    EXPECT_FALSE(machineOf(d).panel.headset);
    d.studio.edited(QStringLiteral("machine.vram"), QString());
    EXPECT_EQ(machineOf(d).gpuMemory, Mebibytes(0)) << "empty: not known";
    d.studio.edited(QStringLiteral("machine.vram"), QStringLiteral("much"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("a number")));
    expectAllTidy(d, "all known");
}

TEST(BenchTest, ASettingIsNamedOrderedWeighedAndLocked) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    const auto game = [&] { return *d.view().session.game(); };
    const auto first = game().settings[1].id;
    const std::string second = "shadows";
    d.click(d.window->easel(), QStringLiteral("level.") + qs(second));
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("setting.levels")), nullptr);
    d.studio.edited(QStringLiteral("setting.label"), QStringLiteral("Shadow detail"));
    EXPECT_EQ(game().setting(second)->label, "Shadow detail");
    ASSERT_EQ(game().setting(second)->levels.size(), 3U);
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("coarse, fine, finest"));
    EXPECT_EQ(game().setting(second)->levels[1].name, "fine");
    EXPECT_EQ(game().setting(second)->levels[1].picture, 0.9) << "the level in its place, by another name";
    EXPECT_EQ(d.view().edits().settings.baseline.at(second), "finest") << "the game still has the same one";
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("one"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("two levels or more")));
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("25% to 100% by 15%")); // a slider
    EXPECT_EQ(game().setting(second)->levels.size(), 6U);
    EXPECT_EQ(d.window->column()->drawing().hot(QStringLiteral("setting.levels"))->edit,
              QStringLiteral("25% to 100% by 15%"));
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("off, coarse, fine, finest"));
    EXPECT_EQ(game().setting(second)->levels.size(), 4U);
    d.click(d.window->column(), QStringLiteral("setting.weight.0"));
    EXPECT_EQ(game().setting(second)->weight, 0) << "a matter of taste";
    d.click(d.window->column(), QStringLiteral("setting.weight.2"));
    d.click(d.window->column(), QStringLiteral("setting.cpu"));
    EXPECT_EQ(game().setting(second)->weight, 2);
    EXPECT_TRUE(game().setting(second)->paysCpu);
    d.click(d.window->column(), QStringLiteral("setting.lock"));
    EXPECT_EQ(d.view().edits().settings.locked.at(second), "finest");
    expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), "a setting");
    d.click(d.window->column(), QStringLiteral("setting.lock"));
    EXPECT_TRUE(d.view().edits().settings.locked.empty());
    d.click(d.window->column(), QStringLiteral("setting.up"));
    const auto nameAt = [&](std::size_t i) { return game().settings[i].id; };
    EXPECT_EQ(nameAt(1), second);
    EXPECT_EQ(nameAt(2), first);
    const auto all = game().settings.size();
    d.click(d.window->column(), QStringLiteral("setting.remove"));
    EXPECT_EQ(game().settings.size(), all - 1);
    EXPECT_EQ(d.window->column()->drawing().hot(QStringLiteral("setting.levels")), nullptr);
    d.studio.undo();
    EXPECT_EQ(nameAt(1), second);
}

TEST(BenchTest, AnUpscalersLevelsSayWhatTheyRender) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.click(d.window->easel(), QStringLiteral("level.upscaling"));
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("spatial 2.0, learned 1.5, off"));
    const auto& levels = d.view().session.game()->setting("upscaling")->levels;
    ASSERT_EQ(levels.size(), 3U);
    EXPECT_EQ(levels[0].upscaler, game::UpscalerKind::Spatial);
    EXPECT_NEAR(*levels[1].scale, 1 / 1.5, 1e-12);
    EXPECT_GT(levels[1].picture, levels[0].picture);
    EXPECT_EQ(d.view().edits().settings.baseline.at("upscaling"), "off");
    d.studio.edited(QStringLiteral("game.add"), QStringLiteral("Second upscaler: temporal 1.7, off"));
    EXPECT_TRUE(d.view().session.game()->settings.back().changesSize());
    expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), "an upscaler");
}

TEST(BenchTest, WaysToRunAndSizesOfTheOutputAreTyped) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.studio.edited(QStringLiteral("game.add"), QStringLiteral("Renderer: one of old, new"));
    d.studio.edited(QStringLiteral("game.add"), QStringLiteral("Resolution: 1280x720, 1920x1080, 2560x1440"));
    const auto game = [&] { return *d.view().session.game(); };
    const auto renderer = game().settings[game().settings.size() - 2].id, output = game().settings.back().id;
    EXPECT_TRUE(game().setting(renderer)->unordered);
    EXPECT_TRUE(game().setting(output)->output);
    EXPECT_EQ(d.view().edits().settings.baseline.at(renderer), "old") << "the first that was said";
    EXPECT_EQ(d.view().edits().settings.baseline.at(output), "2560x1440");
    d.click(d.window->easel(), QStringLiteral("level.") + QString::fromStdString(renderer));
    const auto* field = d.window->column()->drawing().hot(QStringLiteral("setting.levels"));
    ASSERT_NE(field, nullptr);
    EXPECT_EQ(field->edit, QStringLiteral("one of old, new"));
    expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), "ways to run");
    d.click(d.window->easel(), QStringLiteral("level.") + QString::fromStdString(output));
    EXPECT_TRUE(shows(d.window->column(), QStringLiteral("sizes of the output"))) << "it is seen as what it is";
    d.click(d.window->easel(), QStringLiteral("level.") + QString::fromStdString(renderer));
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("one of old, new, newest"));
    EXPECT_EQ(game().setting(renderer)->levels.size(), 3U);
    EXPECT_TRUE(game().setting(renderer)->unordered);
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("one of old"));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("one of native"))) << d.view().message.toStdString();
    EXPECT_EQ(game().setting(renderer)->levels.size(), 3U) << "as before";
    expectAllTidy(d, "ways to run");
    d.studio.undo();
    d.studio.undo();
    EXPECT_EQ(d.view().session.game()->setting(output), nullptr) << "undone";
}

TEST(BenchTest, ASettingOfTheOutputTakesThePlaceOfTheState) {
    for (const bool asSetting : {false, true}) {
        const support::TemporaryFolder folder;
        Driven d(folder);
        d.drop({support::dataFile("machines/sedge-laptop.toml"),
                support::dataFile(asSetting ? "games/peat-barge.toml" : "games/tin-harbour.toml")});
        d.studio.go(StationId{"bench"});
        const auto& drawing = d.window->easel()->drawing();
        ASSERT_NE(drawing.hot(QStringLiteral("state.sync")), nullptr);
        EXPECT_EQ(drawing.hot(QStringLiteral("state.resolution")) == nullptr, asSetting);
    }
}

TEST(BenchTest, WhatLevelsAskOfOthersIsTyped) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    const auto game = [&] { return *d.view().session.game(); };
    d.click(d.window->easel(), QStringLiteral("level.shadows"));
    ASSERT_NE(d.window->column()->drawing().hot(QStringLiteral("setting.rules")), nullptr);
    const auto highest = QString::fromStdString(game().setting("shadows")->levels.back().name);
    const auto other = *game().setting("textures");
    const auto label = QString::fromStdString(other.label), least = QString::fromStdString(other.levels.front().name);
    d.studio.edited(QStringLiteral("setting.rules"), QStringLiteral("%1 needs %2: %3").arg(highest, label, least));
    d.rest();
    ASSERT_EQ(game().rules.size(), 1U);
    EXPECT_EQ(game().rules.front().other, "textures");
    const auto* field = d.window->column()->drawing().hot(QStringLiteral("setting.rules"));
    ASSERT_NE(field, nullptr);
    EXPECT_TRUE(field->edit.value_or(QString()).contains(QStringLiteral(" needs ") + label));
    expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), "a rule");
    // Refused as a whole, and said.
    d.studio.edited(QStringLiteral("setting.rules"), QStringLiteral("%1 needs nonsense: high").arg(highest));
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("nonsense"))) << d.view().message.toStdString();
    EXPECT_EQ(game().rules.size(), 1U);
    // Values as found that go against it are told.
    d.studio.stepped(QStringLiteral("level.textures"), -1);
    d.studio.stepped(QStringLiteral("level.textures"), 1);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("In this game"))) << d.view().message.toStdString();
    // So is a choice made by hand in Layers.
    d.studio.edited(QStringLiteral("brief.target"), QStringLiteral("60"));
    ASSERT_FALSE(d.view().message.contains(QStringLiteral("In this game")));
    d.studio.stepped(QStringLiteral("slab.gpu.textures"), -1);
    d.studio.stepped(QStringLiteral("slab.gpu.textures"), 1);
    ASSERT_TRUE(d.view().edits().settings.choice.has_value());
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("In this game"))) << d.view().message.toStdString();
    // It goes with the level that it names, and comes back with it.
    d.studio.edited(QStringLiteral("setting.levels"), QStringLiteral("plain, finer"));
    EXPECT_TRUE(game().rules.empty());
    EXPECT_EQ(d.view().edits().settings.baseline.at("shadows"), "finer") << "the level in use is gone";
    d.studio.undo();
    EXPECT_EQ(game().rules.size(), 1U);
    d.studio.edited(QStringLiteral("setting.rules"), QString());
    EXPECT_TRUE(game().rules.empty()) << "an empty text is no rule";
}

TEST(BenchTest, TheStateIsSaidAndEveryOrderCarriesIt) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::dataFile("machines/curlew-pocket.toml"), support::dataFile("games/tin-harbour.toml")});
    d.studio.go(StationId{"bench"});
    d.click(d.window->easel(), QStringLiteral("state.conditions.supply"));
    EXPECT_EQ(d.view().edits().subject.state.conditions.supply, run::Supply::Battery);
    d.click(d.window->easel(), QStringLiteral("state.conditions.fans"));
    d.studio.edited(QStringLiteral("state.resolution"), QStringLiteral("640 × 400"));
    d.studio.edited(QStringLiteral("state.conditions.warm_up_seconds"), QStringLiteral("20"));
    EXPECT_TRUE(d.view().message.isEmpty()) << d.view().message.toStdString();
    expectAllTidy(d, "a state of its own");
    ASSERT_TRUE(d.spaceUntil(Action::RecordBaseline));
    const auto& facts = *d.view().session.facts;
    const auto* order = d.view().session.orderOf(facts.runs.back());
    ASSERT_NE(order, nullptr);
    EXPECT_EQ(order->conditions.supply, run::Supply::Battery);
    EXPECT_EQ(order->conditions.fans, run::FanProfile::Quiet);
    EXPECT_EQ(order->conditions.warmUpSeconds, 20);
    EXPECT_EQ(order->variant.resolution, (display::Resolution{640, 400}));
    const auto steps = wording::orderSteps(d.view().w, d.view().session, *order);
    EXPECT_TRUE(std::any_of(steps.begin(), steps.end(), [](const auto& s) { return s == "Power: battery."; }));
}

TEST(BenchTest, APartIsCutFromTheRibbonAndFoundInEveryRun) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    for (const double ms : {16.0, 17.0})
        d.drop({folder.write(fmt::format("run{}.csv", ms), frameLog(std::vector<double>(3600, ms)))});
    d.studio.go(StationId{"runs"});
    d.studio.select(TimeSpan{0, 20000}, false);
    d.rest();
    d.key(Qt::Key_P);
    d.rest();
    EXPECT_EQ(d.view().session.route()->parts.size(), 2U);
    for (const auto& run : d.view().session.facts->runs)
        EXPECT_EQ(d.view().of<results::RunFigures>(run.id)->parts.size(), 2U);
    d.studio.edited(QStringLiteral("game.route"), QStringLiteral("yard 20, street 40")); // of Bench
    d.studio.go(StationId{"bench"});
    d.studio.edited(QStringLiteral("game.route"), QStringLiteral("yard 20, street 40"));
    d.rest();
    EXPECT_EQ(d.view().session.route()->parts[1].name, "street");
    const auto& parts = d.view().of<results::RunFigures>(d.view().session.facts->runs.front().id)->parts;
    ASSERT_EQ(parts.size(), 2U);
    EXPECT_EQ(parts[0].part, "yard");
    EXPECT_NEAR(static_cast<double>(parts[0].frames), 1200, 2);
}

TEST(BenchTest, AnotherGameBeginsASessionAndTakesTheMachineAlong) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.studio.edited(QStringLiteral("machine.name"), QStringLiteral("Quiet box"));
    d.studio.edited(QStringLiteral("machine.vram"), QStringLiteral("8"));
    d.drop({folder.write("run.csv", frameLog(std::vector<double>(3600, 16.0)))});
    const auto first = d.view().session.id;
    ASSERT_EQ(d.view().session.facts->runs.size(), 1U);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.rest();
    EXPECT_NE(d.view().session.id, first);
    EXPECT_TRUE(d.view().session.facts->runs.empty());
    ASSERT_NE(d.view().session.machine(), nullptr);
    EXPECT_EQ(machineOf(d).name, "Quiet box");
    EXPECT_EQ(machineOf(d).gpuMemory, Mebibytes(8192));
    ASSERT_NE(d.view().session.game(), nullptr);
    const auto& heads = d.view().logbookSessions;
    EXPECT_TRUE(std::any_of(heads.begin(), heads.end(), [&](const auto& head) { return head.id == first; }))
        << "the first one stays";
}

namespace {

/// A desktop's files in a folder inside the test's own, where the window reads its machine.
struct SystemFolder {
    explicit SystemFolder(const support::TemporaryFolder& folder) {
        support::desktopIn(files);
        std::filesystem::create_directory_symlink(files.root(), folder.path("system"));
    }
    support::TemporaryFolder files;
};

} // namespace

TEST(BenchTest, ThisMachineIsReadWithOnePress) {
    const support::TemporaryFolder folder;
    const SystemFolder system(folder);
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier); // a game of one's own: the machine is this one
    ASSERT_NE(d.view().session.machine(), nullptr);
    EXPECT_EQ(machineOf(d).cpu, "Thornbury 8");
    EXPECT_EQ(machineOf(d).gpu, "Marl 8");
    EXPECT_NE(machineOf(d).readAt, 0);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("only root"))) << d.view().message.toStdString();
    EXPECT_TRUE(shows(d.window->easel(), QStringLiteral("Full memory access")));
    EXPECT_TRUE(shows(d.window->easel(), QStringLiteral("the narrow place")));
    expectAllTidy(d, "read");
    // What is typed stays typed; reading again takes what has changed, and keeps what no file tells.
    support::put(system.files, "sys/bus/pci/devices/0000:01:00.0/current_link_width", "16\n");
    d.studio.go(StationId{"bench"});
    d.rest();
    d.click(d.window->easel(), QStringLiteral("machine.read"));
    EXPECT_EQ(machine::numberIn(machineOf(d).facts, "gpu.link_lanes"), 16);
    d.studio.undo();
    d.rest();
    EXPECT_EQ(machine::numberIn(machineOf(d).facts, "gpu.link_lanes"), 8) << "reading is a step of undo";
    // Logs that are looked at meanwhile do not take its place: it ends, and says so.
    support::put(system.files, "sys/bus/pci/devices/0000:01:00.0/current_link_width", "4\n");
    openReading(d.studio, support::dataFile("example-log.csv"));
    d.studio.activate(QStringLiteral("machine.read"));
    for (int i = 0; i < 3; ++i) openReading(d.studio, support::dataFile("example-log.csv"));
    d.rest();
    EXPECT_FALSE(d.studio.state<BenchState>().reading);
    EXPECT_EQ(machine::numberIn(machineOf(d).facts, "gpu.link_lanes"), 4);
}

TEST(BenchTest, APointIsTickedWithItsDateAndOpensAgain) {
    const support::TemporaryFolder folder;
    const SystemFolder system(folder);
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    d.studio.go(StationId{"bench"});
    d.rest();
    ASSERT_TRUE(d.view().state<BenchState>().checks);
    d.click(d.window->easel(), QStringLiteral("point.driver"));
    EXPECT_TRUE(shows(d.window->column(), QStringLiteral("Driver current")));
    expectAllTidy(d, "a point");
    d.studio.go(StationId{"bench"});
    d.rest();
    d.click(d.window->column(), QStringLiteral("tick.done"));
    EXPECT_TRUE(shows(d.window->column(), QStringLiteral("You said so")));
    const auto before = countsOf(d.view());
    // It is in the file, and comes back with it.
    d.studio.openSession(d.view().session.id);
    d.rest();
    EXPECT_EQ(d.view().edits().checks.ticks.count("driver"), 1U);
    EXPECT_EQ(countsOf(d.view()).fine, before.fine);
    // Another driver: open again.
    support::put(system.files, "sys/bus/pci/devices/0000:01:00.0/uevent", "DRIVER=marl-next\n");
    d.studio.go(StationId{"bench"});
    d.rest();
    d.studio.activate(QStringLiteral("machine.read"));
    d.rest();
    EXPECT_EQ(countsOf(d.view()).fine, before.fine - 1);
    d.key(Qt::Key_V);
    EXPECT_FALSE(d.view().state<BenchState>().checks) << "V shows the settings again";
    d.studio.undo();
    d.studio.undo();
    d.rest();
    EXPECT_TRUE(d.view().edits().checks.ticks.empty()) << "a tick is a step of undo";
}

TEST(BenchTest, WhereNothingCanBeReadItIsTyped) {
    const support::TemporaryFolder folder;
    std::filesystem::create_directory(folder.path("system"));
    Driven d(folder);
    d.key(Qt::Key_N, Qt::ControlModifier);
    ASSERT_NE(d.view().session.machine(), nullptr);
    EXPECT_EQ(machineOf(d).readAt, 0);
    EXPECT_FALSE(d.view().message.isEmpty());
    EXPECT_TRUE(shows(d.window->easel(), QStringLiteral("not set")));
}

TEST(BenchTest, ReadInThePracticeItIsPlayedByHandAndOneUndoBringsThePracticeBack) {
    const support::TemporaryFolder folder;
    const SystemFolder system(folder);
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    ASSERT_TRUE(d.view().canSimulate);
    d.studio.go(StationId{"bench"});
    d.rest();
    d.click(d.window->easel(), QStringLiteral("machine.read"));
    EXPECT_EQ(machineOf(d).cpu, "Thornbury 8");
    EXPECT_EQ(d.view().edits().subject.rig, document::RigKind::Hand);
    // The one before is kept, and found by its name.
    std::vector<Findable> found;
    stationOf(StationId{"bench"}).find(d.studio, found);
    const auto before = std::find_if(found.begin(), found.end(), [](const Findable& f) {
        return f.kind == QStringLiteral("machine") && f.name == QStringLiteral("Thornbury tower");
    });
    ASSERT_NE(before, found.end());
    before->go();
    d.rest();
    EXPECT_TRUE(machineOf(d).simulated);
    d.studio.undo();
    d.rest();
    d.key(Qt::Key_Space);
    d.studio.undo();
    d.rest();
    EXPECT_TRUE(machineOf(d).simulated);
    EXPECT_EQ(d.view().edits().subject.rig, document::RigKind::Simulated);
}

TEST(BenchTest, AStylesUsualStartIsOnePressAndOneUndo) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    d.studio.go(StationId{"bench"});
    const auto& edits = [&]() -> const document::Edits& { return d.view().edits(); };
    ASSERT_TRUE(edits().goal.brief.has_value());
    d.studio.activate(QStringLiteral("style.quiet"));
    d.studio.go(StationId{"bench"});
    EXPECT_EQ(d.window->column()->drawing().hot(QStringLiteral("startset")), nullptr) << "it has none";
    d.studio.activate(QStringLiteral("style.competitive"));
    d.studio.go(StationId{"bench"});
    const auto before = edits().settings.baseline;
    d.click(d.window->column(), QStringLiteral("startset"));
    const auto& game = *d.view().session.game();
    EXPECT_EQ(edits().settings.baseline, game::valuesOf(*game::styleSet("competitive"), game, before));
    EXPECT_NE(edits().settings.baseline, before);
    EXPECT_TRUE(d.view().message.contains(QStringLiteral("at its lowest"))) << d.view().message.toStdString();
    EXPECT_TRUE(shows(d.window->column(), QStringLiteral("in use")));
    expectAllTidy(d, "a usual start");
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(edits().settings.baseline, before);
}
