// SPDX-License-Identifier: GPL-3.0-or-later
// The one way of doing a step, for the window, the command line and pictures: the orders it needs, and the edits it is.
#pragma once

#include <impasto/document/store.h>
#include <impasto/path/next_step.h>

namespace impasto::path {

/// The orders of a recording step: open ones that fit are taken up again, others are made with fresh seeds.
std::vector<run::Order> ordersFor(const document::Session& session, const results::Results& results,
                                  const NextStep& step, const IdSource& ids);
/// Orders that are wanted now and that no run answers, oldest first.
std::vector<run::Order> openOrders(const document::Session& session);

/// The order of a test run with these values: for runs that were made without being ordered.
run::Order testOrder(const document::Session& session, game::Values values, const IdSource& ids);

/// The order of a deciding run: one that waits, or a fresh one; nothing where machine or game have no such change.
std::optional<run::Order> decidingOrder(const document::Session& session, limits::DecidingTest test,
                                        const IdSource& ids);

/// Deciding runs for what is not sure yet, that this machine and game can make; the most wanted first.
std::vector<limits::DecidingTest> offeredTests(const document::Session& session, const results::Results& results);

/// The cap that is recommended; where no frames were recorded to replay, the target with what the panel makes of it,
/// without a prediction.
pace::CapOffer capToTake(const document::Session& session, const results::Results& results);

struct Performed {
    std::vector<run::Order> toRecord; // by a rig, or by hand; they are facts already
};
/// Does the step: makes the edit, or adds the orders. Errors: LacksMachine, LacksGame, LacksBrief for what only a
/// person can say; NothingFits; the edit's own.
Result<Performed> perform(document::SessionStore& store, const results::Results& results, const NextStep& step,
                          const IdSource& ids, const Clock& clock);

} // namespace impasto::path
