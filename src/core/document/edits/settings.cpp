// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

namespace impasto::document {

Edit setBaseline(const game::Game& game, game::Values values) {
    const auto ok = game::checkValues(game, values);
    return {"set-baseline", [ok, values = std::move(values)](const Edits& before) -> Result<Edits> {
                if (!ok) return tl::unexpected(ok.error());
                Edits after = before;
                after.settings.baseline = values;
                return after;
            }};
}

Edit askStart(bool open) {
    return plain(open ? "ask-start" : "say-start", [open](Edits& e) { e.settings.startOpen = open; });
}

Edit stopMeasuring(bool enough) {
    return plain(enough ? "stop-measuring" : "measure-on", [enough](Edits& e) { e.settings.enough = enough; });
}

Edit setGoodEnough(double share) {
    return {"set-good-enough", [share](const Edits& before) -> Result<Edits> {
                constexpr double least = 0.001, most = 0.5;
                if (!(share >= least && share <= most))
                    return fail(ErrorCode::OutOfRange, "0.1 to 50", {{}, {}, {}, "good enough"});
                Edits after = before;
                after.settings.goodEnough = share;
                return after;
            }};
}

std::string chipsOf(const machine::Machine* machine) {
    return machine == nullptr ? std::string() : machine->cpu + ", " + machine->gpu;
}

Edit beginWith(std::optional<EarlierRuns> earlier) {
    return {earlier ? "begin-with-earlier" : "begin-as-usual",
            [earlier = std::move(earlier)](const Edits& before) -> Result<Edits> {
                constexpr double most = 1e7; // ms, MiB
                const auto sound = [](const EarlierRun& run) {
                    return std::all_of(run.taken.begin(), run.taken.end(),
                                       [](double taken) { return taken >= 0 && taken <= most; });
                };
                if (earlier && (earlier->runs.size() > mostEarlierRuns ||
                                !std::all_of(earlier->runs.begin(), earlier->runs.end(), sound)))
                    return fail(ErrorCode::BadValue, "60 runs, times and memory", {{}, {}, {}, "earlier runs"});
                Edits after = before;
                after.settings.earlier = earlier;
                return after;
            }};
}

Edit takeWalk(choose::WalkSchool walk) {
    return plain("take-walk", [walk](Edits& e) {
        e.settings.walk = walk;
        e.settings.enough = false;
    });
}

Edit lockSetting(std::string setting, std::optional<std::string> level) {
    return plain("lock-setting", [setting = std::move(setting), level = std::move(level)](Edits& e) {
        if (level)
            e.settings.locked[setting] = *level;
        else
            e.settings.locked.erase(setting);
    });
}

Edit cannotSet(std::string setting, std::string level, std::optional<OrderId> order) {
    return plain("cannot-set", [key = std::pair(std::move(setting), std::move(level)), order](Edits& e) {
        e.settings.cannot.insert(key);
        if (order) e.runs.withdrawn.insert(*order);
    });
}

Edit canSet(std::string setting, std::string level) {
    return plain("can-set",
                 [key = std::pair(std::move(setting), std::move(level))](Edits& e) { e.settings.cannot.erase(key); });
}

Edit acceptChoice(AcceptedChoice choice) {
    return plain("accept-choice", [choice = std::move(choice)](Edits& e) { e.settings.choice = choice; });
}

Edit changeChoice(const game::Game& game, game::Values start, std::string setting, std::string level, Basis basis) {
    start[setting] = std::move(level);
    const auto ok = game::checkValues(game, start);
    return {"change-choice",
            [ok, start = std::move(start), basis = std::move(basis)](const Edits& before) -> Result<Edits> {
                if (!ok) return tl::unexpected(ok.error());
                Edits after = before;
                after.settings.choice = AcceptedChoice{start, true, basis};
                return after;
            }};
}

} // namespace impasto::document
