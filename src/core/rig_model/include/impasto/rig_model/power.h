// SPDX-License-Identifier: GPL-3.0-or-later
// What a simulated machine draws, how warm it gets and at which clock it runs. Clocks are shares of the highest one.
#pragma once

#include <impasto/run/run.h>
#include <optional>

namespace impasto::rig_model {

/// P = idle + static f^2 + dynamic u f^2.6 at clock f and busy share u.
struct Chip {
    double idleW = 0, staticW = 0, dynamicW = 0;
    double clockBound = 0.9;          // share of the work that waits for the clock
    double lowestClock = 0.4;         // of 1
    std::optional<double> sustainedW; // none: no limit of its own
    double burstW = 0;
    double highestClock = 1; // a power plan may keep it lower
};

/// First-order heat: C dT/dt = P - (h0 + h1 fan) (T - ambient).
struct Heat {
    double wattPerKelvin = 1, fanWattPerKelvin = 1, joulePerKelvin = 100;
    double limitC = 85, bandC = 8;     // above the limit the clock falls, to the lowest over the band
    double fanFromC = 45, fanToC = 85; // of the fan's curve
    double quietFan = 0.3;             // the most that a quiet profile gives
    double leastFan = 0.05, mostFan = 1;
};

/// Power that both chips share.
struct SharedPower {
    double sustainedW = 15, burstW = 18;
};

/// Sets the clock after the busy share it sees, late and in steps.
struct Governor {
    double periodMs = 50, smoothing = 0.8;    // of the busy share it believes; lag = period / smoothing
    double cpuTarget = 0.35, gpuTarget = 0.6; // busy share that it steers to
    double mostStepUp = 2;                    // factor a period
};

struct Power {
    Chip cpu, gpu;
    Heat cpuHeat, gpuHeat; // the same sink where heatIsShared: then gpuHeat is it
    bool heatIsShared = false;
    std::optional<SharedPower> shared;
    std::optional<Governor> governor;
    double boostSeconds = 12; // over which the drawn power is averaged against its limit
    double restW = 20;        // of everything else
    double ambientC = 24;
    double savingClock = 0.6;  // the most that the saving plan gives
    double batteryShare = 0.6; // of the sustained and burst powers, on battery
};

/// The machine under the conditions of an order: fans hushed or full; the performance plan holds every clock up, the
/// saving plan keeps it low; on battery the power limits are lower.
Power under(const Power& power, const run::Conditions& conditions);

} // namespace impasto::rig_model
