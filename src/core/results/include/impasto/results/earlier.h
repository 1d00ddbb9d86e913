// SPDX-License-Identifier: GPL-3.0-or-later
// What runs of an earlier session say of this one's costs: as much as their doubt leaves, or nothing where runs of this
// one speak against them.
#pragma once

#include <impasto/document/session.h>

namespace impasto::results {

/// What is played now.
struct Here {
    const game::Game& game;
    const machine::Machine* machine;
    const game::Values& baseline;
};
/// The earlier runs as if they had been made here: each as far over or under the settings in use as it was there, with
/// the weight that is left to it. `runs`: of this session, those of its first set first. Empty where CPU and GPU are
/// not told here, or no earlier run can be set here.
std::vector<cost::SeenRun> earlierRuns(const document::EarlierRuns& earlier, const Here& at, const cost::Layout& layout,
                                       const std::vector<cost::SeenRun>& runs);
/// Whether this session's runs of other sets are as the first one and the earlier ones say, within their doubt.
bool earlierFit(const cost::Layout& layout, const std::vector<cost::SeenRun>& runs,
                const std::vector<cost::SeenRun>& earlier);

class Results;
/// What an earlier session has for `now` to begin with. Errors: UnknownName (of another game), LacksRuns (no run moved
/// a setting, or CPU and GPU were never told apart).
Result<document::EarlierRuns> earlierOf(const document::Session& earlier, const Results& results,
                                        const document::Session& now);

} // namespace impasto::results
