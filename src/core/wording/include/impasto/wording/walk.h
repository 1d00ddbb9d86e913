// SPDX-License-Identifier: GPL-3.0-or-later
// The ways to walk from run to run, and where a walk stands.
#pragma once

#include <impasto/results/costs.h>
#include <impasto/results/walk.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

std::string walk(const Words& w, choose::WalkSchool walk); // "top-down"
/// How it goes, in one line.
std::string walkHow(const Words& w, choose::WalkSchool walk);
/// What its next step changes, and why that; empty where it has none.
std::string stride(const Words& w, const document::Session& session, const results::Results& results);
/// Whether a proposal is proven best, or what a walk leaves to it.
std::string proven(const Words& w, const results::Proposed& proposed);
/// Why a proposal is what it is, the walk's or the exact one.
Why whyChoice(const Words& w, const results::Proposed& proposed);

} // namespace impasto::wording
