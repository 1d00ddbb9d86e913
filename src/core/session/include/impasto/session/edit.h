// SPDX-License-Identifier: GPL-3.0-or-later
// Every way to change what was decided, as named pure functions of Edits.
#pragma once

#include <impasto/session/session.h>

namespace impasto::session {

enum class EditName {
    UseMachine,
    UseGame,
    UseRig,
    SetRoute,
    SetBaseline,
    SetBrief,
    SetTarget,
    SetShares,
    LockSetting,
    LeaveOut,
    CountRun,
    HideRun,
    AcceptChoice,
    ChangeChoice,
    ChooseCap,
    KeepResult,
    WriteNote,
    SetTitle,
    TrimRun,
    SetHitchRule
};
std::string_view keyOf(EditName name);
std::optional<EditName> editNameOf(std::string_view key);

struct Edit {
    EditName name;
    std::function<Result<Edits>(const Edits&)> apply;
};

Edit useMachine(std::size_t index);
/// Takes the game's first preset as the baseline and its first route.
Edit useGame(std::size_t index, const game::Game& game);
Edit useRig(RigKind kind);
/// Errors: UnknownName.
Edit setRoute(const game::Game& game, std::string route);
Edit setBaseline(const game::Game& game, game::Values values);
/// Errors: OutOfRange for a target outside 10 to 1000 fps, a low above the target, a picture share outside 0 to 1.
Edit setBrief(run::Brief brief);
Edit setTarget(Fps target);
/// Errors: OutOfRange outside 0.3 to 1.
Edit setShares(choose::UsableShares shares);
/// Errors: OutOfRange, see stats::HitchRule.
Edit setHitchRule(stats::HitchRule rule);
Edit lockSetting(std::string setting, std::optional<std::string> level);
Edit leaveOut(RunId run, LeftOut reason);
Edit countRun(RunId run);
/// The stretches of the run that do not count, in place of those before; none: all of it counts.
Edit trimRun(RunId run, std::vector<capture::Span> spans);
Edit hideRun(RunId run);
Edit acceptChoice(AcceptedChoice choice);
/// One level of the accepted choice, by hand.
Edit changeChoice(const game::Game& game, game::Values start, std::string setting, std::string level, Basis basis);
Edit chooseCap(ChosenCap cap);
Edit keepResult(KeptResult kept);
Edit writeNote(std::string note);
Edit setTitle(std::string title);

} // namespace impasto::session
