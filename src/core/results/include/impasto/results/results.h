// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that follows from a session: pure functions of it, recomputed, never edited, never loaded as truth.
#pragma once

#include <impasto/results/keeping.h>
#include <impasto/results/stage.h>

namespace impasto::results {

/// Every stage, those that others use before them.
const std::vector<Stage>& allStages();

/// Results remembered by what they were made from, least recently used out; what the newest computation used stays. A
/// stage that failed is tried again by the next computation.
/// Not thread-safe: one a thread.
class ResultsCache {
  public:
    explicit ResultsCache(std::size_t mostBytes = std::size_t{512} << 20U) : m_mostBytes(mostBytes) {}

    struct Entry {
        Made made;
        std::uint64_t used = 0; // by which computation
    };
    struct Key {
        std::size_t stage = 0;
        RunId run;
        std::uint64_t mark = 0;
        friend auto operator<=>(const Key&, const Key&) = default;
    };
    [[nodiscard]] std::size_t bytes() const { return m_bytes; }
    /// What is not remembered is looked for there from now on.
    void keepIn(Keeping keeping) { m_keeping = std::move(keeping); }

  private:
    friend class Computation;
    void begin() { ++m_now; }
    void forgetKept(); // and all that is remembered, since some of it may be what was kept
    Entry* find(const Key& key);
    void keep(const Key& key, Made made);
    void bound();

    std::map<Key, Entry> m_entries;
    Keeping m_keeping;
    std::size_t m_bytes = 0, m_mostBytes;
    std::uint64_t m_now = 0;
};

/// Told what was made anew, neither remembered nor kept: a stage's id, and the run where it works for one. May be
/// empty.
using Told = std::function<void(std::string_view stage, const std::optional<RunId>& run)>;

/// Told around the work on one run, on the thread that does it. Each may be empty.
struct Watch {
    std::function<void(const RunId&)> begins, ends;
    /// A run that is computed before all others, and what is known by then: what rests on no other run.
    std::optional<RunId> first = {};
    std::function<void(const Results&)> ready = {};
};

/// All results. Where one that was kept is not what is computed, nothing that was kept counts: all is forgotten, made
/// anew, and told as an error of the stage. When cancelled, what was ready by then; stages that do not depend on one
/// another run side by side. A stage that throws is an error of its own (Results::errors) and leaves the others.
Results compute(const document::Session& session, ResultsCache& cache, const pace::CapRules& rules,
                const Context& context = {}, const Told& told = {}, const Watch& watch = {});
/// The same of other stages, for tests.
Results computeWith(std::span<const Stage> stages, const document::Session& session, ResultsCache& cache,
                    const pace::CapRules& rules, const Context& context, const Told& told, const Watch& watch = {});

} // namespace impasto::results
