// SPDX-License-Identifier: GPL-3.0-or-later
// What a stage declares is what it reads, what it is remembered by, and what makes it run again: nothing more, nothing
// less. Found by walking every stage over every edit, not from a list of expectations.
#include "support/support.h"

#include <mutex>
#include <set>

using namespace impasto;
using namespace impasto::support;
using namespace impasto::results;

namespace {

std::vector<Part> allParts() {
    std::vector<Part> out;
    for (std::size_t i = 0; i < partCount; ++i) out.push_back(static_cast<Part>(i));
    return out;
}

std::set<Part> changedParts(const document::Session& before, const document::Session& after) {
    std::set<Part> out;
    for (const auto part : allParts()) {
        bool differs = markOf(part, before, {}) != markOf(part, after, {});
        if (part == Part::Trims)
            for (const auto& run : after.facts->runs)
                differs = differs || markOf(part, before, {}, run.id) != markOf(part, after, {}, run.id);
        if (differs) out.insert(part);
    }
    return out;
}

bool reads(const Stage& stage, const std::set<Part>& parts) {
    return std::any_of(stage.reads.begin(), stage.reads.end(), [&](Part part) { return parts.contains(part); });
}

/// The stages that read such a part, and all that rest on them.
std::set<std::string_view> restingOn(const std::set<Part>& parts) {
    std::set<std::string_view> out;
    std::set<std::type_index> made;
    for (bool grew = true; std::exchange(grew, false);)
        for (const auto& stage : allStages()) {
            const bool uses = std::any_of(stage.uses.begin(), stage.uses.end(), [&](const Use& use) {
                return made.contains(use.what) || (use.ofRuns && made.contains(*use.ofRuns));
            });
            const bool each = stage.each && made.contains(*stage.each);
            if (out.contains(stage.id) || !(reads(stage, parts) || uses || each)) continue;
            out.insert(stage.id);
            made.insert(stage.makes);
            grew = true;
        }
    return out;
}

document::SessionStore walked(path::Action until) {
    return walkedDemo(until).store;
}

std::vector<document::Edit> edits(const document::SessionStore& store) {
    const auto& s = store.session();
    const auto& runs = s.facts->runs;
    auto brief = *s.edits->goal.brief;
    brief.style = run::Style::Quiet;
    auto lows = *s.edits->goal.brief;
    lows.lowRule = stats::LowRule::Percentile;
    auto asking = *s.edits->goal.brief;
    asking.bounds[run::Bound::GpuLoad] = 0.8;
    auto baseline = s.edits->settings.baseline;
    baseline["shadows"] = "medium";
    frames::HitchRule rule;
    rule.ratio = 2.5;
    return {document::setBrief(brief),
            document::setBrief(lows),
            document::setBrief(asking),
            document::setScene(game::SceneKind::FreePlay),
            document::setTarget(Fps(70)),
            document::setShares({0.8, 0.95, 0.9}),
            document::setBaseline(*s.game(), baseline),
            document::lockSetting("reeds", "dense"),
            document::leaveOut(runs.at(2).id, document::LeftOut::ByHand),
            document::trimRun(runs.at(3).id, {{0, 2000}}),
            document::hideRun(runs.at(4).id),
            document::setHitchRule(rule),
            document::writeNote("no result speaks of it"),
            document::setName("nor of this")};
}

} // namespace

TEST(StageTest, AnEditMakesThoseRunAgainThatRestOnItAndNoOthers) {
    const auto kept = walked(path::Action::Done);
    std::size_t again = 0;
    ResultsCache all;
    static_cast<void>(compute(kept.session(), all, {}));
    for (const auto& edit : edits(kept)) {
        auto store = kept;
        auto cache = all;
        const auto before = store.session();
        ASSERT_TRUE(store.apply(edit).has_value()) << edit.name;
        std::mutex mutex;
        std::set<std::string_view> ran;
        static_cast<void>(compute(store.session(), cache, {}, {}, [&](std::string_view stage, const auto&) {
            const std::lock_guard lock(mutex);
            ran.insert(stage);
        }));
        const auto parts = changedParts(before, store.session());
        const auto may = restingOn(parts);
        for (const auto stage : ran) EXPECT_TRUE(may.contains(stage)) << edit.name << " made " << stage << " run again";
        for (const auto& stage : allStages()) {
            if (!stage.each && reads(stage, parts))
                EXPECT_TRUE(ran.contains(stage.id)) << edit.name << " concerns " << stage.id;
        }
        again += ran.size();
        ran.clear();
        static_cast<void>(compute(before, cache, {}, {}, [&](std::string_view stage, const auto&) {
            const std::lock_guard lock(mutex);
            ran.insert(stage);
        }));
        EXPECT_TRUE(ran.empty()) << edit.name << " taken back";
    }
    EXPECT_GT(again, 20U);
}

TEST(StageTest, WhatIsDeclaredIsRead) {
    std::mutex mutex;
    std::map<std::string_view, std::uint64_t> seen;
    std::vector<Stage> watched = allStages();
    for (auto& stage : watched)
        stage.run = [run = stage.run, id = stage.id, &mutex, &seen](const Inputs& in, const Context& context) {
            auto made = run(in, context);
            const std::lock_guard lock(mutex);
            seen[id] |= in.partsSeen();
            return made;
        };
    for (const auto until : {path::Action::RecordBaseline, path::Action::RecordCosts, path::Action::AcceptChoice,
                             path::Action::ChooseCap, path::Action::Done}) {
        const auto store = walked(until);
        ResultsCache cache;
        static_cast<void>(computeWith(watched, store.session(), cache, {}, {}, {}));
    }
    // What only some sessions have: a target far away, with everything run at its lowest, a cap of one's own, a walk.
    auto far = walked(path::Action::RecordCosts);
    ASSERT_TRUE(far.apply(document::setTarget(Fps(200))).has_value());
    support::Walk lowest(far);
    ASSERT_TRUE(lowest.until(path::Action::LowerTarget));
    auto own = walked(path::Action::Done);
    ASSERT_TRUE(own.apply(document::chooseCap({pace::CapSchool::Own, {Fps(70)}, {}})).has_value());
    auto stepwise = walked(path::Action::RecordCosts);
    ASSERT_TRUE(stepwise.apply(document::takeWalk(choose::WalkSchool::PresetFirst)).has_value());
    for (const auto* store : {&lowest.store, &own, &stepwise}) {
        ResultsCache cache;
        static_cast<void>(computeWith(watched, store->session(), cache, {}, {}, {}));
    }
    for (const auto& stage : allStages())
        for (const auto part : stage.reads)
            EXPECT_TRUE((seen[stage.id] >> static_cast<unsigned>(part) & 1U) != 0)
                << stage.id << " declares " << nameOf(part) << " and never reads it";
}

TEST(StageTest, AResultOfTheSessionNamesTheRunsWhoseResultsItReads) {
    std::set<std::type_index> ofRuns;
    for (const auto& stage : allStages())
        if (stage.each) ofRuns.insert(stage.makes);
    for (const auto& stage : allStages())
        for (const auto& use : stage.uses)
            EXPECT_TRUE(stage.each || use.ofRuns || !ofRuns.contains(use.what))
                << stage.id << " would be remembered whatever becomes of the runs";
}

TEST(StageTest, TheRunThatIsLookedAtComesBeforeTheOthers) {
    const auto store = walked(path::Action::Done);
    const auto looked = store.session().facts->runs[3].id;
    std::mutex mutex;
    std::set<RunId> begun;
    std::optional<Results> ahead;
    Watch watch;
    watch.begins = [&](const RunId& run) {
        const std::lock_guard lock(mutex);
        begun.insert(run);
    };
    watch.first = looked;
    watch.ready = [&](const Results& known) {
        EXPECT_EQ(begun, std::set<RunId>{looked});
        EXPECT_FALSE(ahead) << "told once";
        ahead = known;
    };
    ResultsCache cache, other;
    const auto all = compute(store.session(), cache, {}, {}, {}, watch);
    ASSERT_TRUE(ahead);
    ASSERT_NE(ahead->of<RunFigures>(looked), nullptr);
    EXPECT_EQ(ahead->of<RunFigures>(looked), all.of<RunFigures>(looked)) << "and is not made twice";
    for (const auto& run : store.session().facts->runs)
        if (run.id != looked) EXPECT_EQ(ahead->of<RunFigures>(run.id), nullptr);
    EXPECT_EQ(ahead->get<BaselineFamily>(), nullptr) << "that rests on several";
    ASSERT_NE(all.get<BaselineFamily>(), nullptr);
    // What was remembered of the one run changes nothing of the others.
    std::set<std::string_view> again;
    const auto plain = compute(store.session(), other, {});
    static_cast<void>(compute(store.session(), cache, {}, {}, [&](std::string_view stage, const auto&) {
        const std::lock_guard lock(mutex);
        again.insert(stage);
    }));
    EXPECT_TRUE(again.empty()) << *again.begin();
    for (const auto& id : all.get<ShownRuns>()->ids)
        EXPECT_EQ(all.of<RunCuts>(id)->spans, plain.of<RunCuts>(id)->spans);
    ASSERT_TRUE(all.get<Proposed>()->proposal && plain.get<Proposed>()->proposal);
    EXPECT_EQ(all.get<Proposed>()->proposal->values, plain.get<Proposed>()->proposal->values);
}

TEST(StageTest, WhatIsNotDeclaredCannotBeRead) {
    const auto store = demoStore();
    const std::vector<Stage> greedy{
        stage<Proposed>("greedy", {Part::Game}, {}, [](const Inputs& in, const Context&) -> Maybe<Proposed> {
            static_cast<void>(in.target());
            return std::make_shared<const Proposed>();
        })};
    ResultsCache cache;
    const auto results = computeWith(greedy, store.session(), cache, {}, {}, {});
    EXPECT_EQ(results.errors().size(), 1U);
    EXPECT_EQ(results.get<Proposed>(), nullptr);
}

TEST(StageTest, TheCacheKeepsItsBound) {
    auto store = walked(path::Action::ChooseCap);
    ResultsCache whole;
    static_cast<void>(compute(store.session(), whole, {}));
    const auto bound = whole.bytes() + whole.bytes() / 2;
    ResultsCache tight(bound);
    for (const double target : {50.0, 55.0, 60.0, 65.0, 70.0, 75.0, 80.0, 85.0}) {
        ASSERT_TRUE(store.apply(document::setTarget(Fps(target))).has_value());
        static_cast<void>(compute(store.session(), tight, {}));
        static_cast<void>(compute(store.session(), whole, {}));
        EXPECT_LE(tight.bytes(), bound);
    }
    EXPECT_GT(whole.bytes(), bound) << "there was something to forget";
}

namespace {

struct First {
    int value = 0;
};
struct Second {
    int value = 0;
};
int firstTries = 0;

Maybe<First> failsOnce(const Inputs&, const Context&) {
    if (++firstTries == 1) throw std::bad_alloc();
    return std::make_shared<const First>(First{7});
}
Maybe<Second> restsOnFirst(const Inputs& in, const Context&) {
    const auto* first = in.get<First>();
    return std::make_shared<const Second>(Second{first == nullptr ? -1 : first->value});
}

} // namespace

TEST(StageTest, AStageThatFailedIsTriedAgain) {
    firstTries = 0;
    const std::vector<Stage> stages{stage("first", {}, {}, failsOnce),
                                    stage("second", {}, {use<First>()}, restsOnFirst)};
    const auto store = demoStore();
    ResultsCache cache;
    const auto failed = computeWith(stages, store.session(), cache, {}, {}, {});
    ASSERT_EQ(failed.errors().size(), 1U);
    EXPECT_EQ(failed.errors().begin()->second.code, ErrorCode::OutOfMemory);
    EXPECT_EQ(failed.get<First>(), nullptr);
    EXPECT_EQ(failed.get<Second>()->value, -1);
    const auto again = computeWith(stages, store.session(), cache, {}, {}, {});
    EXPECT_TRUE(again.errors().empty());
    EXPECT_EQ(again.get<First>()->value, 7);
    EXPECT_EQ(again.get<Second>()->value, 7); // not what was made without the first
    computeWith(stages, store.session(), cache, {}, {}, {});
    EXPECT_EQ(firstTries, 2); // remembered
}
