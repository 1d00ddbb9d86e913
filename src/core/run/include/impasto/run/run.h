// SPDX-License-Identifier: GPL-3.0-or-later
// What is wanted and what was recorded: brief, variant, order, run.
#pragma once

#include <chrono>
#include <impasto/base/id.h>
#include <impasto/capture/capture.h>
#include <impasto/game/game.h>
#include <impasto/machine/machine.h>
#include <impasto/run/bounds.h>
#include <impasto/stats/lows.h>
#include <memory>

namespace impasto::run {

/// What one frame occupies: CPU or GPU where a log tells their work, else the frame as a whole.
enum class Lane { Cpu, Gpu, Frame };
std::string_view keyOf(Lane lane);

enum class Style { Competitive, Cinematic, Battery, WeakMachine, Headset, Quiet };
std::string_view keyOf(Style style);
std::optional<Style> styleOf(std::string_view key);
inline constexpr std::array<Style, 6> allStyles{Style::Competitive, Style::Cinematic, Style::Battery,
                                                Style::WeakMachine, Style::Headset,   Style::Quiet};

/// What a style asks for where the user says nothing else. The shares are common practice, no source.
struct StyleRule {
    double onTimeShare = 0.97;    // of the frames, in every part
    double tolerance = 0.10;      // how far over the budget a frame still counts as on time: a dip of 10% is accepted
    double latencyWeight = 0;     // of a cap's latency against its lows
    bool pacesToTarget = true;    // the panel's even rate or the target first; else the best lows
    bool resolutionFirst = false; // what goes first: the rendered size, else the cheapest level
};
const StyleRule& ruleOf(Style style);

/// What the player steers with. Pad players notice latency less than mouse players (common practice, no source).
enum class Steering { Mouse, Pad };
std::string_view keyOf(Steering steering);
std::optional<Steering> steeringOf(std::string_view key);

/// What the lowest bearable low is a low of.
enum class FloorOf { OnePercentLow, SlowestSecond };
std::string_view keyOf(FloorOf floor);
std::optional<FloorOf> floorOfKey(std::string_view key);

struct Brief {
    Fps target{60};
    std::optional<Fps> lowestLow;             // lowest bearable low
    FloorOf floorOf = FloorOf::OnePercentLow; // the 1% low, counted as below, or the slowest whole second
    std::optional<double> onTimeShare;        // wished share of on-time frames, 0 to 1; none: the style's
    std::optional<double> tolerance;          // over the budget, a share of it; none: the style's
    std::optional<double> pictureFloor;       // least share of the picture, 0 to 1
    std::optional<Fps> shown;                 // also wished: so many shown, invented ones among them
    BoundFigures bounds;                      // also asked
    stats::LowRule lowRule = stats::LowRule::WorstMean;
    Style style = Style::Cinematic;
    std::optional<Steering> steering = {}; // none: not said
    /// The lowest low that is asked for: never above the target.
    [[nodiscard]] std::optional<Fps> floor() const {
        return lowestLow ? std::optional(std::min(*lowestLow, target)) : std::nullopt;
    }
    [[nodiscard]] double wishedOnTime() const { return onTimeShare.value_or(ruleOf(style).onTimeShare); }
    [[nodiscard]] double tolerated() const { return tolerance.value_or(ruleOf(style).tolerance); }
    /// Of a cap's latency against its lows: the style's; half of it with a pad, and with a mouse 0.2 at the least (our
    /// choice).
    [[nodiscard]] double latencyWeight() const;
    friend bool operator==(const Brief&, const Brief&) = default;
};

/// When a finished frame is shown. None: at once, torn. Fixed: at the next refresh, each for its own. Latest: at the
/// next refresh, the newest one; older ones are lost. Variable: the panel follows inside its range and makes faster
/// frames wait. VariableTearing: the same, but faster frames tear.
enum class Sync { None, Fixed, Latest, Variable, VariableTearing };
std::string_view keyOf(Sync sync);
std::optional<Sync> syncOf(std::string_view key);

/// Where a cap holds frames back: before their CPU work, when it is handed over, before their GPU work, or at the
/// panel.
enum class LimiterPlace { Engine, Present, Driver, Compositor };
std::string_view keyOf(LimiterPlace place);
std::optional<LimiterPlace> limiterPlaceOf(std::string_view key);
inline constexpr std::array<LimiterPlace, 4> allLimiterPlaces{LimiterPlace::Engine, LimiterPlace::Present,
                                                              LimiterPlace::Driver, LimiterPlace::Compositor};

struct Upscaling {
    game::UpscalerKind kind = game::UpscalerKind::Spatial;
    double ratio = 1.5; // output / rendered size, per axis
    friend bool operator==(const Upscaling&, const Upscaling&) = default;
};

enum class GenerationKind { BuiltIn, Driver, External };
std::string_view keyOf(GenerationKind kind);
std::optional<GenerationKind> generationKindOf(std::string_view key);

struct Generation {
    GenerationKind kind = GenerationKind::BuiltIn;
    int multiplier = 2;             // shown frames a rendered one
    std::optional<Fps> target = {}; // instead of a multiplier: as many as bring the shown rate near it
    bool onSecondGpu = false;
    friend bool operator==(const Generation&, const Generation&) = default;
};
inline constexpr int mostMultiplier = 20;

/// A set of values. Equal content is the same variant.
struct Variant {
    game::Values values;
    display::Resolution resolution; // of the output, where no setting says it; 0x0: not said
    std::optional<Fps> cap;
    Sync sync = Sync::None;
    std::optional<Fps> idleCap = {}; // while nothing moves
    LimiterPlace limiter = LimiterPlace::Engine;
    std::optional<Hertz> refresh = {}; // the panel's mode; none: as the machine says
    std::optional<Upscaling> upscaling = {};
    double sharpening = 0; // strength, 0 to 1; 0: off
    std::optional<Generation> generation = {};
    bool direct = false; // the panel hangs on the GPU that renders, where the machine has a copy route
    friend bool operator==(const Variant&, const Variant&) = default;
};
/// The variant's key: its sorted content in one line; what is off is left out.
std::string canonicalText(const Variant& variant);

/// Test: it decides what limits the baseline, and changes one thing that no setting is.
enum class Purpose { WarmUp, Baseline, Cost, Check, ProofBefore, ProofAfter, Test };
std::string_view keyOf(Purpose purpose);
std::optional<Purpose> purposeOf(std::string_view key);

enum class FanProfile { Automatic, Quiet, Full };
std::string_view keyOf(FanProfile profile);
std::optional<FanProfile> fanProfileOf(std::string_view key);
enum class PowerPlan { Balanced, Performance, Saving };
std::string_view keyOf(PowerPlan plan);
std::optional<PowerPlan> powerPlanOf(std::string_view key);
enum class Supply { Mains, Battery };
std::string_view keyOf(Supply supply);
std::optional<Supply> supplyOf(std::string_view key);

enum class WindowMode { FullScreen, Borderless, Windowed };
std::string_view keyOf(WindowMode mode);
std::optional<WindowMode> windowModeOf(std::string_view key);

/// What a run is made under, besides its variant.
struct Conditions {
    FanProfile fans = FanProfile::Automatic;
    PowerPlan plan = PowerPlan::Balanced;
    Supply supply = Supply::Mains;
    WindowMode window = WindowMode::FullScreen;
    double warmUpSeconds = 0;   // played before the recording
    bool driverUpdated = false; // the first run after an update: shaders are compiled anew
    bool reload = true;         // the save is reloaded first: values that wait for that take effect
    friend bool operator==(const Conditions&, const Conditions&) = default;
};
/// Whether figures of runs made under both may be compared: what was played or loaded before and a driver's first run
/// aside, they are the same.
bool comparable(const Conditions& a, const Conditions& b);

/// A run that is wanted.
struct Order {
    OrderId id;
    Variant variant;
    std::string machine, game; // their names; empty in logbooks from before they were kept: any
    std::string route;
    double seconds = 60; // of the route, nominally: a run varies by some percent
    Conditions conditions;
    Purpose purpose = Purpose::Baseline;
    std::uint64_t seed = 0; // its own; no two orders of a session share one
    friend bool operator==(const Order&, const Order&) = default;
};

enum class Maker { SimulatedRig, Hand, Dropped };
std::string_view keyOf(Maker maker);
std::optional<Maker> makerOf(std::string_view key);

/// What a person read off the game's counter or built-in test, or what a table of rates says, where no frame was
/// recorded.
struct ReadOff {
    Fps average{0};
    std::optional<Fps> least, most;   // of what was seen
    std::optional<Fps> onePercentLow; // as the built-in test counts it
    std::optional<Mebibytes> gpuMemory;
    std::vector<double> rates = {};    // fps, a step each, where a table of them was read
    std::optional<double> stepMs = {}; // how long a step lasts, where the table says so
    /// Standard deviation of the average, relative: of a counter that is watched, or less where more was counted (half
    /// a minute or more of a table);
    /// common practice, no source.
    [[nodiscard]] double doubt() const;
    friend bool operator==(const ReadOff&, const ReadOff&) = default;
};
/// A figure that cannot be, by its key ("average_fps", "least_fps", ...), and the range that it may have.
struct ReadOffFault {
    std::string_view key;
    std::string range;
};
std::optional<ReadOffFault> faultOf(const ReadOff& figures);

/// One recording, or what was read off in its place.
struct Run {
    RunId id;
    std::optional<OrderId> order; // none: a dropped log that answers no order
    Maker maker = Maker::Dropped;
    bool interrupted = false; // cancelled, or found half recorded at opening
    bool damaged = false;     // its stored frames failed their checksum; the capture is empty
    bool crashed = false;     // the program ended while it was computed; its frames are not loaded
    std::string name;         // of the file, where it came from one
    std::string rigState;     // the rig's state after it; empty for a hand-made run
    std::chrono::sys_seconds made{};
    std::shared_ptr<const capture::Capture> capture; // without frames where they were read off
    std::optional<ReadOff> readOff = {};
};

} // namespace impasto::run
