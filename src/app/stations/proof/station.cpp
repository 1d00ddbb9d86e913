// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/proof/proof.h"

namespace impasto::app {
namespace {

StateLine state(const View& view) {
    const auto* proof = view.get<proof::Proof>();
    if (proof == nullptr) return notYet();
    const auto met = std::count_if(proof->wishes.begin(), proof->wishes.end(),
                                   [](const auto& w) { return w.state == proof::WishState::Met; });
    return say("%1 of %2 goals met").arg(met).arg(proof->wishes.size());
}

} // namespace

Station proofStation() {
    using path::Action;
    Station station{{"proof"}, "Proof", {Action::RecordProof}, {}, state};
    station.easel = layoutProof;
    station.column = layoutProofColumn;
    station.hands = {{"wish."}};
    station.topic = "low";
    station.shots = {{"proof", Action::KeepResult}};
    return station;
}

} // namespace impasto::app
