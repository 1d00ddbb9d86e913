// SPDX-License-Identifier: GPL-3.0-or-later
// What limits a part, on what evidence, and the test that would confirm it.
#pragma once

#include <impasto/choose/propose.h>
#include <impasto/limits/pairs.h>
#include <impasto/limits/what_if.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

std::string bottleneck(const Words& w, const limits::PartVerdict& verdict); // "GPU-limited, sure"
std::string bottleneckEvidence(const Words& w, const limits::PartVerdict& verdict, Fps target);
std::string bottleneckTest(const Words& w, const limits::PartVerdict& verdict);
/// The same for what is only suspected. `brake`: of the part, which the answer confirms.
std::string decidingTest(const Words& w, limits::DecidingTest test, limits::Brake brake);
std::string testName(const Words& w, limits::DecidingTest test); // "fans up"
/// What runs of two states say of each other, in a sentence.
std::string pairFinding(const Words& w, const limits::PairFinding& finding);
std::string testedLine(const Words& w, const limits::Tested& tested);      // rates: "48.0 → 61.2 (+27 ± 2%): heat."
std::string causeName(const Words& w, const limits::Suspicion& suspicion); // "heat of the GPU"
std::string causeLine(const Words& w, const limits::Suspicion& suspicion); // "Behind it: heat of the GPU, likely."
std::string facts(const Words& w, std::span<const limits::Fact> facts);    // a sentence; empty of none

std::string changeName(const Words& w, const limits::WhatIf& change); // "GPU 20% faster"

} // namespace impasto::wording
