// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cstdlib>
#include <impasto/base/file.h>
#include <impasto/base/fingerprint.h>

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

machine::Machine machineWith(const std::string& file, const Changes& changes) {
    const auto parsed = machine::parseMachine(changed(textOf(dataFile("machines/" + file)), changes), file);
    EXPECT_TRUE(parsed.has_value());
    return *parsed;
}

game::Game gameWith(const std::string& file, const Changes& changes) {
    const auto parsed = game::parseGame(changed(textOf(dataFile("games/" + file)), changes), file);
    EXPECT_TRUE(parsed.has_value());
    return *parsed;
}

machine::Machine machineNamed(const std::string& file) {
    auto m = machine::parseMachine(textOf(dataFile("machines/" + file)), file);
    EXPECT_TRUE(m.has_value()) << report::Wording().error(m.error()).all();
    return *m;
}

game::Game gameNamed(const std::string& file) {
    auto g = game::parseGame(textOf(dataFile("games/" + file)), file);
    EXPECT_TRUE(g.has_value()) << report::Wording().error(g.error()).all();
    return *g;
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
    g.text = game::toToml(g);
    return g;
}

session::SessionStore demoStore(std::uint64_t seed) {
    session::Session start;
    start.id = {seededIdSource(seed)()};
    auto facts = std::make_shared<session::Facts>();
    facts->seed = seed;
    start.facts = facts;
    session::SessionStore store(start);
    const auto recipe = session::readRecipe(dataFile("demo.toml"));
    EXPECT_TRUE(recipe.has_value());
    EXPECT_TRUE(session::applyRecipe(store, *recipe).has_value());
    return store;
}

const session::Results& Walk::results() {
    m_results = session::compute(store.session(), m_cache, rules);
    return m_results;
}

session::NextStep Walk::next() {
    return session::nextStep(store.session(), results());
}

bool Walk::step() {
    const auto now = next();
    const auto performed = session::perform(store, m_results, now, ids, fixedClock());
    if (!performed) {
        ADD_FAILURE() << report::Wording().error(performed.error()).all();
        return false;
    }
    if (performed->toRecord.empty()) return true;
    const auto rig = rig::simulatedRig(*store.session().machine(), *store.session().game());
    if (!rig) return false;
    const session::RecordHooks hooks{{}, {}, [this](run::Run run) { session::attach(store, std::move(run)); }};
    const auto done = session::recordAll(**rig, performed->toRecord, session::rigStateOf(store.session()), hooks, {},
                                         ids, fixedClock());
    if (!done) ADD_FAILURE() << report::Wording().error(done.error()).all();
    return done.has_value();
}

bool Walk::until(session::Action action) {
    for (int i = 0; i < 40; ++i) {
        if (next().action == action) return true;
        if (!step()) return false;
    }
    return false;
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
