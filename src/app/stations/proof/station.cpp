// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/studio.h"
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

using Q = const QString&;

/// As it is, though a goal is not met.
void keep(Studio& s, Q) {
    s.perform({path::Action::KeepResult, path::Reason::ProofReady, 0, 0, {}});
}

/// One more run of each side.
void longer(Studio& s, Q) {
    s.perform({path::Action::RecordProof, path::Reason::ProofOpen, 2, 0, {}});
}

} // namespace

Station proofStation() {
    using path::Action;
    Station station{{"proof"}, "Proof", {Action::RecordProof}, {}, state};
    station.easel = layoutProof;
    station.column = layoutProofColumn;
    station.hands = {
        {"wish."}, {"proof.next", [](Studio& s, Q) { s.primary(); }}, {"proof.keep", keep}, {"proof.longer", longer}};
    station.topic = "low";
    station.shots = {{"proof", Action::KeepResult}};
    return station;
}

} // namespace impasto::app
