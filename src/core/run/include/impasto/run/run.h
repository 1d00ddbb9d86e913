// SPDX-License-Identifier: GPL-3.0-or-later
// What is wanted and what was recorded: brief, variant, order, run.
#pragma once

#include <chrono>
#include <impasto/base/id.h>
#include <impasto/capture/capture.h>
#include <impasto/game/game.h>
#include <impasto/machine/machine.h>
#include <memory>

namespace impasto::run {

/// What one frame occupies: CPU or GPU where a log tells their work, else the frame as a whole.
enum class Lane { Cpu, Gpu, Frame };
std::string_view keyOf(Lane lane);

/// The three schools of "1% low"; docs/method.md has their formulas.
enum class LowSchool { Percentile, WorstMean, TimeShare };
std::string_view keyOf(LowSchool school);
std::optional<LowSchool> lowSchoolOf(std::string_view key);

enum class Style { Competitive, Cinematic, Battery, WeakMachine, Headset, Quiet };
std::string_view keyOf(Style style);
std::optional<Style> styleOf(std::string_view key);
inline constexpr std::array<Style, 6> allStyles{Style::Competitive, Style::Cinematic, Style::Battery,
                                                Style::WeakMachine, Style::Headset,   Style::Quiet};

struct Brief {
    Fps target{60};
    std::optional<Fps> lowestLow;       // lowest bearable 1% low, in the brief's school
    std::optional<double> pictureFloor; // least share of the picture, 0 to 1
    LowSchool school = LowSchool::WorstMean;
    Style style = Style::Cinematic;
    friend bool operator==(const Brief&, const Brief&) = default;
};

enum class Sync { None, Fixed, Variable };
std::string_view keyOf(Sync sync);
std::optional<Sync> syncOf(std::string_view key);

/// A set of values. Equal content is the same variant.
struct Variant {
    game::Values values;
    display::Resolution resolution; // of the output; 0x0: not said
    std::optional<Fps> cap;
    Sync sync = Sync::None;
    friend bool operator==(const Variant&, const Variant&) = default;
};
/// The variant's key: its sorted content in one line.
std::string canonicalText(const Variant& variant);

enum class Purpose { Baseline, Cost, Check, ProofBefore, ProofAfter };
std::string_view keyOf(Purpose purpose);
std::optional<Purpose> purposeOf(std::string_view key);

/// A run that is wanted.
struct Order {
    OrderId id;
    Variant variant;
    std::string machine; // its name; empty in logbooks from before it was kept: any
    std::string route;
    double seconds = 60;        // of the route, nominally: a run varies by some percent
    bool driverUpdated = false; // the first run after an update: shaders are compiled anew
    Purpose purpose = Purpose::Baseline;
    std::uint64_t seed = 0; // its own; no two orders of a session share one
    friend bool operator==(const Order&, const Order&) = default;
};

enum class Maker { SimulatedRig, Hand, Dropped };
std::string_view keyOf(Maker maker);
std::optional<Maker> makerOf(std::string_view key);

/// One recording.
struct Run {
    RunId id;
    std::optional<OrderId> order; // none: a dropped log that answers no order
    Maker maker = Maker::Dropped;
    bool interrupted = false; // cancelled, or found half recorded at opening
    bool damaged = false;     // its stored frames failed their checksum; the capture is empty
    std::string name;         // of the file, where it came from one
    std::string rigState;     // the rig's state after it; empty for a hand-made run
    std::chrono::sys_seconds made{};
    std::shared_ptr<const capture::Capture> capture;
};

} // namespace impasto::run
