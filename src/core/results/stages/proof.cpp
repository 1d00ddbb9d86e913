// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/results/proof.h>

#include <impasto/pace/power.h>

namespace impasto::results {
namespace {

Maybe<proof::Proof> prove(const Inputs& in, const Context&) {
    const auto& brief = in.brief();
    const auto &ids = in.get<ProofRuns>()->ids, &readOff = in.get<ReadProofs>()->ids;
    if ((ids.empty() && readOff.empty()) || !brief) return std::shared_ptr<const proof::Proof>();
    std::vector<proof::Side> runs;
    const auto battery = pace::batteryOf(in.machine());
    for (const auto& id : ids)
        if (const auto* figures = in.of<RunFigures>(id))
            runs.push_back({id, in.orderOf(id)->purpose == run::Purpose::ProofAfter, &figures->summary, &figures->held,
                            capture::shownRate(*in.of<RunFrames>(id)->capture),
                            pace::boundFigures(*in.of<RunFrames>(id)->capture, battery)});
    std::optional<proof::Pictures> pictures;
    if (in.game() != nullptr && in.choice())
        pictures = proof::Pictures{game::pictureValue(*in.game(), in.baseline()),
                                   game::pictureValue(*in.game(), in.choice()->values)};
    // What was recorded says more than what was read off, and is never mixed with it; where there is less of it than of
    // the other, that is how the person proves.
    std::vector<proof::ReadSide> read;
    for (const auto& id : readOff)
        read.push_back({id, in.orderOf(id)->purpose == run::Purpose::ProofAfter, &*in.runOf(id).readOff});
    const auto proof =
        ids.size() < read.size() ? proof::prove(read, *brief, pictures) : proof::prove(runs, *brief, pictures);
    return proof ? std::make_shared<const proof::Proof>(*proof) : nullptr;
}

} // namespace

std::vector<Stage> proofStages() {
    return {stage("proof",
                  {Part::Answers, Part::Machine, Part::Target, Part::Wishes, Part::LowRule, Part::Game, Part::Baseline,
                   Part::Choice},
                  {use<ProofRuns>(), use<ReadProofs>(), useOf<RunFigures, ProofRuns>(), useOf<RunFrames, ProofRuns>()},
                  prove)};
}

} // namespace impasto::results
