// SPDX-License-Identifier: GPL-3.0-or-later
// At every size no two texts of a picture overlap, and none leaves it.
#include "app/tidy.h"
#include "shell/keys.h"

#include <QtTest/QTest>

using namespace impasto;
using namespace impasto::app;

TEST(LayoutTest, TextsOfEveryStationAreTidyAtEverySize) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    expectAllTidy(d, "empty");
    d.studio.startPractice();
    d.rest();
    expectAllTidy(d, "before the first run");
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    expectAllTidy(d, "after the baseline");
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    d.studio.activate(QStringLiteral("open.shadows"));
    expectAllTidy(d, "before the choice");
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    expectAllTidy(d, "kept");
    for (const char* topic : {"average", "low", "choice", "cap", "cost.shadows"}) {
        d.window->resize(1280, 800);
        d.studio.why(QLatin1String(topic));
        expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), topic);
    }
}

TEST(LayoutTest, AGameOfOnesOwnIsTidyToo) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    describeGame(d.studio);
    d.rest();
    expectAllTidy(d, "described");
    d.key(Qt::Key_Space);
    d.key(Qt::Key_Space);
    ASSERT_FALSE(path::openOrders(d.view().session).empty());
    expectAllTidy(d, "an order waits");
}

TEST(LayoutTest, PicturesAreTheSameToTheByte) {
    const support::TemporaryFolder folder;
    std::map<std::string, std::uint64_t> marks;
    for (const char* round : {"a", "b"}) {
        StudioOptions o;
        o.dataDir = support::dataFile("");
        o.ids = seededIdSource(1);
        o.clock = support::fixedClock();
        o.speed = 0;
        Studio studio(o);
        studio.newSession(1);
        Window window(studio, umber());
        window.resize(1280, 800);
        window.show();
        const auto shots = folder.path(round);
        ASSERT_TRUE(takeShots(studio, window, QString::fromStdString(shots.string()), 1));
        int pictures = 0;
        for (const auto& entry : std::filesystem::directory_iterator(shots)) {
            ++pictures;
            const auto name = entry.path().filename().string();
            const auto mark = support::fileMark(entry.path());
            if (!marks.contains(name))
                marks[name] = mark;
            else
                EXPECT_EQ(marks[name], mark) << name;
        }
        EXPECT_EQ(pictures, 12);
    }
}

TEST(LayoutTest, PicturesOfRunsAndLogsAreTidyToo) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.apply(document::setFollowRest(3600));
    d.drop({support::testFile("logs/real-program-slow.csv"), support::dataFile("example-log.csv")});
    d.key(Qt::Key_C);
    for (int picture = 0; picture < 3; ++picture) {
        for (const int key : {Qt::Key_L, Qt::Key_K, Qt::Key_L}) {
            d.key(key);
            expectAllTidy(d, "picture " + std::to_string(picture));
            d.studio.go(StationId{"runs"});
        }
        d.key(Qt::Key_V);
    }
    d.studio.why(QStringLiteral("hitches"));
    expectTidy(d.window->column()->drawing(), QSizeF(d.window->column()->size()), "hitches");
    d.studio.why({});
    openReading(d.studio, support::dataFile("example-log.csv"));
    d.rest();
    expectAllTidy(d, "a log that is looked at");
    d.key(Qt::Key_Escape);
    d.studio.follow(support::testFile("logs/real-program-fast.csv"));
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().follow.summary != nullptr; }, 60000));
    d.studio.markFollowed();
    expectAllTidy(d, "a log that is followed");
    expectTidy(layoutKeys(d.view(), QSizeF(860, 472)), QSizeF(860, 472), "keys");
}

TEST(LayoutTest, AHeavyGameOnASmallMachineIsTidyToo) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::dataFile("machines/curlew-pocket.toml"), support::dataFile("games/saltmarsh-courier.toml")});
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordWarmUp));
    ASSERT_TRUE(d.spaceUntil(path::Action::SayBrief)) << "nothing fits 60 fps there";
    ASSERT_EQ(d.view().step.reason, path::Reason::NothingFits);
    d.studio.say({});
    expectAllTidy(d, "both lanes over the budget");
}
