// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/base/random.h>
#include <impasto/pace/generate.h>
#include <impasto/pace/headset.h>
#include <impasto/pace/predict.h>
#include <impasto/pace/replay.h>
#include <numeric>

using namespace impasto;
using namespace impasto::pace;
using impasto::support::flatCapture;

namespace {

run::Brief goalOf(double target) {
    run::Brief brief;
    brief.target = Fps(target);
    return brief;
}

/// As a pipeline with so many frames in flight, a copy stage and CPU work beside its own frame's GPU work records it.
capture::Capture piped(int framesInFlight, double copyMs, double overlap = 0) {
    Pipeline p;
    p.overlap = overlap;
    p.framesInFlight = framesInFlight;
    p.copyMs = copyMs;
    FramePipeline pipeline(p);
    capture::Capture c;
    c.cpuWorkMs.emplace();
    c.gpuWorkMs.emplace();
    c.latencyMs.emplace();
    double last = 0;
    for (int i = 0; i < 4000; ++i) {
        const double cpu = 8 + (i % 7), gpu = 9 + (i % 11) * 0.7;
        pipeline.start();
        pipeline.cpu(cpu);
        const auto frame = pipeline.gpu(gpu);
        if (i > 0) {
            c.framesMs.push_back(frame.shown - last);
            c.cpuWorkMs->push_back(cpu);
            c.gpuWorkMs->push_back(gpu);
            c.latencyMs->push_back(frame.shown - frame.cpuStart);
        }
        last = frame.shown;
    }
    return c;
}

/// 100 fps with a frame a second that takes longer on the GPU.
capture::Capture hitching(double byMs) {
    auto c = flatCapture(10, 6000, 4, 9.9);
    for (std::size_t i = 50; i < 6000; i += 100) {
        (*c.gpuWorkMs)[i] += byMs;
        c.framesMs[i] += byMs;
    }
    return c;
}

Replay replayed(const capture::Capture& capture, std::optional<display::Panel> panel = {}, double target = 60) {
    const std::array<UncappedRun, 1> runs{{{&capture, {}}}};
    return *replayOf(runs, panel, goalOf(target), Clocks::Held);
}

/// On a headset of 90 Hz: 8 ms on the GPU, and every tenth frame late by the CPU's fault, whose reading is a wait.
capture::Capture wornCapture(double gpuMs = 8) {
    capture::Capture c;
    c.cpuWorkMs.emplace();
    c.gpuWorkMs.emplace();
    for (std::size_t i = 0; i < 4000; ++i) {
        const double ms = (i % 10 == 3 ? 2 : 1) * 1000.0 / 90;
        c.framesMs.push_back(ms);
        c.cpuWorkMs->push_back(ms);
        c.gpuWorkMs->push_back(gpuMs + 0.1 * static_cast<double>(i % 5));
    }
    return c;
}

const display::Panel worn{{4000, 2000}, Hertz(90), {}, {Hertz(72), Hertz(80), Hertz(90), Hertz(120)}, true};

} // namespace

TEST(ReplayTest, FramesInFlightAreFoundFromTheRun) {
    for (const int q : {1, 2, 3}) EXPECT_EQ(replayed(piped(q, 0)).framesInFlight, q);
}

TEST(ReplayTest, AStageAfterTheGpuIsFoundWhereTheRunLastsLonger) {
    EXPECT_NEAR(replayed(piped(3, 21)).copyMs, 21, 0.5);
    EXPECT_EQ(replayed(piped(3, 0)).copyMs, 0);
}

TEST(ReplayTest, OneFrameInFlightWhoseGpuBeginsBeforeItsCpuEndsComesBackAtItsRate) {
    for (const double overlap : {0.2, 0.5}) {
        auto recorded = piped(1, 0, overlap);
        recorded.latencyMs.reset(); // few logs tell it
        const auto replay = replayed(recorded);
        EXPECT_EQ(replay.framesInFlight, 1);
        EXPECT_NEAR(replay.overlap, overlap, 0.02);
        EXPECT_EQ(replay.copyMs, 0);
        const auto again = recordingOf(play(replay, replay.runs.front(), {}, 0), replay.runs.front());
        EXPECT_NEAR(static_cast<double>(again.frames()), static_cast<double>(recorded.frames()), 40);
    }
    EXPECT_EQ(replayed(piped(1, 0)).overlap, 0) << "strictly in turn";
    EXPECT_EQ(replayed(piped(2, 0)).overlap, 0);
}

TEST(ReplayTest, WithoutACapTheRunComesBack) {
    const auto capture = piped(2, 0);
    const auto replay = replayed(capture);
    const auto again = recordingOf(play(replay, replay.runs.front(), {}, 0), replay.runs.front());
    EXPECT_NEAR(capture::durationMs(again), capture::durationMs(capture), 0.01 * capture::durationMs(capture));
    EXPECT_NEAR(static_cast<double>(again.frames()), static_cast<double>(capture.frames()), 40);
}

TEST(ReplayTest, AReplayGoesByTimeNotByFrame) {
    // One slow frame a second, at 100 fps; capped at 50 there is still one a second.
    const auto replay = replayed(hitching(40));
    ASSERT_FALSE(replay.runs.front().gpu.events.empty());
    const auto capped = recordingOf(play(replay, replay.runs.front(), {Fps(50)}, 0), replay.runs.front());
    const auto slow = std::count_if(capped.framesMs.begin(), capped.framesMs.end(), [](double ms) { return ms > 35; });
    EXPECT_NEAR(static_cast<double>(slow), 60, 3);
}

TEST(ReplayTest, WorkThatIdleTimeServesVanishesUnderACap) {
    const auto replay = replayed(hitching(20));
    const auto slowAt = [&](double share) {
        const auto f = recordingOf(play(replay, replay.runs.front(), {Fps(60)}, share), replay.runs.front());
        return std::count_if(f.framesMs.begin(), f.framesMs.end(), [](double ms) { return ms > 25; });
    };
    EXPECT_GT(slowAt(0), 50);
    EXPECT_EQ(slowAt(1), 0) << "6.7 ms of every 16.7 are idle, 20 ms of every second are needed";
}

TEST(ReplayTest, PartsKeepTheirPlace) {
    auto c = flatCapture(10, 3000, 4, 9.9);
    c.marks = {{"a", 0}, {"b", 1000}, {"c", 2000}};
    const auto replay = replayed(c);
    const auto capped = recordingOf(play(replay, replay.runs.front(), {Fps(50)}, 0), replay.runs.front());
    ASSERT_EQ(capped.marks.size(), 3U);
    EXPECT_EQ(capped.marks[1].part, "b");
    EXPECT_NEAR(static_cast<double>(capped.marks[1].firstFrame), static_cast<double>(capped.frames()) / 3, 4);
}

TEST(ReplayTest, ARunThatNeverWorksEndsTheReplay) {
    auto c = flatCapture(10, 200, 4, 5);
    std::fill(c.cpuWorkMs->begin(), c.cpuWorkMs->end(), 0.0);
    std::fill(c.gpuWorkMs->begin(), c.gpuWorkMs->end(), 0.0);
    const auto replay = replayed(c);
    EXPECT_LE(play(replay, replay.runs.front(), {}, 0.5).frames.size(), 300U);
    capture::Capture two;
    two.framesMs = {10, 10};
    const std::array<UncappedRun, 1> runs{{{&two, {}}}};
    EXPECT_FALSE(replayOf(runs, {}, goalOf(60), Clocks::Held));
}

TEST(HeadsetTest, TheRecordedRateIsAsRecorded) {
    const auto replay = replayed(wornCapture(), worn, 90);
    EXPECT_FALSE(replay.cpuTold) << "it stands at whole refreshes";
    const auto rates = wornRates(replay);
    ASSERT_EQ(rates.size(), 4U);
    const auto& now = rates[2];
    EXPECT_NEAR(now.onTime, 0.9, 0.001);
    EXPECT_NEAR(now.half, 2.0 / 11, 0.001) << "of the time";
    EXPECT_NEAR(now.full + now.half + now.third, 1, 1e-9);
    EXPECT_FALSE(now.cpuOnTime);
    EXPECT_NEAR(now.gpuOnTime, 1, 1e-9);
    EXPECT_EQ(lateFrames(replay, Hertz(90)).size(), 400U);
    EXPECT_NEAR(rates[0].onTime, 0.9, 0.03) << "what the CPU took beyond a refresh is not told: nothing is promised";
    EXPECT_LE(rates[3].onTime, now.onTime) << "and no faster rate does better";
}

TEST(HeadsetTest, FoveationHelpsOnlyWhereTheCpuHasRoom) {
    auto capture = wornCapture(11.6);
    EXPECT_EQ(foveationOf(replayed(capture, worn, 90), Hertz(90))->advice, FoveationAdvice::CpuNotTold);
    for (std::size_t i = 0; i < capture.frames(); ++i) (*capture.cpuWorkMs)[i] = 6 + 0.2 * static_cast<double>(i % 7);
    const auto room = foveationOf(replayed(capture, worn, 90), Hertz(90));
    ASSERT_TRUE(room);
    EXPECT_EQ(room->advice, FoveationAdvice::Use);
    EXPECT_GT(room->onTimeWith, room->onTime);
    for (double& ms : *capture.cpuWorkMs) ms += 4;
    EXPECT_EQ(foveationOf(replayed(capture, worn, 90), Hertz(90))->advice, FoveationAdvice::CpuLacks);
    EXPECT_FALSE(foveationOf(replayed(capture, std::nullopt, 90), Hertz(90)));
}

TEST(ReplayTest, ALimiterIsAsLateAsItWasWhenACapWasRun) {
    // Constant work under a limiter that is 0.4 ms late on average.
    const auto capped = [](double cap, double lateMs) {
        Pipeline p;
        p.limiterMs = 1000 / cap;
        FramePipeline pipeline(p);
        RandomStream noise(3, "late");
        auto c = flatCapture(10, 0, 4, 6);
        double last = 0;
        for (int i = 0; i < 4000; ++i) {
            pipeline.start(2 * lateMs * noise.uniform());
            pipeline.cpu(4);
            const auto frame = pipeline.gpu(6);
            if (i > 0) {
                c.framesMs.push_back(frame.shown - last);
                c.cpuWorkMs->push_back(4);
                c.gpuWorkMs->push_back(6);
            }
            last = frame.shown;
        }
        return c;
    };
    const CapPlan at60{Fps(60)}, at90{Fps(90)};
    const auto late = limiterLateness(capped(60, 0.4), at60);
    ASSERT_TRUE(late);
    EXPECT_NEAR(*late, 0.4, 0.02);
    auto replay = replayed(flatCapture(8, 6000, 4, 6));
    const auto before = expectedOf(replay, at90);
    setLateness(replay, *late);
    EXPECT_EQ(replay.measuredLateness, late);
    const auto truth = capped(90, 0.4);
    const double is = 1000 * static_cast<double>(truth.frames()) / capture::durationMs(truth);
    const auto told = [](const Expected& e) { return valueOf(Figure::Average, e.middle[0]); };
    EXPECT_NEAR(told(expectedOf(replay, at90)), is, 0.15) << "another cap, told by the one that was run";
    EXPECT_GT(told(before), is + 1.5) << "as limiters are it would be too fast";
    // Nothing of frames that the work held, that a refresh paces, without lanes, or of few.
    EXPECT_FALSE(limiterLateness(capped(160, 0.4), {Fps(160)}));
    EXPECT_FALSE(limiterLateness(capped(60, 0.4), {Fps(60), run::Sync::Fixed}));
    EXPECT_FALSE(limiterLateness(capped(60, 0.4), {}));
    auto times = capped(60, 0.4);
    times.cpuWorkMs.reset();
    EXPECT_FALSE(limiterLateness(times, at60));
    EXPECT_FALSE(limiterLateness(flatCapture(16.7, 150, 4, 6), at60));
    auto early = flatCapture(16, 3000, 4, 6);
    EXPECT_EQ(limiterLateness(early, at60), 0.0) << "never early";
}
