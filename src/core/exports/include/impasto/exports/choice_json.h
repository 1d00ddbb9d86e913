// SPDX-License-Identifier: GPL-3.0-or-later
// Around the choice, as JSON (docs/formats.md): the next run, costs, the choice, the front, why not, what goes into
// files.
#pragma once

#include <impasto/choose/front.h>
#include <impasto/choose/prefer.h>
#include <impasto/config/files.h>
#include <impasto/pace/power.h>
#include <impasto/path/next_step.h>

namespace impasto::exports {

std::string planJson(const document::Session& session, const results::Results& results);
std::string fitJson(const document::Session& session, const results::Results& results);
std::string chooseJson(const document::Session& session, Fps target, const choose::Proposal& proposal,
                       const std::optional<choose::LeastMemory>& least);
/// A set, and what it draws at a cap at the target; none: no run tells power.
struct WithDraws {
    choose::Standpoint point;
    std::optional<pace::Draws> draws;
};
/// `presets`: by name.
std::string frontJson(std::span<const WithDraws> front, std::span<const std::pair<std::string, WithDraws>> presets);
std::string waysJson(Fps target, std::span<const choose::Way> ways);
std::string whyNotJson(Fps target, const choose::WhyNot& answer);
std::string mattersJson(const std::vector<choose::Care>& cares,
                        const std::optional<std::pair<std::string, std::string>>& next);
std::string applyJson(const config::Plan& plan, std::span<const config::Written> written);

} // namespace impasto::exports
