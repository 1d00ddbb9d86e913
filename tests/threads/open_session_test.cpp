// SPDX-License-Identifier: GPL-3.0-or-later
// The threads of an open session, with a window that is a queue: recording, computing, saving, following and importing
// at once, while the window reads, changes and at last closes the session.
#include "support/support.h"

#include <condition_variable>
#include <open/open_session.h>
#include <thread>

using namespace impasto;
using namespace impasto::app;

namespace {

/// The window's thread is the one that runs what was delivered: the test's.
class FakeWindow {
  public:
    Deliver deliver() {
        return [this](std::function<void()> call) {
            const std::lock_guard lock(m_mutex);
            m_calls.push_back(std::move(call));
            m_changed.notify_all();
        };
    }
    /// Runs calls until `done`.
    void until(const std::function<bool()>& done) {
        while (!done()) {
            std::unique_lock lock(m_mutex);
            if (!m_changed.wait_for(lock, std::chrono::seconds(1), [this] { return !m_calls.empty(); })) continue;
            auto call = std::move(m_calls.front());
            m_calls.pop_front();
            lock.unlock();
            call();
        }
    }

  private:
    std::mutex m_mutex;
    std::condition_variable m_changed;
    std::deque<std::function<void()>> m_calls;
};

struct Opened {
    FakeWindow window;
    std::unique_ptr<OpenSession> open;
    std::size_t recorded = 0;
    bool ended = false;
    std::shared_ptr<results::Results> newest;

    explicit Opened(const support::TemporaryFolder& folder) {
        auto book = logbook::Logbook::open(folder.path("book.impasto"));
        EXPECT_TRUE(book.has_value());
        auto store = support::demoStore();
        open = std::make_unique<OpenSession>(Started{std::move(store), nullptr, support::originals(), {}, {}}, 0,
                                             window.deliver(), [](const Error& error) { ADD_FAILURE() << error.what; });
        open->startWriter(std::move(*book), {}, support::fixedClock());
        open->store.onChange([this](const document::Change& change) {
            open->writer->post(change, open->store, open->originals);
            compute(change.session);
        });
    }

    void compute(const document::Session& session) {
        open->results.post([this, session, owner = open.get()](const std::stop_token& stop) {
            auto made = std::make_shared<results::Results>(
                results::compute(session, owner->cache, pace::CapRules(), {stop, {}}));
            owner->bridge.post([this, made] { newest = made; });
        });
    }

    void record(std::size_t runs) {
        std::vector<run::Order> orders;
        for (std::size_t i = 0; i < runs; ++i) {
            run::Order order;
            order.id = {seededIdSource(100 + i)()};
            order.variant = open->store.session().baselineVariant();
            order.route = open->store.session().edits->subject.route;
            order.seconds = open->store.session().route()->seconds();
            order.seed = i;
            orders.push_back(order);
        }
        open->store.addOrders(orders);
        ended = false;
        open->recorder.start(open->store.session(), open->originals, orders, seededIdSource(3), support::fixedClock(),
                             open->writer.get(),
                             {[](const run::Order&, std::size_t) {},
                              [this](run::Run run) {
                                  ++recorded;
                                  open->store.addRuns({std::move(run)});
                              },
                              [this](std::optional<Error>) { ended = true; }});
    }
};

} // namespace

TEST(OpenSessionTest, ASessionIsRecordedComputedAndSavedAtOnce) {
    const support::TemporaryFolder folder;
    Opened s(folder);
    s.record(3);
    std::vector<double> frames;
    std::vector<capture::PartMark> marks;
    s.window.until([&] {
        s.open->recorder.takeTail(frames, marks);
        return s.ended;
    });
    EXPECT_EQ(s.recorded, 3U);
    s.window.until([&] { return s.newest != nullptr && s.newest->revision == s.open->store.session().revision; });
    for (const auto& run : s.open->store.session().facts->runs)
        EXPECT_NE(s.newest->of<results::RunFigures>(run.id), nullptr);
    const auto id = s.open->store.session().id;
    s.open->close();
    std::thread([open = std::move(s.open)]() mutable { open.reset(); }).join();
    auto book = logbook::Logbook::open(folder.path("book.impasto"));
    ASSERT_TRUE(book.has_value());
    EXPECT_EQ((*book)->load(id)->session.facts->runs.size(), 3U);
}

TEST(OpenSessionTest, ACancelledRecordingEndsWheneverItIsCancelled) {
    const support::TemporaryFolder folder;
    Opened s(folder);
    for (int pause = 0; pause < 20; ++pause) {
        s.record(2);
        for (int i = 0; i < pause * 200; ++i) std::this_thread::yield();
        s.open->recorder.cancel();
        s.window.until([&] { return s.ended; });
    }
    s.open->close();
}

TEST(OpenSessionTest, NothingIsHeardOfASessionThatWasClosedAmidEverything) {
    const support::TemporaryFolder folder;
    Opened s(folder);
    s.record(20);
    s.window.until([&] { return s.recorded > 0; });
    const auto recorded = s.recorded;
    s.open->close();
    s.open->close(); // again does no harm
    s.ended = false;
    std::thread([open = std::move(s.open)]() mutable { open.reset(); }).join();
    // Whatever was on its way is delivered now and says nothing.
    bool last = false;
    s.window.deliver()([&] { last = true; });
    s.window.until([&] { return last; });
    EXPECT_EQ(s.recorded, recorded);
    EXPECT_FALSE(s.ended);
}
