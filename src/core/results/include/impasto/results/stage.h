// SPDX-License-Identifier: GPL-3.0-or-later
// A stage makes one result from parts of a session and from results of other stages. What it reads is declared; that,
// and nothing else, is what its result is remembered by. Results are immutable and shared; each owns all it points to.
#pragma once

#include <impasto/base/context.h>
#include <impasto/document/session.h>
#include <typeindex>

namespace impasto::results {

/// What stages may read of a session and of the rules, each with a mark of its content.
enum class Part {
    Machine,
    State, // that is played in
    Game,
    Route,
    Target,
    Wishes, // of the brief, besides the target and how lows are counted
    LowRule,
    Shown, // of the brief: the rate with invented frames
    Shares,
    HitchRule,
    Baseline,
    Locked, // and what cannot be set
    GoodEnough,
    Earlier, // runs of an earlier session
    Walk,
    Choice,
    Cap,
    Kept,
    Runs,    // which there are, and which of them count
    Answers, // which order a run answers; of a stage for one run: that run's
    PartColumn,
    Trims, // of a stage for one run: that run's
    CapRules
};
inline constexpr std::size_t partCount = 23;
std::string_view nameOf(Part part);
/// `run`: whose trims are meant.
std::uint64_t markOf(Part part, const document::Session& session, const pace::CapRules& rules,
                     const std::optional<RunId>& run = {});

/// A result that a stage reads: one of the session, or one of every run in a list (a result that has `ids`).
struct Use {
    std::type_index what;
    std::optional<std::type_index> ofRuns;
};
template <class T>
Use use() {
    return {typeid(T), {}};
}
template <class T, class List>
Use useOf() {
    return {typeid(T), typeid(List)};
}

/// A result as it is kept: nothing, where a session gives no ground for it.
struct Made {
    std::shared_ptr<const void> value;
    std::size_t bytes = 0;
    std::optional<std::uint64_t> mark; // of its content; none: it differs whenever what it was made from does
    const std::vector<RunId>* ids = nullptr;
};

/// All results of a session, found by type. Cheap to copy.
class Results {
  public:
    std::uint64_t revision = 0;

    /// Of the session; nullptr where there is no ground for it, or its stage failed.
    template <class T>
    [[nodiscard]] const T* get() const {
        return static_cast<const T*>(find(typeid(T), {}));
    }
    /// Of one run.
    template <class T>
    [[nodiscard]] const T* of(const RunId& run) const {
        return static_cast<const T*>(find(typeid(T), run));
    }
    template <class T>
    [[nodiscard]] std::shared_ptr<const T> shared() const {
        return std::static_pointer_cast<const T>(owner(typeid(T), {}));
    }
    template <class T>
    [[nodiscard]] std::shared_ptr<const T> sharedOf(const RunId& run) const {
        return std::static_pointer_cast<const T>(owner(typeid(T), run));
    }
    /// Another result in place, for pictures of what was not computed.
    template <class T>
    void put(std::shared_ptr<const T> value, const RunId& run = {}) {
        m_values.insert_or_assign(Key{typeid(T), run}, std::move(value));
    }
    [[nodiscard]] bool empty() const { return m_values.empty(); }
    /// Stages that failed, by their ids.
    [[nodiscard]] const std::map<std::string_view, Error>& errors() const { return m_errors; }

  private:
    friend class Computation;
    using Key = std::pair<std::type_index, RunId>;
    [[nodiscard]] const void* find(std::type_index type, const RunId& run) const;
    [[nodiscard]] std::shared_ptr<const void> owner(std::type_index type, const RunId& run) const;

    std::map<Key, std::shared_ptr<const void>> m_values;
    std::map<std::string_view, Error> m_errors;
};

/// The rate that is wished, and how it is to be held.
struct Target {
    Fps rate;
    double onTimeShare = 0, tolerance = 0;
};

/// What a stage is given. Reading what is not declared is a fault of the program and throws.
class Inputs {
  public:
    Inputs(const document::Session& session, const pace::CapRules& rules, const Results& results,
           std::span<const Part> reads, std::span<const Use> uses, std::optional<RunId> run)
        : m_session(session), m_rules(rules), m_results(results), m_reads(reads), m_uses(uses), m_run(run) {}

    // parts
    [[nodiscard]] const machine::Machine* machine() const { return seen(Part::Machine).machine(); }
    [[nodiscard]] std::optional<display::Panel> panel() const { return seen(Part::Machine).panel(); }
    [[nodiscard]] const document::PlayState& state() const { return seen(Part::State).edits->subject.state; }
    [[nodiscard]] const game::Game* game() const { return seen(Part::Game).game(); }
    [[nodiscard]] const game::Route* route() const;
    [[nodiscard]] game::SceneKind scene() const;
    [[nodiscard]] std::optional<Target> target() const;
    [[nodiscard]] const std::optional<run::Brief>& brief() const; // all of it
    [[nodiscard]] stats::LowRule lowRule() const;
    [[nodiscard]] const std::string& partColumn() const { return seen(Part::PartColumn).edits->runs.partColumn; }
    [[nodiscard]] const document::SafeShares& shares() const { return seen(Part::Shares).edits->goal.shares; }
    [[nodiscard]] run::BoundFigures bounds() const; // that are asked; with the shares that are safe
    [[nodiscard]] const frames::HitchRule& hitchRule() const { return seen(Part::HitchRule).edits->runs.hitchRule; }
    [[nodiscard]] const game::Values& baseline() const { return seen(Part::Baseline).edits->settings.baseline; }
    [[nodiscard]] const game::Values& locked() const { return seen(Part::Locked).edits->settings.locked; }
    [[nodiscard]] const std::set<std::pair<std::string, std::string>>& cannot() const {
        return seen(Part::Locked).edits->settings.cannot;
    }
    [[nodiscard]] const std::optional<double>& goodEnough() const {
        return seen(Part::GoodEnough).edits->settings.goodEnough;
    }
    [[nodiscard]] const std::optional<document::EarlierRuns>& earlier() const {
        return seen(Part::Earlier).edits->settings.earlier;
    }
    [[nodiscard]] const std::optional<document::AcceptedChoice>& choice() const {
        return seen(Part::Choice).edits->settings.choice;
    }
    [[nodiscard]] const std::optional<document::ChosenCap>& cap() const { return seen(Part::Cap).edits->pacing.cap; }
    [[nodiscard]] const std::optional<document::KeptResult>& kept() const {
        return seen(Part::Kept).edits->record.kept;
    }
    [[nodiscard]] std::span<const capture::Span> trimsOf(const RunId& run) const {
        return seen(Part::Trims).trimsOf(run);
    }
    [[nodiscard]] const pace::CapRules& capRules() const;
    /// For what several parts make together; each of them is declared.
    [[nodiscard]] const document::Session& session(std::initializer_list<Part> parts) const;

    // facts, which never change
    [[nodiscard]] RunId run() const { return *m_run; }
    [[nodiscard]] const run::Run& runOf(const RunId& id) const { return *m_session.facts->run(id); }
    [[nodiscard]] const run::Order* orderOf(const RunId& id) const { return seen(Part::Answers).orderOf(runOf(id)); }

    // results
    template <class T>
    [[nodiscard]] const T* get() const {
        used(typeid(T));
        return m_results.get<T>();
    }
    template <class T>
    [[nodiscard]] const T* of(const RunId& id) const {
        used(typeid(T));
        return m_results.of<T>(id);
    }
    template <class T>
    [[nodiscard]] std::shared_ptr<const T> sharedOf(const RunId& id) const {
        used(typeid(T));
        return m_results.sharedOf<T>(id);
    }

    /// The declared parts that were read so far, a bit each; for tests.
    [[nodiscard]] std::uint64_t partsSeen() const { return m_seen; }

  private:
    const document::Session& seen(Part part) const;
    void used(std::type_index type) const;

    const document::Session& m_session;
    const pace::CapRules& m_rules;
    const Results& m_results;
    std::span<const Part> m_reads;
    std::span<const Use> m_uses;
    std::optional<RunId> m_run;
    mutable std::uint64_t m_seen = 0;
};

struct Stage {
    std::string_view id;
    std::type_index makes;
    std::vector<Part> reads;
    std::vector<Use> uses;
    std::optional<std::type_index> each; // the list whose runs it works for, one by one; none: for the session
    std::function<Result<Made>(const Inputs&, const Context&)> run;
    // Of one that is kept between starts (results/keeping.h):
    std::function<std::string(const void*)> pack = {};
    std::function<Result<Made>(std::string_view, const Inputs&)> unpack = {};
};

/// What a stage's function gives: nothing where there is no ground for it.
template <class T>
using Maybe = Result<std::shared_ptr<const T>>;

/// Bytes that a result holds, for the bound of the cache. Overloaded beside results that are large.
template <class T>
std::size_t bytesOf(const T&) {
    return sizeof(T);
}
/// The mark of a result's content. Overloaded beside small results, so that what rests on them is kept where they stay
/// the same.
template <class T>
std::optional<std::uint64_t> contentOf(const T&) {
    return std::nullopt;
}

template <class T>
Result<Made> madeOf(Maybe<T> made) {
    if (!made) return tl::unexpected(made.error());
    Made out{*made, 0, std::nullopt, nullptr};
    if (!*made) return out;
    out.bytes = bytesOf(**made);
    out.mark = contentOf(**made);
    if constexpr (requires(const T& t) { t.ids; }) out.ids = &(*made)->ids;
    return out;
}

template <class T>
Stage stage(std::string_view id, std::vector<Part> reads, std::vector<Use> uses,
            Maybe<T> (*make)(const Inputs&, const Context&), std::optional<std::type_index> each = {}) {
    return {id, typeid(T), std::move(reads), std::move(uses), each, [make](const Inputs& in, const Context& context) {
                return madeOf<T>(make(in, context));
            }};
}

/// A stage for single runs whose results are kept between starts. `unpack` errors where the bytes are no such result.
template <class T>
Stage keptStage(Stage stage, std::string (*pack)(const T&), Maybe<T> (*unpack)(std::string_view, const Inputs&)) {
    stage.pack = [pack](const void* made) { return pack(*static_cast<const T*>(made)); };
    stage.unpack = [unpack](std::string_view bytes, const Inputs& in) { return madeOf<T>(unpack(bytes, in)); };
    return stage;
}

} // namespace impasto::results
