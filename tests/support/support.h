// SPDX-License-Identifier: GPL-3.0-or-later
// What many tests need: folders of their own, the shipped descriptions, small captures, and a session walked to a step.
#pragma once

#include <filesystem>
#include <gtest/gtest.h>
#include <impasto/document/recipe.h>
#include <impasto/path/perform.h>
#include <impasto/path/record.h>
#include <impasto/rig_sim/simulated.h>
#include <impasto/wording/errors.h>
#include <impasto/wording/path.h>

namespace impasto::capture {
std::optional<double> trackMaximum(const Capture& capture, Sensor sensor);
} // namespace impasto::capture

namespace impasto::support {

/// A fresh folder, removed at the end.
class TemporaryFolder {
  public:
    TemporaryFolder();
    ~TemporaryFolder();
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;
    [[nodiscard]] std::filesystem::path path(const std::string& name) const { return m_path / name; }
    [[nodiscard]] const std::filesystem::path& root() const { return m_path; }
    [[nodiscard]] std::filesystem::path write(const std::string& name, std::string_view bytes) const;

  private:
    std::filesystem::path m_path;
};

const std::filesystem::path& sourceDir();                // the checkout
std::filesystem::path dataFile(const std::string& name); // below data/
std::filesystem::path testFile(const std::string& name); // below tests/data/
std::string textOf(const std::filesystem::path& file);

/// Every description that the functions below read, whole: what the simulator plays.
const description::Originals& originals();
machine::Machine machineFrom(const std::string& text);
game::Game gameFrom(const std::string& text);
machine::Machine tower();
game::Game saltmarsh();
machine::Machine machineNamed(const std::string& file);
game::Game gameNamed(const std::string& file);
/// Shipped descriptions with some of their text replaced: first by second, once each; it must be there.
using Changes = std::vector<std::pair<std::string, std::string>>;
machine::Machine machineWith(const std::string& file, const Changes& changes);
game::Game gameWith(const std::string& file, const Changes& changes);

/// A clock that stands still.
Clock fixedClock();

/// A small game of three settings, for tables: two levels each, "heavy" (GPU), "crowd" (CPU), "taste" (no weight).
game::Game smallGame();

/// A session store with the demo's machine, game and brief.
document::SessionStore demoStore(std::uint64_t seed = 7);

/// Walks a session by its own next steps on the simulated rig until the action comes next, at most 40 steps.
class Walk {
  public:
    explicit Walk(document::SessionStore start, std::uint64_t seed = 11)
        : store(std::move(start)), ids(seededIdSource(seed)) {}
    path::NextStep next();
    /// One step; true when it could be performed.
    bool step();
    bool until(path::Action action);
    const results::Results& results();

    document::SessionStore store;
    IdSource ids;
    pace::CapRules rules;

  private:
    results::ResultsCache m_cache;
    results::Results m_results;
};

/// The demo, walked until the action comes next for the first time; once in a program, and its results with it.
Walk walkedDemo(path::Action until);

/// A capture of constant work that alternates a little, in parts.
capture::Capture flatCapture(double frameMs, std::size_t frames, std::optional<double> cpuMs = {},
                             std::optional<double> gpuMs = {});

/// SHA-free content mark of a file.
std::uint64_t fileMark(const std::filesystem::path& file);

} // namespace impasto::support
