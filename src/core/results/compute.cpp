// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/results.h>

#include <atomic>
#include <impasto/base/fingerprint.h>
#include <impasto/base/guard.h>
#include <impasto/base/parallel.h>

#include "kept.h"

namespace impasto::results {

const void* Results::find(std::type_index type, const RunId& run) const {
    const auto it = m_values.find({type, run});
    return it == m_values.end() ? nullptr : it->second.get();
}

std::shared_ptr<const void> Results::owner(std::type_index type, const RunId& run) const {
    const auto it = m_values.find({type, run});
    return it == m_values.end() ? nullptr : it->second;
}

ResultsCache::Entry* ResultsCache::find(const Key& key) {
    const auto it = m_entries.find(key);
    if (it == m_entries.end()) return nullptr;
    it->second.used = m_now;
    return &it->second;
}

void ResultsCache::keep(const Key& key, Made made) {
    m_bytes += made.bytes;
    m_entries.insert_or_assign(key, Entry{std::move(made), m_now});
}

void ResultsCache::forgetKept() {
    if (m_keeping.forget) m_keeping.forget();
    m_keeping = {};
    m_entries.clear();
    m_bytes = 0;
}

void ResultsCache::bound() {
    while (m_bytes > m_mostBytes) {
        const auto oldest = std::min_element(m_entries.begin(), m_entries.end(), [](const auto& a, const auto& b) {
            return a.second.used < b.second.used;
        });
        if (oldest == m_entries.end() || oldest->second.used == m_now) return;
        m_bytes -= oldest->second.made.bytes;
        m_entries.erase(oldest);
    }
}

/// One computation of all results of a session.
class Computation {
  public:
    Computation(std::span<const Stage> stages, const document::Session& session, ResultsCache& cache,
                const pace::CapRules& rules, const Context& context, const Told& told, const Watch& watch)
        : m_stages(stages), m_session(session), m_cache(cache), m_rules(rules), m_context(context), m_told(told),
          m_watch(watch) {
        m_results.revision = session.revision;
        m_cache.begin();
    }

    /// What rests on this run alone, and what rests on none.
    Results ahead(const RunId& run) {
        m_only = run;
        return all();
    }

    Results all() {
        const auto waves = wavesOf();
        for (std::size_t w = 0; w < waves.size() && !m_context.cancelled(); ++w) {
            auto tasks = tasksOf(waves[w]);
            perform(tasks, static_cast<double>(w), static_cast<double>(waves.size()));
            for (auto& task : tasks) take(task);
        }
        m_cache.bound();
        if (m_distrusted)
            m_cache.forgetKept();
        else if (!m_toKeep.empty() && m_cache.m_keeping.keep)
            m_cache.m_keeping.keep(m_toKeep);
        return std::move(m_results);
    }
    /// The stage whose kept result was not what is computed; empty: none.
    [[nodiscard]] std::string_view wrong() const { return m_wrong; }
    void blame(std::string_view stage) {
        m_results.m_errors.insert_or_assign(
            stage, Error{ErrorCode::Internal, "what an earlier start computed of a run is not what it is now", {}});
    }

  private:
    using ResultKey = Results::Key;
    struct Task {
        std::size_t stage = 0;
        std::optional<RunId> run;
        ResultsCache::Key key;
        std::optional<Result<Made>> made; // not what the cache had
        bool kept = false;                // nor made anew
    };

    /// Stages by how many others come before them.
    std::vector<std::vector<std::size_t>> wavesOf() const {
        std::map<std::type_index, std::size_t> depth;
        std::vector<std::vector<std::size_t>> waves;
        for (std::size_t s = 0; s < m_stages.size(); ++s) {
            std::size_t wave = 0;
            const auto after = [&](std::type_index type) { wave = std::max(wave, depth.at(type) + 1); };
            for (const auto& use : m_stages[s].uses) {
                after(use.what);
                if (use.ofRuns) after(*use.ofRuns);
            }
            if (m_stages[s].each) after(*m_stages[s].each);
            depth[m_stages[s].makes] = wave;
            waves.resize(std::max(waves.size(), wave + 1));
            waves[wave].push_back(s);
        }
        return waves;
    }

    /// Without anything of several runs.
    [[nodiscard]] bool restsOnNoList(const Stage& stage) const {
        return std::all_of(stage.uses.begin(), stage.uses.end(), [&](const Use& use) {
            const auto made = std::find_if(m_stages.begin(), m_stages.end(),
                                           [&](const Stage& other) { return other.makes == use.what; });
            return !use.ofRuns && made != m_stages.end() && (stage.each || !made->each) && restsOnNoList(*made);
        });
    }

    [[nodiscard]] const std::vector<RunId>& idsOf(std::type_index list) const {
        static const std::vector<RunId> none;
        const auto it = m_ids.find(list);
        return it == m_ids.end() || it->second == nullptr ? none : *it->second;
    }

    [[nodiscard]] std::uint64_t markOfResult(std::type_index type, const RunId& run) const {
        const auto it = m_marks.find({type, run});
        return it == m_marks.end() ? 0 : it->second;
    }

    [[nodiscard]] ResultsCache::Key keyOf(std::size_t s, const std::optional<RunId>& run) const {
        const auto& stage = m_stages[s];
        Fingerprint f;
        for (const auto part : stage.reads) f.add(markOf(part, m_session, m_rules, run));
        for (const auto& use : stage.uses) {
            if (!use.ofRuns) {
                f.add(markOfResult(use.what, stage.each && run && perRun(use.what) ? *run : RunId{}));
                continue;
            }
            for (const auto& id : idsOf(*use.ofRuns)) f.add(id.hex()).add(markOfResult(use.what, id));
        }
        return {s, run.value_or(RunId{}), f.value()};
    }

    [[nodiscard]] bool perRun(std::type_index type) const {
        const auto it =
            std::find_if(m_stages.begin(), m_stages.end(), [type](const Stage& s) { return s.makes == type; });
        return it != m_stages.end() && it->each;
    }

    std::vector<Task> tasksOf(const std::vector<std::size_t>& wave) const {
        std::vector<Task> out;
        for (const auto s : wave) {
            if (m_only && !restsOnNoList(m_stages[s])) continue;
            if (!m_stages[s].each) {
                out.push_back({s, {}, keyOf(s, {}), {}});
                continue;
            }
            for (const auto& id : idsOf(*m_stages[s].each))
                if (!m_only || *m_only == id) out.push_back({s, id, keyOf(s, id), {}});
        }
        return out;
    }

    void perform(std::vector<Task>& tasks, double wave, double waves) {
        std::vector<Task*> open;
        for (auto& task : tasks)
            if (m_cache.find(task.key) == nullptr) open.push_back(&task);
        std::atomic<std::size_t> done = 0;
        inParallel(open.size(), [&](std::size_t i) {
            if (m_context.cancelled()) return;
            auto& task = *open[i];
            const auto& stage = m_stages[task.stage];
            const Inputs inputs(m_session, m_rules, m_results, stage.reads, stage.uses, task.run);
            if (task.run && m_watch.begins) m_watch.begins(*task.run);
            task.made = guarded([&] { return madeFor(task, stage, inputs); });
            if (task.run && m_watch.ends) m_watch.ends(*task.run);
            const double share = static_cast<double>(++done) / static_cast<double>(open.size());
            const std::lock_guard lock(m_reporting);
            m_context.report((wave + share) / waves);
        });
    }

    /// What was kept, where there is something that can be read; else made.
    Result<Made> madeFor(Task& task, const Stage& stage, const Inputs& inputs) {
        const auto make = [&] { return stage.run(inputs, {m_context.stop, {}}); };
        const auto& keeping = m_cache.m_keeping;
        if (!stage.pack || !task.run || !keeping.find || m_distrusted) return make();
        const auto mark = Fingerprint(task.key.mark)
                              .add(methodMark())
                              .add(capture::fingerprintOf(*m_session.facts->run(*task.run)->capture))
                              .value();
        const auto found = keeping.find(stage.id, *task.run, mark);
        auto kept = found ? guarded([&] { return stage.unpack(*found, inputs); }) : fail(ErrorCode::UnknownName);
        const std::uint64_t draw = Fingerprint(mark).add(stage.id).add(keeping.salt).value();
        if (kept && draw % std::max<std::uint64_t>(1, keeping.checkedEvery) != 0) {
            task.kept = true;
            return kept;
        }
        auto made = make();
        if (!made || !made->value) return made;
        auto bytes = stage.pack(made->value.get());
        const std::lock_guard lock(m_keeping);
        if (kept && bytes != *found) {
            m_distrusted = true;
            m_wrong = stage.id;
        }
        if (!kept) m_toKeep.push_back({std::string(stage.id), *task.run, mark, std::move(bytes)});
        return made;
    }

    void take(Task& task) {
        const auto& stage = m_stages[task.stage];
        const ResultKey result{stage.makes, task.run.value_or(RunId{})};
        if (task.made && !*task.made) {
            if (task.made->error().code == ErrorCode::Cancelled) return;
            if (m_told) m_told(stage.id, task.run);
            m_results.m_errors.insert_or_assign(stage.id, task.made->error());
            // What rests on it is made without it this time, and never taken for what it would be with it.
            m_marks.insert_or_assign(result, Fingerprint(task.key.mark).add("failed").add(m_cache.m_now).value());
            return;
        }
        if (task.made) {
            if (m_told && !task.kept) m_told(stage.id, task.run);
            m_cache.keep(task.key, std::move(**task.made));
        }
        const auto* entry = m_cache.find(task.key);
        if (entry == nullptr) return; // cancelled before it was made
        m_results.m_values.insert_or_assign(result, entry->made.value);
        m_marks.insert_or_assign(result, entry->made.mark.value_or(task.key.mark));
        if (entry->made.ids != nullptr) m_ids.insert_or_assign(stage.makes, entry->made.ids);
    }

    std::span<const Stage> m_stages;
    const document::Session& m_session;
    ResultsCache& m_cache;
    const pace::CapRules& m_rules;
    const Context& m_context;
    const Told& m_told;
    const Watch& m_watch;
    std::optional<RunId> m_only; // none: every run
    std::mutex m_reporting, m_keeping;
    std::vector<KeptBytes> m_toKeep;
    std::atomic<bool> m_distrusted = false; // what was kept
    std::string_view m_wrong;               // the stage whose result was not what is computed
    Results m_results;
    std::map<ResultKey, std::uint64_t> m_marks;
    std::map<std::type_index, const std::vector<RunId>*> m_ids; // owned by the results
};

Results computeWith(std::span<const Stage> stages, const document::Session& session, ResultsCache& cache,
                    const pace::CapRules& rules, const Context& context, const Told& told, const Watch& watch) {
    std::string_view wrong;
    if (watch.first && watch.ready) {
        const Context unheard{context.stop, {}};
        Computation one(stages, session, cache, rules, unheard, told, watch);
        auto results = one.ahead(*watch.first);
        wrong = one.wrong();
        if (wrong.empty() && !context.cancelled()) watch.ready(std::move(results));
    }
    if (wrong.empty()) {
        Computation whole(stages, session, cache, rules, context, told, watch);
        auto results = whole.all();
        wrong = whole.wrong();
        if (wrong.empty()) return results;
    }
    Computation again(stages, session, cache, rules, context, told, watch);
    again.blame(wrong);
    return again.all();
}

Results compute(const document::Session& session, ResultsCache& cache, const pace::CapRules& rules,
                const Context& context, const Told& told, const Watch& watch) {
    return computeWith(allStages(), session, cache, rules, context, told, watch);
}

} // namespace impasto::results
