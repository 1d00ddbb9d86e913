// SPDX-License-Identifier: GPL-3.0-or-later
// What hands do at Pace: a cap is chosen, the ten frames go to the slowest.
#include "shell/studio.h"
#include "stations/pace/pace.h"

#include <QtCore/Qt>

namespace impasto::app {
namespace {

using Q = const QString&;

void chooseCap(Studio& s, Q key) {
    const auto* cap = s.view().get<results::CapView>();
    if (cap == nullptr) return;
    for (const auto& offer : cap->offers)
        if (qs(std::string(pace::keyOf(offer.school))) == key && offer.applies)
            return s.apply(
                document::chooseCap({offer.school, offer.cap, results::standingOf(*s.view().results).ofCap()}));
}

StateLine state(const View& view) {
    const auto& cap = view.edits().pacing.cap;
    return !cap ? notYet() : cap->cap ? say("cap %1 fps").arg(qs(wording::wishFps(*cap->cap))) : say("no cap");
}

QString stale(const View& view) {
    return qs(wording::stale(view.w, results::standingOf(*view.results).cap));
}

std::optional<wording::Why> whyCap(const View& view, Q key) {
    const auto* cap = view.get<results::CapView>();
    if (cap == nullptr) return std::nullopt;
    for (const auto& offer : cap->offers)
        if (key.isEmpty() || qs(std::string(pace::keyOf(offer.school))) == key)
            return wording::whyCap(view.w, offer, view.rules);
    return std::nullopt;
}

void showFrames(Studio& s, bool frames) {
    s.state<PaceState>().frames = frames;
    s.notify();
}

} // namespace

void nextWorstFrame(Studio& s) {
    const auto* cap = s.view().get<results::CapView>();
    if (cap == nullptr || cap->offers.empty()) return;
    auto& first = s.state<PaceState>().firstFrame;
    const auto frames = pace::replayedFrames(cap->replay, s.view().edits().pacing.cap ? s.view().edits().pacing.cap->cap
                                                                                      : cap->offers.front().cap);
    std::size_t worst = 0;
    double most = 0;
    for (std::size_t i = 20; i + 20 < frames.size(); ++i)
        if (const double gap = frames[i].shown - frames[i - 1].shown;
            gap > most && (i < first + 12 || i > first + 24)) {
            most = gap;
            worst = i;
        }
    first = worst > 17 ? worst - 17 : 0;
    s.notify();
}

Station paceStation() {
    using path::Action;
    Station station{{"pace"}, "Pace", {Action::ChooseCap}, {Action::RecordCheck}, state, stale};
    station.easel = layoutPace;
    station.column = layoutPaceColumn;
    station.hands = {{"cap.", chooseCap},
                     {"pace.frames", [](Studio& s, Q) { showFrames(s, true); }},
                     {"pace.caps", [](Studio& s, Q) { showFrames(s, false); }}};
    station.keys = {{Qt::Key_N, "N", "the slowest frames", nextWorstFrame},
                    {Qt::Key_V, "V", "frames or caps, in a low window",
                     [](Studio& s) { showFrames(s, !s.state<PaceState>().frames); }}};
    station.topics = {{"cap", whyCap}};
    station.topic = "cap";
    station.shots = {{"pace", Action::ChooseCap, nextWorstFrame}};
    return station;
}

} // namespace impasto::app
