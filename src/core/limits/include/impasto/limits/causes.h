// SPDX-License-Identifier: GPL-3.0-or-later
// What stands behind a bottleneck, or in place of one: heat, power, memory, wiring. Evidence from the sensors and the
// frames of a part; thresholds in docs/method.md (common practice, no source). Nothing is named without a sensor or the
// machine's wiring that says so.
#pragma once

#include <array>
#include <impasto/run/run.h>

namespace impasto::limits {

enum class Cause {
    Heat,
    Power,
    GpuMemory,
    SystemMemory,
    CopyRoute,
    Generation, // what inventing frames takes
    FirstSight, // what is compiled or loaded where it is first met
    ToolFault,  // or of a driver
    Turns       // CPU and GPU take turns: one frame at a time is in flight
};
/// As JSON has it: "copy-route".
std::string_view keyOf(Cause cause);

/// What is seen, with its figures.
enum class Sign {
    ClockFell,      // value: from, other: to, in the sensor's own unit, once it was hot
    AtCeiling,      // value: °C, other: share of the part's time within 8 °C of it
    HotAllAlong,    // no cooler stretch to hold the clock against. value: °C
    PowerFlat,      // value: W, other: spread of the middle 80%, a share of it
    ClockMoves,     // while the power stands. value: spread of the middle 80%, a share
    MemoryUse,      // value: MiB in use, other: MiB that there are
    LongFrames,     // value: frames of over 100 ms in the part
    Gap,            // neither CPU nor GPU work explains the frame. value: ms, other: share of the frame
    WiredThrough,   // frames are copied through another graphics chip, as the machine's owner says
    GpuLoad,        // value: percent
    CpuLoad,        // value: percent of the whole machine
    BusiestCore,    // value: percent of one core
    LostInFirstRun, // percent of the part's time that hitches take. value: in the first run, other: in those after it
    LostInHitches,  // value: percent of the part's time
    CollapsedIdle,  // value: seconds of a third of the usual rate or less, other: GPU load meanwhile, percent
    RestingClock,   // value: percent of its highest that the GPU's clock has, though its work fills the frame
    InventedFrames, // value: with each rendered one
    SecondGpuLoad,  // value: percent
    TakesTurns, // frames last as the GPU's work and a share of the CPU's together. value: the share, other: how much
                // of what they differ by that explains
    RateInTest  // of a deciding run against the baseline. value: percent that the rate rose, other: ± percent
};
std::string_view keyOf(Sign sign);
struct Fact {
    Sign sign = Sign::Gap;
    double value = 0, other = 0;
};

/// The cheapest run that decides.
enum class DecidingTest {
    LowerResolution,
    LiftCap,
    FasterMode,
    FansUp,
    LowerLoad,
    TexturesDown,
    DirectRoute,
    WithoutGeneration,
    SecondRun,
    WithoutTools,
    MoreInFlight,
    LanesInLog
};
std::string_view keyOf(DecidingTest test);
/// Those that are a run.
inline constexpr std::array playedTests{
    DecidingTest::LowerResolution, DecidingTest::LiftCap,           DecidingTest::FasterMode,
    DecidingTest::FansUp,          DecidingTest::TexturesDown,      DecidingTest::LowerLoad,
    DecidingTest::DirectRoute,     DecidingTest::WithoutGeneration, DecidingTest::SecondRun,
    DecidingTest::WithoutTools,    DecidingTest::MoreInFlight};
std::optional<DecidingTest> decidingTestOf(std::string_view key);

DecidingTest testOf(Cause cause);

enum class Answer { Yes, No, Unclear };
std::string_view keyOf(Answer answer);

/// What a deciding run said of a part.
struct Tested {
    DecidingTest test = DecidingTest::LowerResolution;
    std::string part;
    double beforeMs = 0, afterMs = 0; // mean frame times
    double rise = 0, half = 0;        // of the rate, a share, and half its 95% interval
    Answer answer = Answer::Unclear;  // whether what it tests is so
};

struct Suspicion {
    Cause cause = Cause::Heat;
    run::Lane chip = run::Lane::Frame; // heat and power: whose; else Frame
    double sure = 0;                   // 0 to 1
    std::vector<Fact> evidence, against = {};
};

} // namespace impasto::limits
