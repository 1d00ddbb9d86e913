// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/limits.h>

#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::string bottleneck(const Words& w, const limits::PartVerdict& v) {
    const bool sure = v.certainty == limits::Certainty::Sure;
    switch (v.brake) {
    case limits::Brake::Gpu:
        return sure ? w.say("GPU-limited, sure") : w.say("GPU-limited, likely");
    case limits::Brake::Cpu:
        return sure ? w.say("CPU-limited, sure") : w.say("CPU-limited, likely");
    case limits::Brake::Cap:
        return sure ? w.say("Limited by the cap, sure") : w.say("Limited by the cap, likely");
    case limits::Brake::Refresh:
        return sure ? w.say("Limited by the refresh, sure") : w.say("Limited by the refresh, likely");
    case limits::Brake::CannotTell:
        return v.cpu && v.gpu ? w.say("Unclear: neither CPU nor GPU fills the frame")
                              : w.say("Unclear: this log does not separate CPU from GPU");
    }
    return {};
}

std::string bottleneckEvidence(const Words& w, const limits::PartVerdict& v, Fps target) {
    const double budget = budgetOf(target).value();
    // A frame that a headset paces has nothing to save; the work that it tells may.
    if (const auto* told = v.gpu   ? &*v.gpu
                           : v.cpu ? &*v.cpu
                                   : nullptr;
        v.brake == limits::Brake::Refresh && told != nullptr && !(v.cpu && v.gpu)) {
        const double limit = told->safeShare * budget;
        const std::string name = lane(w, v.gpu ? run::Lane::Gpu : run::Lane::Cpu);
        return told->meanMs > limit
                   ? w.say("Frames are paced to {} ms. The {} takes {} ms of that, {} ms over its safe limit of {} ms.",
                           ms(v.periodMs), name, ms(told->meanMs), ms(told->meanMs - limit), ms(limit))
                   : w.say("Frames are paced to {} ms. The {} takes {} ms of that, with {} ms of room under its safe "
                           "limit of {} ms.",
                           ms(v.periodMs), name, ms(told->meanMs), ms(limit - told->meanMs), ms(limit));
    }
    if (!v.cpu || !v.gpu) {
        const double limit = v.frame.safeShare * budget;
        return v.periodMs > limit
                   ? w.say("A frame takes {} ms on average, {} ms over its safe limit of {} ms.", ms(v.periodMs),
                           ms(v.periodMs - limit), ms(limit))
                   : w.say("A frame takes {} ms on average, with {} ms of room under its safe limit of {} ms.",
                           ms(v.periodMs), ms(limit - v.periodMs), ms(limit));
    }
    const bool gpu = v.gpu->meanMs >= v.cpu->meanMs;
    const auto& longer = gpu ? *v.gpu : *v.cpu;
    const auto& other = gpu ? *v.cpu : *v.gpu;
    const auto lane = gpu ? run::Lane::Gpu : run::Lane::Cpu, rest = gpu ? run::Lane::Cpu : run::Lane::Gpu;
    const double limit = longer.safeShare * budget;
    const std::string one = wording::lane(w, lane), two = wording::lane(w, rest);
    if (longer.meanMs > budget)
        return w.say("The {0} takes {1} ms of a {2} ms frame, the {3} {4} ms. {0} {5} ms over the budget, {6} ms over "
                     "its safe limit of {7} ms.",
                     one, ms(longer.meanMs), ms(v.periodMs), two, ms(other.meanMs), ms(longer.meanMs - budget),
                     ms(longer.meanMs - limit), ms(limit));
    if (longer.meanMs > limit)
        return w.say("The {0} takes {1} ms of a {2} ms frame, the {3} {4} ms. {0} inside the budget, {5} ms over its "
                     "safe limit of {6} ms.",
                     one, ms(longer.meanMs), ms(v.periodMs), two, ms(other.meanMs), ms(longer.meanMs - limit),
                     ms(limit));
    return w.say("The {0} takes {1} ms of a {2} ms frame, the {3} {4} ms. {0} {5} ms of room under its safe limit of "
                 "{6} ms.",
                 one, ms(longer.meanMs), ms(v.periodMs), two, ms(other.meanMs), ms(limit - longer.meanMs), ms(limit));
}

std::string bottleneckTest(const Words& w, const limits::PartVerdict& v) {
    switch (v.brake) {
    case limits::Brake::Gpu:
        return w.say("To confirm, lower the render scale: if the rate rises, the GPU is the bottleneck.");
    case limits::Brake::Cpu:
        return w.say("To confirm, lower the render scale: if the rate moves less than 3%, the CPU is the bottleneck.");
    case limits::Brake::Cap:
        return w.say("To confirm, turn off the cap: the rate rises.");
    case limits::Brake::Refresh:
        return w.say("To confirm, turn off sync, or choose a faster mode: the rate rises.");
    case limits::Brake::CannotTell:
        return w.say("To tell, use a log with CPU and GPU times, or runs at two render scales.");
    }
    return {};
}

} // namespace impasto::wording
