// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/headset.h>

#include <impasto/wording/numbers.h>

namespace impasto::wording {

std::string foveationVerdict(const Words& w, pace::FoveationAdvice advice) {
    switch (advice) {
    case pace::FoveationAdvice::NotNeeded:
        return w.say("not needed: the frames come on time without");
    case pace::FoveationAdvice::Use:
        return w.say("GPU limited, the CPU has room: try it");
    case pace::FoveationAdvice::CpuLacks:
        return w.say("the CPU has no room: leave it off");
    case pace::FoveationAdvice::NotEnough:
        return w.say("it helps, but not enough alone");
    case pace::FoveationAdvice::CpuNotTold:
        return w.say("cannot tell: the CPU's work is not known");
    }
    return {};
}

std::string foveationReason(const Words& w, const pace::Foveation& f, Hertz mode) {
    const double refresh = 1000 / mode.value();
    const std::string usual = w.say("Usually it saves a tenth of the GPU's work, here {} ms, and costs the CPU about "
                                    "{} ms (common practice, no source: run it to know).",
                                    ms(f.gpuSavedMs), ms(f.cpuCostMs));
    if (!f.cpuMs)
        return usual + " " +
               w.say(
                   "The log's CPU time is the wait for the headset. Where the CPU is nearly full it makes both worse.");
    const double room = refresh - *f.cpuMs;
    if (room < f.cpuCostMs)
        return usual + " " +
               w.say("The CPU has {} ms left: frames would come late, and the GPU would wait for them.",
                     ms(std::max(0.0, room)));
    return usual + " " +
           w.say("The CPU keeps {} ms of room. On time {} to {}.", ms(room - f.cpuCostMs), percent(f.onTime),
                 percent(f.onTimeWith));
}

std::vector<std::string> headsetCautions(const Words& w) {
    return {w.say("Stop when you feel unwell. A lower refresh on time is kinder than a higher one that comes late."),
            w.say("Never two foveations at once: switch off the headset's own before the game's."),
            w.say("Foveation may switch off reflections on screen, ambient occlusion or an upscaler.")};
}

Why whyHeadset(const Words& w, Hertz mode, bool cpuTold) {
    return {w.say("On time at {} Hz", wishFps(Fps(mode.value()))),
            w.say("shown for one refresh, in the part where that is rarest"),
            w.say("At other rates the recorded work is replayed with frames that start and are shown on refreshes, {} "
                  "ms each. A "
                  "frame that misses its refresh is replaced by one that the runtime makes: two refreshes long is half "
                  "rate, three a third.",
                  ms(1000 / mode.value())),
            cpuTold ? w.say("CPU and GPU work are from the log.")
                    : w.say("The CPU's reading stands at whole refreshes: it is a wait. A frame that came late without "
                            "the GPU's fault is the CPU's, which may have taken nearly all of the time that it stayed: "
                            "at slower rates more may be on time than is said, at faster ones fewer."),
            w.say("The rate it was recorded at is as recorded; others are predictions until they are run.")};
}

} // namespace impasto::wording
