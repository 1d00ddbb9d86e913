// SPDX-License-Identifier: GPL-3.0-or-later
// Results of runs between two starts: had at once where nothing changed, made anew where anything did, and never
// trusted.
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/results/baseline.h>
#include <impasto/results/keeping.h>
#include <impasto/results/results.h>
#include <mutex>
#include <set>
#include <tuple>

using namespace impasto;
using namespace impasto::results;
using support::Walk;

namespace {

/// Kept in memory.
struct Shelf {
    std::mutex mutex;
    std::map<std::tuple<std::string, RunId, std::uint64_t>, std::string> all;
    std::size_t found = 0, forgotten = 0;

    Keeping keeping(std::uint64_t checkedEvery) {
        return {[this](std::string_view stage, const RunId& run, std::uint64_t mark) -> std::optional<std::string> {
                    const std::lock_guard lock(mutex);
                    const auto it = all.find({std::string(stage), run, mark});
                    if (it == all.end()) return std::nullopt;
                    ++found;
                    return it->second;
                },
                [this](const std::vector<KeptBytes>& fresh) {
                    for (const auto& each : fresh) all[{each.stage, each.run, each.mark}] = each.bytes;
                },
                [this] {
                    all.clear();
                    ++forgotten;
                },
                checkedEvery, 7};
    }
};

const std::set<std::string> stages{"shape of a run", "figures of a run", "doubt of a run"};

struct Computed {
    Results results;
    std::size_t anew = 0; // results of single runs, of the stages that are kept
};

Computed computed(const document::Session& session, Shelf& shelf, std::uint64_t checkedEvery = 1000000007) {
    ResultsCache cache; // of a start of its own
    cache.keepIn(shelf.keeping(checkedEvery));
    Computed out;
    std::mutex mutex;
    out.results = compute(session, cache, {}, {}, [&](std::string_view stage, const std::optional<RunId>&) {
        const std::lock_guard lock(mutex);
        out.anew += stages.contains(std::string(stage)) ? 1 : 0;
    });
    return out;
}

/// A session with a baseline, a cost run and a target.
document::Session measured() {
    return support::walkedDemo(path::Action::AcceptChoice).store.session();
}

void expectAlike(const Results& a, const Results& b, const document::Session& session) {
    for (const auto& run : session.facts->runs) {
        const auto *was = a.of<RunFigures>(run.id), *is = b.of<RunFigures>(run.id);
        ASSERT_EQ(was == nullptr, is == nullptr);
        if (was == nullptr) continue;
        EXPECT_EQ(was->summary.average, is->summary.average);
        EXPECT_EQ(was->summary.p999Ms, is->summary.p999Ms);
        EXPECT_EQ(was->summary.of(stats::LowRule::TimeShare).onePercent->rate,
                  is->summary.of(stats::LowRule::TimeShare).onePercent->rate);
        EXPECT_EQ(was->summary.hitches.size(), is->summary.hitches.size());
        EXPECT_EQ(was->summary.onTimeShare, is->summary.onTimeShare);
        EXPECT_EQ(was->measured.size(), is->measured.size());
        EXPECT_EQ(was->examined.size(), is->examined.size());
        EXPECT_EQ(was->distribution.quantile(0.9), is->distribution.quantile(0.9));
        EXPECT_EQ(was->shape->seconds.size(), is->shape->seconds.size());
        EXPECT_EQ(was->shape->pollution, is->shape->pollution);
        EXPECT_EQ(was->shape->pyramid.durationMs(), is->shape->pyramid.durationMs());
        const auto *doubtWas = a.of<RunDoubt>(run.id), *doubtIs = b.of<RunDoubt>(run.id);
        ASSERT_EQ(doubtWas == nullptr, doubtIs == nullptr);
        if (doubtWas != nullptr) EXPECT_EQ(doubtWas->doubt.p99.high, doubtIs->doubt.p99.high);
    }
}

} // namespace

TEST(KeptTest, ALaterStartHasWhatWasComputed) {
    const auto session = measured();
    Shelf shelf;
    const auto first = computed(session, shelf);
    EXPECT_GT(first.anew, 2 * session.facts->runs.size());
    EXPECT_EQ(shelf.all.size(), first.anew);
    const auto later = computed(session, shelf);
    EXPECT_EQ(later.anew, 0U);
    EXPECT_EQ(shelf.found, first.anew);
    EXPECT_TRUE(later.results.errors().empty());
    expectAlike(first.results, later.results, session);
    // All of them computed again: they are the same to the last byte, or it would be told.
    const auto checked = computed(session, shelf, 1);
    EXPECT_EQ(checked.anew, first.anew);
    EXPECT_EQ(shelf.forgotten, 0U);
    EXPECT_TRUE(checked.results.errors().empty());
}

TEST(KeptTest, WhatChangedIsMadeAnew) {
    auto session = measured();
    Shelf shelf;
    const auto first = computed(session, shelf);
    document::SessionStore store(session);
    ASSERT_TRUE(store.apply(document::setHitchRule({1.3, 2, 31})).has_value());
    const auto other = computed(store.session(), shelf);
    EXPECT_EQ(other.anew, session.facts->runs.size()) << "the figures, and neither shape nor doubt";
    // The same run with other frames: a file from elsewhere may hold it.
    auto facts = *session.facts;
    const auto id = idsOf<BaselineRuns>(first.results).front();
    auto& run = *std::find_if(facts.runs.begin(), facts.runs.end(), [&](const auto& r) { return r.id == id; });
    capture::Capture changed = *run.capture;
    changed.framesMs.back() += 0.001;
    run.capture = std::make_shared<const capture::Capture>(std::move(changed));
    session.facts = std::make_shared<const document::Facts>(std::move(facts));
    EXPECT_EQ(computed(session, shelf).anew, 3U) << "all of that run";
}

TEST(KeptTest, BytesThatAreNoResultAreNotRead) {
    const auto session = measured();
    Shelf whole;
    const auto first = computed(session, whole);
    RandomStream random(3, "bytes");
    for (int round = 0; round < 40; ++round) {
        Shelf shelf;
        shelf.all = whole.all;
        for (auto& [key, bytes] : shelf.all) {
            const auto what = random.below(4);
            if (what == 0) bytes.resize(random.below(bytes.size()));
            if (what == 1) bytes += "x";
            if (what == 2) bytes.clear();
            if (what == 3 && std::get<0>(key) != "doubt of a run") // a count of too many
                std::fill_n(bytes.begin(), std::min<std::size_t>(8, bytes.size()), '\xff');
        }
        const auto later = computed(session, shelf);
        for (const auto& [stage, error] : later.results.errors()) ADD_FAILURE() << stage << ": " << error.what;
        if (round == 0) expectAlike(first.results, later.results, session);
    }
}

TEST(KeptTest, AWrongResultIsToldAndNothingKeptCountsThen) {
    const auto session = measured();
    Shelf shelf;
    const auto first = computed(session, shelf);
    for (auto& [key, bytes] : shelf.all)
        if (std::get<0>(key) == "figures of a run") bytes[8] = static_cast<char>(bytes[8] ^ 1); // of the duration
    const auto later = computed(session, shelf, 1);
    EXPECT_EQ(shelf.forgotten, 1U);
    ASSERT_EQ(later.results.errors().size(), 1U);
    EXPECT_EQ(later.results.errors().begin()->second.code, ErrorCode::Internal);
    expectAlike(first.results, later.results, session);
    EXPECT_TRUE(computed(session, shelf).results.errors().empty());
}
