// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/session/edit.h>

#include <impasto/base/keys.h>
#include <impasto/base/text.h>

namespace impasto::session {
namespace {

constexpr Keys<EditName, 20> names{{{EditName::UseMachine, "use-machine"},
                                    {EditName::UseGame, "use-game"},
                                    {EditName::UseRig, "use-rig"},
                                    {EditName::SetRoute, "set-route"},
                                    {EditName::SetBaseline, "set-baseline"},
                                    {EditName::SetBrief, "set-brief"},
                                    {EditName::SetTarget, "set-target"},
                                    {EditName::SetShares, "set-shares"},
                                    {EditName::LockSetting, "lock-setting"},
                                    {EditName::LeaveOut, "leave-out"},
                                    {EditName::CountRun, "count-run"},
                                    {EditName::HideRun, "hide-run"},
                                    {EditName::AcceptChoice, "accept-choice"},
                                    {EditName::ChangeChoice, "change-choice"},
                                    {EditName::ChooseCap, "choose-cap"},
                                    {EditName::KeepResult, "keep-result"},
                                    {EditName::WriteNote, "write-note"},
                                    {EditName::SetTitle, "set-title"},
                                    {EditName::TrimRun, "trim-run"},
                                    {EditName::SetHitchRule, "set-hitch-rule"}}};

/// An edit that cannot fail.
template <class Change>
Edit plain(EditName name, Change change) {
    return {name, [change = std::move(change)](const Edits& before) -> Result<Edits> {
                Edits after = before;
                change(after);
                return after;
            }};
}

Result<void> within(double value, double low, double high, std::string key) {
    if (value >= low && value <= high) return {};
    return fail(ErrorCode::OutOfRange, shortestText(low) + " to " + shortestText(high), {{}, {}, {}, std::move(key)});
}

Result<void> checkBrief(const run::Brief& b) {
    if (auto ok = within(b.target.value(), 10, 1000, "target"); !ok) return ok;
    if (b.lowestLow)
        if (auto ok = within(b.lowestLow->value(), 1, b.target.value(), "floor"); !ok) return ok;
    if (b.pictureFloor) return within(*b.pictureFloor, 0, 1, "picture");
    return {};
}

Edit checkedBrief(EditName name, std::function<run::Brief(const Edits&)> make) {
    return {name, [make = std::move(make)](const Edits& before) -> Result<Edits> {
                Edits after = before;
                after.brief = make(before);
                if (const auto ok = checkBrief(*after.brief); !ok) return tl::unexpected(ok.error());
                return after;
            }};
}

} // namespace

std::string_view keyOf(EditName name) {
    return keyIn(names, name);
}
std::optional<EditName> editNameOf(std::string_view key) {
    return valueIn(names, key);
}

Edit useMachine(std::size_t index) {
    return plain(EditName::UseMachine, [index](Edits& e) { e.machine = index; });
}

Edit useGame(std::size_t index, const game::Game& game) {
    return plain(EditName::UseGame,
                 [index, values = game.presets.front().values, route = game.routes.front().name](Edits& e) {
                     e.game = index;
                     e.baseline = values;
                     e.route = route;
                     e.locked.clear();
                 });
}

Edit useRig(RigKind kind) {
    return plain(EditName::UseRig, [kind](Edits& e) { e.rig = kind; });
}

Edit setRoute(const game::Game& game, std::string route) {
    const bool known = game.route(route) != nullptr;
    return {EditName::SetRoute, [known, route = std::move(route)](const Edits& before) -> Result<Edits> {
                if (!known) return fail(ErrorCode::UnknownName, route, {{}, {}, {}, "route"});
                Edits after = before;
                after.route = route;
                return after;
            }};
}

Edit setBaseline(const game::Game& game, game::Values values) {
    const auto ok = game::checkValues(game, values);
    return {EditName::SetBaseline, [ok, values = std::move(values)](const Edits& before) -> Result<Edits> {
                if (!ok) return tl::unexpected(ok.error());
                Edits after = before;
                after.baseline = values;
                return after;
            }};
}

Edit setBrief(run::Brief brief) {
    return checkedBrief(EditName::SetBrief, [brief](const Edits&) { return brief; });
}

Edit setTarget(Fps target) {
    return checkedBrief(EditName::SetTarget, [target](const Edits& before) {
        run::Brief brief = before.brief.value_or(run::Brief{});
        brief.target = target;
        if (brief.lowestLow && brief.lowestLow->value() > target.value()) brief.lowestLow = target;
        return brief;
    });
}

Edit setShares(choose::UsableShares shares) {
    return {EditName::SetShares, [shares](const Edits& before) -> Result<Edits> {
                for (const double share : {shares.gpu, shares.cpu, shares.frame})
                    if (const auto ok = within(share, 0.3, 1, "usable share"); !ok) return tl::unexpected(ok.error());
                Edits after = before;
                after.shares = shares;
                return after;
            }};
}

Edit setHitchRule(stats::HitchRule rule) {
    return {EditName::SetHitchRule, [rule](const Edits& before) -> Result<Edits> {
                for (const auto& ok :
                     {within(rule.ratio, 1, 10, "hitch ratio"), within(rule.excessMs, 0, 1000, "hitch excess, ms"),
                      within(static_cast<double>(rule.neighbours), 3, 301, "neighbours")})
                    if (!ok) return tl::unexpected(ok.error());
                if (rule.neighbours % 2 == 0)
                    return fail(ErrorCode::BadValue, "an odd number", {{}, {}, {}, "neighbours"}, Kept::AllAsBefore);
                Edits after = before;
                after.hitchRule = rule;
                return after;
            }};
}

Edit lockSetting(std::string setting, std::optional<std::string> level) {
    return plain(EditName::LockSetting, [setting = std::move(setting), level = std::move(level)](Edits& e) {
        if (level)
            e.locked[setting] = *level;
        else
            e.locked.erase(setting);
    });
}

Edit leaveOut(RunId run, LeftOut reason) {
    return plain(EditName::LeaveOut, [run, reason](Edits& e) { e.leftOut[run] = reason; });
}

Edit countRun(RunId run) {
    return plain(EditName::CountRun, [run](Edits& e) { e.leftOut.erase(run); });
}

Edit trimRun(RunId run, std::vector<capture::Span> spans) {
    return plain(EditName::TrimRun, [run, spans = capture::joined(std::move(spans))](Edits& e) {
        if (spans.empty())
            e.trims.erase(run);
        else
            e.trims[run] = spans;
    });
}

Edit hideRun(RunId run) {
    return plain(EditName::HideRun, [run](Edits& e) { e.hidden[run] = true; });
}

Edit acceptChoice(AcceptedChoice choice) {
    return plain(EditName::AcceptChoice, [choice = std::move(choice)](Edits& e) { e.choice = choice; });
}

Edit changeChoice(const game::Game& game, game::Values start, std::string setting, std::string level, Basis basis) {
    start[setting] = std::move(level);
    const auto ok = game::checkValues(game, start);
    return {EditName::ChangeChoice,
            [ok, start = std::move(start), basis = std::move(basis)](const Edits& before) -> Result<Edits> {
                if (!ok) return tl::unexpected(ok.error());
                Edits after = before;
                after.choice = AcceptedChoice{start, true, basis};
                return after;
            }};
}

Edit chooseCap(ChosenCap cap) {
    return plain(EditName::ChooseCap, [cap = std::move(cap)](Edits& e) { e.cap = cap; });
}

Edit keepResult(KeptResult kept) {
    return plain(EditName::KeepResult, [kept = std::move(kept)](Edits& e) { e.kept = kept; });
}

Edit writeNote(std::string note) {
    return plain(EditName::WriteNote, [note = std::move(note)](Edits& e) { e.note = note; });
}

Edit setTitle(std::string title) {
    return plain(EditName::SetTitle, [title = std::move(title)](Edits& e) { e.title = title; });
}

} // namespace impasto::session
