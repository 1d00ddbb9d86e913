// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/walk.h>

#include <impasto/wording/layers.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {

using choose::Move;
using choose::WalkSchool;

namespace {

struct WalkWords {
    const char *name, *how;
};
/// In the order of the schools.
constexpr std::array<WalkWords, choose::allWalkSchools.size()> walkWords{
    {{"measured", "Each run is the one that tells most. Usually the fewest runs."},
     {"top-down", "All up, then the worst offender down, one a run."},
     {"top-down in leaps", "All up, then down by as many steps as seem needed."},
     {"bottom-up", "All down, then up until it breaks."},
     {"preset first", "The highest preset that holds, then up."},
     {"both ends", "All up, all down, then up one by one."},
     {"upscale first", "As set, at ever fewer pixels until it holds, then up."}}};

std::string listOf(const Words& w, const std::vector<ChangedLine>& lines) {
    std::vector<std::string> list;
    for (const auto& line : lines) list.push_back(w.say("{}: {} → {}", line.setting, line.before, line.after));
    return listed(w, list);
}

/// The first sets, each as a whole.
std::string opening(const Words& w, const game::Game& game, const cost::Layout& layout, const choose::Stride& stride) {
    const auto& size = layout.sizes[stride.next->size];
    const std::string scaled = percent(size.scale);
    switch (stride.move) {
    case Move::AllUp:
        return size.scale < 1
                   ? w.say("Everything at its highest, rendered at {}.", scaled) // a rule of the game asks it
                   : w.say("Everything at its highest, at full size.");
    case Move::AllDown:
        return size.scale < 1 ? w.say("Everything at its lowest, rendered at {}.", scaled)
                              : w.say("Everything at its lowest, at full size.");
    case Move::Preset:
        for (const auto& preset : game.presets)
            if (layout.setOf(preset.values) == stride.next) return w.say("Preset {}.", preset.name);
        return w.say("The next lower preset, with what is locked.");
    case Move::Size:
        return size.scale < 1 ? w.say("The settings in use, rendered at {}.", scaled)
                              : w.say("The settings in use, at full size.");
    case Move::Lower:
    case Move::Raise:
        break;
    }
    return {};
}

} // namespace

std::string walk(const Words& w, WalkSchool walk) {
    return w.say(walkWords.at(static_cast<std::size_t>(walk)).name);
}

std::string walkHow(const Words& w, WalkSchool walk) {
    return w.say(walkWords.at(static_cast<std::size_t>(walk)).how);
}

std::string stride(const Words& w, const document::Session& session, const results::Results& results) {
    const auto* walking = results.get<results::Walking>();
    const auto* next = results.get<results::NextRun>();
    if (walking == nullptr || next == nullptr || !next->values || session.game() == nullptr) return {};
    const auto& now = walking->stride;
    const auto& ground = results.get<results::Costs>()->ground;
    if (now.move != Move::Lower && now.move != Move::Raise)
        return opening(w, *session.game(), ground.belief().layout(), now);
    const auto from = ground.valuesOf(*now.from);
    const std::string step = listOf(w, changes(*session.game(), from, *next->values));
    if (now.move == Move::Lower)
        return w.say("{}. Of all steps down it saves most for the picture that it costs.", step);
    return w.say("{}. What held has room: of all steps up it shows most for what it costs.", step);
}

std::string proven(const Words& w, const results::Proposed& proposed) {
    if (!proposed.walked) return proposed.proposal ? proven(w, *proposed.proposal) : std::string();
    const std::string held = w.say("It held when it was run.");
    if (!proposed.exact || proposed.exact->picture <= proposed.proposal->picture + 0.0005) return held;
    return held + " " + w.say("The costs so far would allow {}.", percent(proposed.exact->picture));
}

Why whyChoice(const Words& w, const results::Proposed& proposed) {
    Why why = whyChoice(w, *proposed.proposal);
    if (!proposed.walked) return why;
    why.formula =
        w.say("Of the sets that were run and held, the one that shows most. A walk looks at one step at a time; "
              "the measured way looks at all combinations.");
    why.sure = proven(w, proposed) + " " +
               w.say("One more run of it stays within its limits with a chance of at least {}.",
                     percent(proposed.proposal->chance));
    return why;
}

} // namespace impasto::wording
