// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/limits.h>

#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::string bottleneck(const Words& w, const limits::PartVerdict& v) {
    const bool sure = v.certainty() == limits::Certainty::Sure;
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
        if (const auto* held = limits::heldBy(v))
            return held->sure >= 0.85 ? w.say("Held by {}, nearly sure", causeName(w, *held))
                                      : w.say("Held by {}, likely", causeName(w, *held));
        return v.flat ? w.say("Held at one rate: by a cap, a sync or something else")
               : v.beside.ms > 0
                   ? w.say("Unclear: {} ms of every frame follow the GPU's work, told by no reading", ms(v.beside.ms))
               : v.cpu && v.gpu ? w.say("Unclear: neither CPU nor GPU fills the frame")
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
        std::string out =
            v.periodMs > limit
                ? w.say("A frame takes {} ms on average, {} ms over its safe limit of {} ms.", ms(v.periodMs),
                        ms(v.periodMs - limit), ms(limit))
                : w.say("A frame takes {} ms on average, with {} ms of room under its safe limit of {} ms.",
                        ms(v.periodMs), ms(limit - v.periodMs), ms(limit));
        return v.facts.empty() ? out : out + " " + facts(w, v.facts); // loads that decided
    }
    const bool gpu = v.gpu->meanMs >= v.cpu->meanMs || v.beside.cpuShare > 0;
    const auto& longer = gpu ? *v.gpu : *v.cpu;
    const auto& other = gpu ? *v.cpu : *v.gpu;
    const auto lane = gpu ? run::Lane::Gpu : run::Lane::Cpu, rest = gpu ? run::Lane::Cpu : run::Lane::Gpu;
    const double limit = *limits::usableMs(v, lane, budget);
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
    return decidingTest(w, v.test(), v.brake);
}

std::string decidingTest(const Words& w, limits::DecidingTest test, limits::Brake brake) {
    using limits::DecidingTest;
    switch (test) {
    case DecidingTest::LowerResolution:
        if (brake == limits::Brake::CannotTell)
            return w.say("To tell, lower the render scale: if the rate rises, the GPU has a part in it; if not, the "
                         "CPU or something beside both holds the frames.");
        return brake == limits::Brake::Cpu
                   ? w.say("To confirm, lower the render scale: if the rate moves less than 3%, the CPU is the "
                           "bottleneck.")
                   : w.say("To confirm, lower the render scale: if the rate rises, the GPU is the bottleneck.");
    case DecidingTest::LiftCap:
        if (brake == limits::Brake::CannotTell)
            return w.say("To tell, turn off every cap and sync: if the rate rises, one of them held it.");
        return w.say("To confirm, turn off the cap: the rate rises.");
    case DecidingTest::FasterMode:
        return w.say("To confirm, turn off sync, or choose a faster mode: the rate rises.");
    case DecidingTest::FansUp:
        return w.say("To confirm, turn the fans up and record again: if the rate comes back, it is heat. Keep to what "
                     "the maker allows.");
    case DecidingTest::LowerLoad:
        return w.say("To confirm, lower one of the heavy settings: if the clock rises by itself, the power limit holds "
                     "it.");
    case DecidingTest::TexturesDown:
        return w.say("To confirm, set textures a step lower and close other programs: if the long frames go, it is "
                     "memory.");
    case DecidingTest::DirectRoute:
        return w.say("To confirm, let the rendering GPU drive the panel (its own socket, or the setting that leaves "
                     "the copy out): the rate rises by what the copy costs.");
    case DecidingTest::WithoutGeneration:
        return w.say("To confirm, turn frame generation off: the rendered rate rises by what inventing takes.");
    case DecidingTest::SecondRun:
        return w.say("To confirm, play the same once more: hitches at first sight are gone in the second run.");
    case DecidingTest::WithoutTools:
        return w.say(
            "To confirm, leave overlays, recorders and tuning tools out and record again: if the rate stays, it "
            "was one of them, else look at the driver.");
    case DecidingTest::MoreInFlight:
        return w.say("To confirm, turn off the low-latency mode of game and driver, or let more frames wait: if the "
                     "rate rises, CPU and GPU took turns. It costs latency.");
    case DecidingTest::LanesInLog:
        return w.say("To tell, use a log with CPU and GPU times, or runs at two render scales.");
    }
    return {};
}

std::string testName(const Words& w, limits::DecidingTest test) {
    using limits::DecidingTest;
    switch (test) {
    case DecidingTest::LowerResolution:
        return w.say("lower render scale");
    case DecidingTest::LiftCap:
        return w.say("cap off");
    case DecidingTest::FasterMode:
        return w.say("faster mode");
    case DecidingTest::FansUp:
        return w.say("fans up");
    case DecidingTest::LowerLoad:
        return w.say("lower load");
    case DecidingTest::TexturesDown:
        return w.say("textures a step down");
    case DecidingTest::DirectRoute:
        return w.say("without the copy route");
    case DecidingTest::WithoutGeneration:
        return w.say("without frame generation");
    case DecidingTest::SecondRun:
        return w.say("the same once more");
    case DecidingTest::WithoutTools:
        return w.say("without other tools");
    case DecidingTest::MoreInFlight:
        return w.say("more frames in flight");
    case DecidingTest::LanesInLog:
        return w.say("a log with CPU and GPU times");
    }
    return {};
}

std::string pairFinding(const Words& w, const limits::PairFinding& f) {
    using limits::PairSign;
    switch (f.sign) {
    case PairSign::NotApplied:
        return w.say("Nothing moved by 1% ({}% at most): what was changed seems not to be applied.",
                     signedPlusMinus(f.after, {}, 1));
    case PairSign::HitchesFirstOnly:
        return w.say(
            "Hitches take {:.1f}% of the first run and {:.1f}% of the others: compiled or loaded there for the "
            "first time. Leave that run out.",
            f.before, f.after);
    case PairSign::CopyRouteOff:
        return w.say("{} ms of every frame went ({}), as when frames are no longer copied through another chip.",
                     ms(f.before - f.after), part(w, f.part));
    case PairSign::CopyRouteOn:
        return w.say("{} ms of every frame came ({}), as when frames are copied through another chip.",
                     ms(f.after - f.before), part(w, f.part));
    }
    return {};
}

std::string testedLine(const Words& w, const limits::Tested& t) {
    using limits::Answer;
    using limits::DecidingTest;
    const std::string moved = w.say("{} \u2192 {} ({}%)", fps(1000 / t.beforeMs), fps(1000 / t.afterMs),
                                    signedPlusMinus(100 * t.rise, 100 * t.half, 0));
    if (t.answer == Answer::Unclear) return w.say("{}: it does not decide.", moved);
    if (t.test == DecidingTest::LowerResolution)
        return t.answer == Answer::Yes ? w.say("{}: the GPU.", moved) : w.say("{}: not the GPU.", moved);
    const std::string name = t.test == DecidingTest::FansUp              ? w.say("heat")
                             : t.test == DecidingTest::LowerLoad         ? w.say("the power limit")
                             : t.test == DecidingTest::TexturesDown      ? w.say("memory")
                             : t.test == DecidingTest::DirectRoute       ? w.say("the copy route")
                             : t.test == DecidingTest::WithoutGeneration ? w.say("frame generation")
                             : t.test == DecidingTest::SecondRun         ? w.say("hitches at first sight")
                             : t.test == DecidingTest::WithoutTools      ? w.say("a fault of a tool")
                             : t.test == DecidingTest::MoreInFlight      ? w.say("CPU and GPU taking turns")
                             : t.test == DecidingTest::LiftCap           ? w.say("the cap")
                                                                         : w.say("the refresh");
    return t.answer == Answer::Yes ? w.say("{}: {}.", moved, name) : w.say("{}: not {}.", moved, name);
}

std::string causeName(const Words& w, const limits::Suspicion& s) {
    using limits::Cause;
    switch (s.cause) {
    case Cause::Heat:
        return s.chip == run::Lane::Cpu ? w.say("heat of the CPU") : w.say("heat of the GPU");
    case Cause::Power:
        return w.say("the power limit");
    case Cause::GpuMemory:
        return w.say("GPU memory");
    case Cause::SystemMemory:
        return w.say("system memory");
    case Cause::CopyRoute:
        return w.say("the copy route");
    case Cause::Generation:
        return w.say("frame generation");
    case Cause::FirstSight:
        return w.say("hitches at first sight, compiling or loading");
    case Cause::ToolFault:
        return w.say("a fault of a tool or the driver");
    case Cause::Turns:
        return w.say("CPU and GPU taking turns, one frame in flight");
    }
    return {};
}

std::string causeLine(const Words& w, const limits::Suspicion& s) {
    const std::string name = causeName(w, s);
    return s.sure >= 0.85  ? w.say("Behind it: {}, nearly sure.", name)
           : s.sure >= 0.6 ? w.say("Behind it: {}, likely.", name)
                           : w.say("Perhaps {}.", name);
}

std::string fact(const Words& w, const limits::Fact& f) {
    using limits::Sign;
    const auto whole = [](double v) { return fmt::format("{:.0f}", v); };
    const auto one = [](double v) { return fmt::format("{:.1f}", v); };
    switch (f.sign) {
    case Sign::ClockFell:
        return w.say("its clock fell from {} to {} once it was hot", whole(f.value), whole(f.other));
    case Sign::AtCeiling:
        return w.say("it is close to {}\u00a0\u00b0C, the hottest it gets, {} of the time", whole(f.value),
                     percent(f.other));
    case Sign::HotAllAlong:
        return w.say("it was hot from the first second on, so no clock of a cool one is known");
    case Sign::PowerFlat:
        return w.say("its power stands at {} W, within {}", whole(f.value), percent(f.other));
    case Sign::ClockMoves:
        return w.say("the clock moves by {} meanwhile", percent(f.value));
    case Sign::MemoryUse:
        return w.say("{} of {} MiB are in use", whole(f.value), whole(f.other));
    case Sign::LongFrames:
        return w.say("frames of over 100 ms: {}", whole(f.value));
    case Sign::Gap:
        return w.say("{} ms of the frame, {}, are neither CPU nor GPU work", ms(f.value), percent(f.other));
    case Sign::WiredThrough:
        return w.say("frames are copied through another graphics chip");
    case Sign::GpuLoad:
        return w.say("GPU load {}%", whole(f.value));
    case Sign::CpuLoad:
        return w.say("CPU load {}%", whole(f.value));
    case Sign::BusiestCore:
        return w.say("the busiest core {}%", whole(f.value));
    case Sign::LostInFirstRun:
        return w.say("hitches take {}% of the first run and {}% of those after it", one(f.value), one(f.other));
    case Sign::LostInHitches:
        return w.say("hitches take {}% of its time", one(f.value));
    case Sign::CollapsedIdle:
        return w.say("for {} s the rate fell to a third or less while the GPU rested at {}%", whole(f.value),
                     whole(f.other));
    case Sign::RestingClock:
        return w.say("the GPU's clock rests at {}% of its highest, so its work only seems to fill the frame",
                     whole(f.value));
    case Sign::InventedFrames:
        return w.say("frames invented with each rendered one: {}", one(f.value));
    case Sign::SecondGpuLoad:
        return w.say("the second GPU is {}% busy", whole(f.value));
    case Sign::TakesTurns:
        return w.say("a frame lasts as long as the GPU's work and {} of the CPU's together, which explains {} of what "
                     "frames differ by",
                     percent(f.value), percent(f.other));
    case Sign::RateInTest:
        return w.say("in the deciding run the rate moved by {}%", signedPlusMinus(f.value, f.other, 1));
    }
    return {};
}

std::string facts(const Words& w, std::span<const limits::Fact> all) {
    std::vector<std::string> parts;
    for (const auto& each : all) parts.push_back(fact(w, each));
    std::string out = listed(w, parts);
    if (!out.empty()) {
        out.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(out.front())));
        out += '.';
    }
    return out;
}

std::string changeName(const Words& w, const limits::WhatIf& change) {
    const std::string by = percent(change.by);
    switch (change.change) {
    case limits::Change::GpuFaster:
        return w.say("GPU {} faster", by);
    case limits::Change::CpuFaster:
        return w.say("CPU {} faster", by);
    case limits::Change::BothFaster:
        return w.say("both {} faster", by);
    case limits::Change::FansUp:
        return w.say("fans up");
    case limits::Change::PowerHigher:
        return w.say("power limit {} higher", by);
    case limits::Change::NoCopyRoute:
        return w.say("no copy route");
    }
    return {};
}

} // namespace impasto::wording
