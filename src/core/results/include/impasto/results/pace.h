// SPDX-License-Identifier: GPL-3.0-or-later
// Every rule for a cap, on the frames of the chosen settings.
#pragma once

#include <impasto/pace/cap.h>
#include <impasto/pace/generate.h>
#include <impasto/results/runs.h>

namespace impasto::results {

struct CapView {
    pace::Replay replay;
    RunId run;                        // whose frames
    std::optional<pace::Power> power; // what they drew; none: they tell none
    std::vector<pace::CapOffer> offers;
    std::optional<double> gain; // of the first over the best that was proven (pace::CapOffers)
    std::vector<pace::CapPrediction> curve;
};
std::size_t bytesOf(const CapView& view);
/// A chosen cap of one's own, predicted like the others.
struct OwnCap {
    std::optional<pace::CapOffer> offer;
    std::optional<pace::GenerationOffer> invented; // the chosen plan with invented frames
};
/// A cap that was not run yet and that is expected to serve the goals better than those that were, while the target is
/// held; nullptr without one, or after four caps of the same values.
const pace::CapOffer* otherCap(const CapView& caps);
/// What is predicted of the chosen cap, else of the one to take; nullptr without either.
const pace::CapOffer* shownOffer(const document::Session& session, const Results& results);

std::vector<Stage> paceStages();

} // namespace impasto::results
