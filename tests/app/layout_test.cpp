// SPDX-License-Identifier: GPL-3.0-or-later
// At every size no two texts of a picture overlap, and none leaves it.
#include "app/tidy.h"
#include "shell/keys.h"
#include "stations/pages.h"

#include <QtTest/QTest>
#include <impasto/logs/import.h>
#include <set>

using namespace impasto;
using namespace impasto::app;

TEST(LayoutTest, TextsOfEveryStationAreTidyAtEverySize) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    lookOnTheWay(d, [&](const std::string& when) { expectAllTidy(d, when); });
    ASSERT_EQ(d.view().step.action, path::Action::Done);
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
    d.key(Qt::Key_Space); // a goal
    d.key(Qt::Key_Space); // the start values are shown
    d.key(Qt::Key_Space); // they are right
    d.key(Qt::Key_Space);
    ASSERT_FALSE(path::openOrders(d.view().session).empty());
    expectAllTidy(d, "an order waits");
}

TEST(LayoutTest, InASmallWindowNothingIsMoreThanAKeyAway) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    ASSERT_TRUE(d.spaceUntil(path::Action::ChooseCap));
    d.window->resize(1024, 640);
    d.studio.go(StationId{"pace"});
    const auto says = [](const Picture* picture, const QString& words) {
        const auto& shapes = picture->drawing().shapes;
        return std::any_of(shapes.begin(), shapes.end(), [&](const Shape& s) { return s.text.contains(words); });
    };
    EXPECT_FALSE(d.window->column()->isVisible());
    EXPECT_TRUE(says(d.window->path(), QStringLiteral("Details"))) << "the window says so";
    EXPECT_FALSE(says(d.window->easel(), QStringLiteral("held, ms"))) << "the rows of frames have no room";
    d.key(Qt::Key_V);
    EXPECT_TRUE(says(d.window->easel(), QStringLiteral("held, ms")));
    expectAllTidy(d, "frames in a small window");
    d.window->resize(1024, 640);
    d.studio.go(StationId{"pace"});
    d.click(d.window->easel(), QStringLiteral("pace.caps"));
    d.click(d.window->path(), QStringLiteral("column.open"));
    ASSERT_TRUE(d.window->column()->isVisible());
    EXPECT_NE(d.window->column()->drawing().hot(QStringLiteral("cap.target")), nullptr);
    EXPECT_TRUE(says(d.window->column(), QStringLiteral("prediction until it is run")));
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
        EXPECT_EQ(pictures, 18);
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
    ASSERT_TRUE(d.spaceUntil(path::Action::LowerTarget)) << "nothing fits 60 fps there";
    ASSERT_EQ(d.view().step.reason, path::Reason::NothingFits);
    d.studio.say({});
    expectAllTidy(d, "both lanes over the budget");
}

TEST(LayoutTest, LongListsAreShownInPages) {
    const support::TemporaryFolder folder;
    std::string text = "name = \"Lantern Coast\"\npresets = []\n";
    for (int i = 0; i < 40; ++i)
        text += fmt::format("[[setting]]\nid = \"s{0}\"\nlabel = \"Setting number {0}\"\nweight = 1\npays = [\"gpu\"]\n"
                            "levels = [\"low\", \"middle\", \"high\"]\npicture = [0.5, 0.8, 1.0]\n",
                            i + 1);
    text += "[[route]]\nname = \"long way\"\n";
    for (int i = 0; i < 12; ++i) text += fmt::format("[[route.part]]\nname = \"stretch {}\"\nseconds = 6\n", i + 1);
    Driven d(folder);
    d.drop({folder.write("long.toml", text)});
    ASSERT_NE(d.view().session.game(), nullptr) << d.view().message.toStdString();
    ASSERT_EQ(d.view().session.game()->settings.size(), 40U);
    d.studio.go(StationId{"bench"});
    const auto seen = [&](const QString& id) { return d.window->easel()->drawing().hot(id) != nullptr; };
    const auto next = [&](const QString& list) {
        for (const auto& hot : d.window->easel()->drawing().hots)
            if (hot.id.startsWith(QStringLiteral("page.") + list) && hot.name == QStringLiteral("Next"))
                return d.click(d.window->easel(), hot.id);
    };
    for (const QSize size : {QSize(1280, 800), QSize(1024, 640)}) {
        d.window->resize(size);
        d.rest();
        std::set<int> shown;
        for (int page = 0; page < 12; ++page) {
            for (int i = 1; i <= 40; ++i)
                if (seen(QStringLiteral("level.s%1").arg(i))) shown.insert(i);
            next(QStringLiteral("settings"));
        }
        EXPECT_EQ(shown.size(), 40U) << size.width();
        d.studio.state<Pages>().first.clear();
    }
    // Twelve parts of a log that names them.
    capture::Capture c;
    for (int part = 0; part < 12; ++part) {
        c.marks.push_back({fmt::format("stretch {}", part + 1), c.framesMs.size()});
        for (int i = 0; i < 360; ++i) {
            c.framesMs.push_back(16.6);
        }
    }
    c.cpuWorkMs.emplace(c.framesMs.size(), 9.0);
    c.gpuWorkMs.emplace(c.framesMs.size(), 15.0);
    for (std::size_t i = 0; i < c.framesMs.size(); i += 2) (*c.cpuWorkMs)[i] = 9.5, (*c.gpuWorkMs)[i] = 15.5;
    d.drop({folder.write("parts.csv", logs::writeCsv(c))});
    d.studio.go(StationId{"limits"});
    ASSERT_EQ(results::verdictsOf(*d.view().results).size(), 12U);
    std::set<int> parts;
    for (int page = 0; page < 4; ++page) {
        for (int i = 1; i <= 12; ++i)
            if (seen(QStringLiteral("limit.stretch %1.gpu").arg(i))) parts.insert(i);
        next(QStringLiteral("parts"));
    }
    EXPECT_EQ(parts.size(), 12U);
    expectAllTidy(d, "long lists");
}
