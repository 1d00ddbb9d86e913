// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/frames/parts.h>
#include <impasto/results/generation.h>
#include <impasto/results/pace.h>

namespace impasto::results {
namespace {

/// Mean GPU work of a recording; nothing where it is not told.
std::optional<double> gpuWork(const capture::Capture& capture) {
    double ms = 0;
    std::size_t frames = 0;
    for (const auto& part : frames::partMeans(capture)) {
        if (!part.gpuMs) return std::nullopt;
        ms += *part.gpuMs * static_cast<double>(part.frames);
        frames += part.frames;
    }
    return frames > 0 ? std::optional(ms / static_cast<double>(frames)) : std::nullopt;
}

Maybe<pace::GenerationPlan> plan(const Inputs& in, const Context& context) {
    const auto* caps = in.get<CapView>();
    if (caps == nullptr) return std::shared_ptr<const pace::GenerationPlan>();
    const auto& variant = in.orderOf(caps->run)->variant;
    auto replay = caps->replay;
    const auto panel = in.panel();
    const auto output = variant.resolution.widthPx > 0 ? variant.resolution
                        : panel                        ? panel->native
                                                       : display::Resolution{1920, 1080};
    replay.generation = pace::usualCosts(output, in.machine());
    for (const auto& id : in.get<AfterRuns>()->ids) {
        const auto& with = in.orderOf(id)->variant;
        if (!with.generation || with.values != variant.values) continue;
        const auto work = gpuWork(*in.of<RunFrames>(id)->capture);
        if (work && replay.cpuTold && !replay.generation.measured)
            replay.generation =
                pace::measuredCosts(replay.generation, *with.generation, *work, replay.runs.front().gpu.meanMs);
    }
    const bool builtIn = in.game() != nullptr && in.game()->generatesFrames;
    const bool second = in.machine() != nullptr && !in.machine()->secondGpu.empty();
    auto made = pace::planGeneration(replay, builtIn, second, context);
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
    return {stage("generation", {Part::Answers, Part::Machine, Part::Game},
                  {use<CapView>(), use<CheckRuns>(), use<AfterRuns>(), useOf<RunFrames, AfterRuns>()}, plan)};
}

} // namespace impasto::results
