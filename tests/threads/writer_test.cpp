// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <atomic>
#include <impasto/logbook/writer.h>

using namespace impasto;
using namespace impasto::support;

TEST(WriterTest, EveryChangeIsStoredInOrder) {
    const TemporaryFolder folder;
    std::vector<std::uint64_t> saved;
    std::mutex mutex;
    auto store = demoStore();
    {
        logbook::LogbookWriter::Hooks hooks;
        hooks.onSaved = [&](SessionId, std::uint64_t revision) {
            const std::lock_guard lock(mutex);
            saved.push_back(revision);
        };
        logbook::LogbookWriter writer(std::move(*logbook::Logbook::open(folder.path("a.impasto"))), hooks,
                                      fixedClock());
        store.onChange([&](const document::Change& change) { writer.post(change, store, originals()); });
        for (int i = 0; i < 40; ++i) ASSERT_TRUE(store.apply(document::writeNote(std::to_string(i))).has_value());
        run::Run run;
        run.id = {seededIdSource(9)()};
        run.capture = std::make_shared<const capture::Capture>(flatCapture(16, 100));
        writer.postRecording(store.session(), run);
        store.addRuns({run});
        writer.waitIdle();
        EXPECT_TRUE(writer.idle());
    }
    ASSERT_EQ(saved.size(), 41U);
    EXPECT_TRUE(std::is_sorted(saved.begin(), saved.end()));
    auto book = std::move(*logbook::Logbook::open(folder.path("a.impasto")));
    const auto stored = book->load(store.session().id);
    ASSERT_TRUE(stored.has_value());
    EXPECT_EQ(stored->session.edits->record.note, "39");
    ASSERT_EQ(stored->session.facts->runs.size(), 1U);
    EXPECT_FALSE(stored->session.facts->runs[0].interrupted);
}
