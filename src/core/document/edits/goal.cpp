// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

namespace impasto::document {
namespace {

Edit checked(std::string name, std::function<Result<run::Brief>(const Edits&)> make) {
    return {std::move(name), [make = std::move(make)](const Edits& before) -> Result<Edits> {
                auto brief = make(before);
                if (!brief) return tl::unexpected(brief.error());
                if (const auto ok = within(brief->target.value(), 10, 1000, "target"); !ok)
                    return tl::unexpected(ok.error());
                Edits after = before;
                after.goal.brief = std::move(*brief);
                return after;
            }};
}

} // namespace

Edit setBrief(run::Brief brief) {
    return checked("set-brief", [brief](const Edits& before) -> Result<run::Brief> {
        // A low that a lowered target left above it is not a new wish.
        const bool typed = !before.goal.brief || before.goal.brief->lowestLow != brief.lowestLow;
        if (brief.lowestLow && typed)
            if (const auto ok = within(brief.lowestLow->value(), 1, brief.target.value(), "floor"); !ok)
                return tl::unexpected(ok.error());
        if (brief.pictureFloor)
            if (const auto ok = within(*brief.pictureFloor, 0, 1, "picture"); !ok) return tl::unexpected(ok.error());
        if (brief.shown)
            if (const auto ok = within(brief.shown->value(), brief.target.value(), 2000, "shown"); !ok)
                return tl::unexpected(ok.error());
        if (brief.onTimeShare)
            if (const auto ok = within(*brief.onTimeShare, 0.5, 1, "on-time share"); !ok)
                return tl::unexpected(ok.error());
        if (brief.tolerance)
            if (const auto ok = within(*brief.tolerance, 0, 0.5, "tolerance"); !ok) return tl::unexpected(ok.error());
        for (const auto bound : run::allBounds) {
            const auto [least, most] = run::rangeOf(bound);
            if (!brief.bounds[bound]) continue;
            if (const auto ok = within(*brief.bounds[bound], least, most, run::nameOf(bound)); !ok)
                return tl::unexpected(ok.error());
        }
        return brief;
    });
}

Edit setTarget(Fps target) {
    return checked("set-target", [target](const Edits& before) -> Result<run::Brief> {
        run::Brief brief = before.goal.brief.value_or(run::Brief{});
        brief.target = target;
        return brief;
    });
}

Edit setShares(SafeShares shares) {
    return {"set-shares", [shares](const Edits& before) -> Result<Edits> {
                for (const auto& share : {shares.gpu, shares.cpu, shares.frame})
                    if (share)
                        if (const auto ok = within(*share, 0.3, 1, "safe limit"); !ok)
                            return tl::unexpected(ok.error());
                Edits after = before;
                after.goal.shares = shares;
                return after;
            }};
}

} // namespace impasto::document
