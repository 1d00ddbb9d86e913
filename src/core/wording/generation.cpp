// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/generation.h>

#include <impasto/wording/bounds.h>
#include <impasto/wording/numbers.h>

namespace impasto::wording {
namespace {

constexpr double collapses = 0.5; // of the base
constexpr double smoothBase = 40; // fps: under it nothing is steered well. Common practice, no source

} // namespace

std::string generationKind(const Words& w, run::GenerationKind kind) {
    switch (kind) {
    case run::GenerationKind::BuiltIn:
        return w.say("built in");
    case run::GenerationKind::Driver:
        return w.say("driver");
    case run::GenerationKind::External:
        return w.say("external");
    }
    return {};
}

std::string generationPlace(const Words& w, const run::Generation& generation) {
    return generation.onSecondGpu ? w.say("second GPU") : w.say("same GPU");
}

std::string generationTimes(const Words& w, const run::Generation& generation) {
    if (generation.target) return w.say("adaptive to {} fps", wishFps(*generation.target));
    return w.say("\u00d7{}", generation.multiplier);
}

std::string generationLine(const Words& w, const pace::GenerationOffer& offer) {
    return w.say("{} {}: base {}, shown {} fps", generationKind(w, offer.generation().kind),
                 generationTimes(w, offer.generation()), fps(offer.base.middle), fps(offer.shown.middle));
}

std::string generationKeepsUp(const Words& w, const pace::GenerationOffer& offer) {
    if (offer.keepsUp) return w.say("keeps up: {} busy", percent(offer.busy));
    return w.say("too slow: {} busy", percent(offer.busy));
}

std::string generationBusy(const Words& w, const pace::GenerationOffer& offer) {
    return w.say("{:.0f}% busy", 100 * offer.busy);
}

std::string generationMisses(const Words& w, const run::Brief& brief, const pace::GenerationOffer& offer) {
    if (!offer.misses) return {};
    if (*offer.misses == pace::GenerationMiss::Base) return w.say("base under {}", wishFps(brief.target));
    if (*offer.misses == pace::GenerationMiss::Latency)
        return boundMissed(w, run::Bound::Latency, *brief.bounds[run::Bound::Latency], *offer.latencyMs);
    return w.say("under {}", wishFps(*brief.shown));
}

std::vector<std::string> generationCautions(const Words& w, const run::Brief& brief, const pace::GenerationOffer& offer,
                                            std::optional<double> latencyWithout) {
    std::vector<std::string> out;
    const double base = offer.base.middle;
    if (brief.style == run::Style::Competitive)
        out.push_back(w.say("Do not use it here: it answers later, and aims at frames that never were."));
    if (offer.latencyMs && latencyWithout && *offer.latencyMs > *latencyWithout)
        out.push_back(w.say("Steering stays at {} fps: it looks smoother and answers {} ms later.", fps(base),
                            ms(*offer.latencyMs - *latencyWithout)));
    else
        out.push_back(w.say("Steering stays at {} fps.", fps(base)));
    const double least = pace::leastBase(brief).value();
    if (base < smoothBase)
        out.push_back(w.say("A base under {:.0f}: smooth to look at, not to steer.", smoothBase));
    else if (base < least)
        out.push_back(brief.steering ? w.say("A base of {:.0f} to {:.0f} is felt with a mouse; it suits slow games.",
                                             smoothBase, least)
                                     : w.say("A base of {:.0f} to {:.0f} suits slow games.", smoothBase, least));
    if (offer.generation().target)
        out.push_back(offer.base.low < collapses * base
                          ? w.say("Where inventing takes long it slows the base, and more is invented: with twice the "
                                  "usual work the base falls to {} fps.",
                                  fps(offer.base.low))
                          : w.say("It steps between whole multiples as the base moves: less even than a fixed one."));
    if (offer.generation().kind != run::GenerationKind::BuiltIn)
        out.push_back(w.say("Crosshair and hud may shimmer: this kind takes them for picture."));
    out.push_back(w.say("It breaks first at thin edges, text and fast turns."));
    if (offer.generation().onSecondGpu)
        out.push_back(w.say("The panel must be wired to the GPU that invents; both need air and power."));
    return out;
}

Why whyGeneration(const Words& w, const pace::GenerationPlan& plan) {
    return {w.say("Frame generation"), w.say("what invented frames do to these frames"),
            w.say("The runs are replayed with the work of inventing added to the GPU that does it, held back behind "
                  "what was invented from each frame."),
            plan.costs.measured
                ? w.say("What inventing takes was measured in a run with it on this GPU; on a second GPU it is usual.")
                : w.say("What inventing takes is usual for a middling GPU: common practice, and off by up to a factor "
                        "of two. The ranges say what that changes. The first run with it measures it."),
            w.say("It is a prediction until it is run.")};
}

} // namespace impasto::wording
