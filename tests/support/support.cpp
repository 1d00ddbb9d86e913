// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>

#include <cstdlib>
#include <impasto/base/file.h>
#include <impasto/base/fingerprint.h>

namespace impasto::capture {

std::optional<double> trackMaximum(const Capture& capture, Sensor sensor) {
    const Track* track = capture.track(sensor);
    std::optional<double> top;
    if (track != nullptr)
        for (const float v : track->values)
            if (std::isfinite(v) && (!top || static_cast<double>(v) > *top)) top = static_cast<double>(v);
    return top;
}

} // namespace impasto::capture

namespace impasto::support {

namespace fs = std::filesystem;

TemporaryFolder::TemporaryFolder() {
    std::string name = (fs::temp_directory_path() / "impasto-test-XXXXXX").string();
    if (::mkdtemp(name.data()) == nullptr) std::abort();
    m_path = name;
}

TemporaryFolder::~TemporaryFolder() {
    std::error_code ignored;
    fs::remove_all(m_path, ignored);
}

fs::path TemporaryFolder::write(const std::string& name, std::string_view bytes) const {
    const auto file = path(name);
    EXPECT_TRUE(writeFileAtomically(file, bytes).has_value());
    return file;
}

const fs::path& sourceDir() {
    static const fs::path dir = IMPASTO_SOURCE_DIR;
    return dir;
}

fs::path dataFile(const std::string& name) {
    return sourceDir() / "data" / name;
}
fs::path testFile(const std::string& name) {
    return sourceDir() / "tests/data" / name;
}

std::string textOf(const fs::path& file) {
    auto text = readFile(file);
    EXPECT_TRUE(text.has_value()) << file;
    return text.value_or(std::string());
}

namespace {

std::string changed(std::string text, const Changes& changes) {
    for (const auto& [from, to] : changes) {
        const auto at = text.find(from);
        EXPECT_NE(at, std::string::npos) << from;
        if (at != std::string::npos) text.replace(at, from.size(), to);
    }
    return text;
}

} // namespace

namespace {

description::Originals& kept() {
    static description::Originals all;
    return all;
}

} // namespace

const description::Originals& originals() {
    return kept();
}

machine::Machine machineFrom(const std::string& text) {
    kept().add(text);
    const auto parsed = machine::parseMachine(text, "test");
    EXPECT_TRUE(parsed.has_value()) << wording::error(wording::Words(), parsed.error()).all();
    return *parsed;
}

game::Game gameFrom(const std::string& text) {
    kept().add(text);
    const auto parsed = game::parseGame(text, "test");
    EXPECT_TRUE(parsed.has_value()) << wording::error(wording::Words(), parsed.error()).all();
    return *parsed;
}

machine::Machine machineWith(const std::string& file, const Changes& changes) {
    return machineFrom(changed(textOf(dataFile("machines/" + file)), changes));
}

game::Game gameWith(const std::string& file, const Changes& changes) {
    return gameFrom(changed(textOf(dataFile("games/" + file)), changes));
}

machine::Machine machineNamed(const std::string& file) {
    return machineWith(file, {});
}

game::Game gameNamed(const std::string& file) {
    return gameWith(file, {});
}

machine::Machine tower() {
    return machineNamed("thornbury-tower.toml");
}
game::Game saltmarsh() {
    return gameNamed("saltmarsh-courier.toml");
}

Clock fixedClock() {
    return [] { return std::chrono::sys_seconds(std::chrono::seconds(1780000000)); };
}

game::Game smallGame() {
    game::Game g;
    g.name = "Small";
    g.version = "1";
    g.settings = {{"heavy", "Heavy", 2, false, true, false, {{"low", 0.5, {}}, {"high", 1.0, {}}}},
                  {"crowd", "Crowd", 1, true, false, false, {{"few", 0.5, {}}, {"many", 1.0, {}}}},
                  {"taste", "Taste", 0, false, false, false, {{"off", 0.0, {}}, {"on", 1.0, {}}}}};
    g.presets = {{"high", {{"heavy", "high"}, {"crowd", "many"}, {"taste", "on"}}}};
    g.routes = {{"lap", {{"first", 10}, {"second", 30}}}};
    return gameFrom(game::toToml(g));
}

document::SessionStore demoStore(std::uint64_t seed) {
    document::Session start;
    start.id = {seededIdSource(seed)()};
    auto facts = std::make_shared<document::Facts>();
    facts->seed = seed;
    start.facts = facts;
    document::SessionStore store(start);
    const auto recipe = document::readRecipe(dataFile("demo.toml"), kept());
    EXPECT_TRUE(recipe.has_value());
    EXPECT_TRUE(document::applyRecipe(store, *recipe).has_value());
    return store;
}

const results::Results& Walk::results() {
    m_results = results::compute(store.session(), m_cache, rules);
    return m_results;
}

path::NextStep Walk::next() {
    return path::nextStep(store.session(), results());
}

bool Walk::step() {
    const auto now = next();
    const auto performed = path::perform(store, m_results, now, ids, fixedClock());
    if (!performed) {
        ADD_FAILURE() << wording::error(wording::Words(), performed.error()).all();
        return false;
    }
    if (performed->toRecord.empty()) return true;
    const auto rig = rig_sim::simulatedRig(originals(), *store.session().machine(), *store.session().game());
    if (!rig) return false;
    const path::RecordHooks hooks{{}, {}, [this](run::Run run) { store.addRuns({std::move(run)}); }};
    const auto done =
        path::recordAll(**rig, performed->toRecord, path::rigStateOf(store.session()), hooks, {}, ids, fixedClock());
    if (!done) ADD_FAILURE() << wording::error(wording::Words(), done.error()).all();
    return done.has_value();
}

bool Walk::until(path::Action action) {
    for (int i = 0; i < 40; ++i) {
        if (next().action == action) return true;
        if (!step()) return false;
    }
    return false;
}

Walk walkedDemo(path::Action until) {
    static const std::map<path::Action, Walk> all = [] {
        std::map<path::Action, Walk> out;
        Walk walk(demoStore());
        for (int i = 0; i < 40; ++i) {
            const auto action = walk.next().action;
            out.emplace(action, walk);
            if (action == path::Action::Done || !walk.step()) break;
        }
        return out;
    }();
    return all.at(until);
}

capture::Capture flatCapture(double frameMs, std::size_t frames, std::optional<double> cpuMs,
                             std::optional<double> gpuMs) {
    capture::Capture c;
    c.kind = capture::IntervalKind::Displayed;
    const auto filled = [frames](double v) {
        std::vector<double> out(frames, v);
        for (std::size_t i = 0; i < frames; i += 2) out[i] *= 1.01;
        for (std::size_t i = 1; i < frames; i += 2) out[i] *= 0.99;
        return out;
    };
    c.framesMs = filled(frameMs);
    if (cpuMs) c.cpuWorkMs = filled(*cpuMs);
    if (gpuMs) c.gpuWorkMs = filled(*gpuMs);
    return c;
}

std::uint64_t fileMark(const fs::path& file) {
    return Fingerprint().add(textOf(file)).value();
}

} // namespace impasto::support
