// SPDX-License-Identifier: GPL-3.0-or-later
// Pieces that several documents hold.
#pragma once

#include <impasto/path/next_step.h>
#include <nlohmann/json.hpp>

namespace impasto::exports {

using Json = nlohmann::ordered_json;

/// null where it is not finite, or nothing.
Json number(double v);
Json number(const std::optional<double>& v);
Json bandJson(const pace::Band& band);
/// What the levels change, as far as is known.
Json costsJson(const results::Costs& costs);
/// How far the test runs have come.
Json measuringJson(const document::Session& session, const results::Costs& costs, const results::Results& results);
/// How frames are held back and shown: `cap_fps`, `sync`, `refresh_hz`, and `generation` where frames are invented.
Json capPlanJson(const pace::CapPlan& plan);
std::string written(const Json& document);

} // namespace impasto::exports
