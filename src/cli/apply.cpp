// SPDX-License-Identifier: GPL-3.0-or-later
// The choice into the game's own files.
#include "source.h"

#include <cstdlib>
#include <impasto/base/file.h>
#include <impasto/base/shown.h>
#include <impasto/exports/choice_json.h>
#include <impasto/wording/choice.h>

namespace impasto::cli {
namespace {

struct ApplyOptions {
    Source source;
    std::vector<std::string> set;
    bool dryRun = false, json = false;
};

struct Wanted {
    game::Game game;
    game::Values values;
};

/// Said one by one, or else the accepted choice, or else the best.
Result<Wanted> wantedOf(const ApplyOptions& options) {
    if (!options.set.empty() && !options.source.game.empty()) {
        const auto text = readFile(options.source.game, std::size_t{1} << 22U);
        if (!text) return tl::unexpected(text.error());
        auto game = game::parseGame(*text, options.source.game);
        if (!game) return tl::unexpected(game.error());
        Wanted out{std::move(*game), {}};
        if (const auto said = say(out.game, options.set, out.values); !said) return tl::unexpected(said.error());
        return out;
    }
    const auto sourced = read(options.source);
    if (!sourced) return tl::unexpected(sourced.error());
    Wanted out{*sourced->session.game(), {}};
    if (sourced->session.edits->settings.choice) {
        out.values = sourced->session.edits->settings.choice->values;
    } else {
        auto best = choose::propose(*results::groundOf(sourced->results), sourced->target);
        if (!best) return tl::unexpected(best.error());
        out.values = std::move(best->values);
    }
    if (const auto said = say(out.game, options.set, out.values); !said) return tl::unexpected(said.error());
    return out;
}

void print(const config::Plan& plan, std::span<const config::Written> written, const game::Game& game) {
    for (const auto& file : plan.files) {
        fmt::print("{}\n", shown(file.file.string()));
        for (const auto& change : file.changes)
            fmt::print("  line {:<5} {:<32} {} -> {}\n", change.line, shown(change.key), shown(change.from),
                       shown(change.to));
        for (const auto& w : written)
            if (w.file == file.file) fmt::print("  as it was: {}\n", shown(w.copy.string()));
    }
    for (const auto& hand : plan.byHand) fmt::print("{}: {}\n", game::keyOf(hand.format), shown(hand.text));
    for (const auto& id : plan.unplaced) fmt::print("in the game's menu: {}\n", game.setting(id)->label);
    fmt::print("{}\n", wording::plan(wording::Words(), plan));
}

int apply(const ApplyOptions& options) {
    const auto wanted = wantedOf(options);
    if (!wanted) return failed(wanted.error());
    const char* home = std::getenv("HOME");
    const auto plan = config::planOf(wanted->game, wanted->values, home == nullptr ? "/" : home);
    if (!plan) return failed(plan.error());
    std::vector<config::Written> written;
    if (!options.dryRun) {
        auto done = config::write(*plan);
        if (!done) return failed(done.error());
        written = std::move(*done);
    }
    if (options.json)
        fmt::print("{}\n", exports::applyJson(*plan, written));
    else
        print(*plan, written, wanted->game);
    return 0;
}

} // namespace

Command applyCommand() {
    const auto o = std::make_shared<ApplyOptions>();
    auto options = sourceOptions(o->source);
    options.push_back({"--set", "setting=level, several: in place of the choice's", &o->set});
    options.push_back({"--dry-run", "Say what would change, and change nothing", &o->dryRun});
    options.push_back({"--json", "Machine-readable, docs/formats.md", &o->json});
    return {"apply", "Writes the choice into the game's own files, each with a copy beside it", std::move(options),
            [o] { return apply(*o); }};
}

} // namespace impasto::cli
