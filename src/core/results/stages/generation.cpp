// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/generation.h>
#include <impasto/results/pace.h>

namespace impasto::results {
namespace {

Maybe<pace::GenerationPlan> plan(const Inputs& in, const Context& context) {
    const auto* caps = in.get<CapView>();
    if (caps == nullptr) return std::shared_ptr<const pace::GenerationPlan>();
    const bool builtIn = in.game() != nullptr && in.game()->generatesFrames;
    const bool second = in.machine() != nullptr && !in.machine()->secondGpu.empty();
    auto made = pace::planGeneration(caps->replay, in.capRules(), builtIn, second, context);
    if (context.cancelled()) return fail(ErrorCode::Cancelled);
    return std::make_shared<const pace::GenerationPlan>(std::move(made));
}

} // namespace

std::size_t bytesOf(const pace::GenerationPlan& plan) {
    return sizeof(plan) + plan.offers.size() * sizeof(pace::GenerationOffer);
}

const pace::GenerationOffer* bestGeneration(const Results& results) {
    const auto* plan = results.get<pace::GenerationPlan>();
    return plan == nullptr || !plan->best ? nullptr : &plan->offers[*plan->best];
}

std::vector<Stage> generationStages() {
    return {stage("generation", {Part::Machine, Part::Game, Part::CapRules}, {use<CapView>()}, plan)};
}

} // namespace impasto::results
