// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/names.h>

#include <impasto/results/costs.h>

#include <algorithm>
#include <cmath>

namespace impasto::wording {

std::string sceneKind(const Words& w, game::SceneKind kind) {
    switch (kind) {
    case game::SceneKind::FixedRoute:
        return w.say("Fixed route");
    case game::SceneKind::Replay:
        return w.say("Replay");
    case game::SceneKind::BuiltInTest:
        return w.say("Built-in test");
    case game::SceneKind::Cutscene:
        return w.say("Cutscene");
    case game::SceneKind::PrivateMatch:
        return w.say("Private match");
    case game::SceneKind::StillView:
        return w.say("Still view");
    case game::SceneKind::FreePlay:
        return w.say("Free play");
    }
    return {};
}

std::string sceneMeaning(const Words& w, game::SceneKind kind) {
    switch (kind) {
    case game::SceneKind::FixedRoute:
        return w.say("Runs differ by about 1%. It shows what you walk through: take the heavy places in.");
    case game::SceneKind::Replay:
        return w.say("Runs differ by half a percent. Nobody steers: the CPU may have less to do than in play.");
    case game::SceneKind::BuiltInTest:
        return w.say("Runs differ by half a percent. It may be lighter or heavier than play, and rarely shows crowds.");
    case game::SceneKind::Cutscene:
        return w.say("Runs differ by less than 1%. Its camera is close and its CPU work small; play is another load.");
    case game::SceneKind::PrivateMatch:
        return w.say("Runs differ by some 2%. A full match has more players, and more work for the CPU.");
    case game::SceneKind::StillView:
        return w.say("Runs differ by half a percent. Nothing streams in: lows look better than in play.");
    case game::SceneKind::FreePlay:
        return w.say("No two runs are alike: they differ by some 4%, and small differences cannot be told.");
    }
    return {};
}

std::string style(const Words& w, run::Style style) {
    switch (style) {
    case run::Style::Competitive:
        return w.say("competitive");
    case run::Style::Cinematic:
        return w.say("cinematic");
    case run::Style::Battery:
        return w.say("battery");
    case run::Style::WeakMachine:
        return w.say("weak machine");
    case run::Style::Headset:
        return w.say("headset");
    case run::Style::Quiet:
        return w.say("quiet");
    }
    return {};
}

std::string steering(const Words& w, std::optional<run::Steering> steering) {
    if (!steering) return w.say("anything");
    return *steering == run::Steering::Mouse ? w.say("a mouse") : w.say("a pad");
}

std::string styleWants(const Words& w, run::Style style) {
    switch (style) {
    case run::Style::Competitive:
        return w.say("a high steady rate, low latency");
    case run::Style::Cinematic:
        return w.say("the best picture that feels smooth");
    case run::Style::Battery:
        return w.say("an even rate, hours, little heat");
    case run::Style::WeakMachine:
        return w.say("30 fps without dips");
    case run::Style::Headset:
        return w.say("every frame on its refresh");
    case run::Style::Quiet:
        return w.say("less heat and noise, same feel");
    }
    return {};
}

std::string styleGivesUp(const Words& w, run::Style style) {
    switch (style) {
    case run::Style::Competitive:
        return w.say("gives up most of the picture");
    case run::Style::Cinematic:
        return w.say("gives up rate, some latency");
    case run::Style::Battery:
        return w.say("gives up rate and some picture");
    case run::Style::WeakMachine:
        return w.say("gives up resolution and effects");
    case run::Style::Headset:
        return w.say("gives up picture at the edges");
    case run::Style::Quiet:
        return w.say("gives up what nobody notices");
    }
    return {};
}

std::string lane(const Words& w, run::Lane lane) {
    switch (lane) {
    case run::Lane::Cpu:
        return w.say("CPU");
    case run::Lane::Gpu:
        return w.say("GPU");
    case run::Lane::Frame:
        return w.say("frame");
    }
    return {};
}

std::string part(const Words& w, const std::string& part) {
    if (part == results::leastSeen) return w.say("its slowest moment");
    return part.empty() ? w.say("whole run") : part;
}

std::string lowRule(const Words& w, stats::LowRule rule) {
    switch (rule) {
    case stats::LowRule::Percentile:
        return w.say("99th percentile");
    case stats::LowRule::WorstMean:
        return w.say("mean of the slowest 1%");
    case stats::LowRule::TimeShare:
        return w.say("slowest 1% of the time");
    }
    return {};
}

std::string lowRuleShort(const Words& w, stats::LowRule rule) {
    switch (rule) {
    case stats::LowRule::Percentile:
        return w.say("percentile");
    case stats::LowRule::WorstMean:
        return w.say("mean");
    case stats::LowRule::TimeShare:
        return w.say("time share");
    }
    return {};
}

std::string lowRuleMeaning(const Words& w, stats::LowRule rule) {
    switch (rule) {
    case stats::LowRule::Percentile:
        return w.say("the rate at the 99th percentile of the frame times (type 7)");
    case stats::LowRule::WorstMean:
        return w.say("the rate at the mean frame time of the slowest 1% of the frames");
    case stats::LowRule::TimeShare:
        return w.say("the rate at the frame where the slowest frames add up to 1% of the time");
    }
    return {};
}

std::string minutes(const Words& w, double value) {
    const long whole = std::max(1L, std::lround(value));
    if (whole < 60) return w.say("{} min", whole);
    return whole % 60 == 0 ? w.say("{} h", whole / 60) : w.say("{} h {} min", whole / 60, whole % 60);
}

} // namespace impasto::wording
