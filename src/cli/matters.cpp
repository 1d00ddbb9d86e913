// SPDX-License-Identifier: GPL-3.0-or-later
// What of the picture matters, from answers to "which would you miss more?".
#include "command.h"

#include <impasto/base/file.h>
#include <impasto/base/text.h>
#include <impasto/exports/choice_json.h>

namespace impasto::cli {
namespace {

struct MattersOptions {
    std::string game, out;
    std::vector<std::string> missed, alike;
    bool json = false, force = false;
};

/// "a:b". Errors: UnknownName, BadValue.
Result<void> add(const game::Game& game, const std::vector<std::string>& said, bool alike,
                 std::vector<choose::Missed>& out) {
    for (const auto& pair : said) {
        const auto colon = pair.find(':');
        if (colon == std::string::npos)
            return fail(ErrorCode::BadValue, "setting:setting", {{}, {}, {}, pair}, Kept::AllAsBefore);
        choose::Missed answer{pair.substr(0, colon), pair.substr(colon + 1), alike};
        for (const auto& id : {answer.more, answer.less})
            if (game.setting(id) == nullptr)
                return fail(ErrorCode::UnknownName, id, {{}, {}, {}, pair}, Kept::AllAsBefore);
        out.push_back(std::move(answer));
    }
    return {};
}

int matters(const MattersOptions& options) {
    const auto text = readFile(options.game, std::size_t{1} << 22U);
    if (!text) return failed(text.error());
    const auto game = game::parseGame(*text, options.game);
    if (!game) return failed(game.error());
    std::vector<choose::Missed> answers;
    if (const auto read = add(*game, options.missed, false, answers); !read) return failed(read.error());
    if (const auto read = add(*game, options.alike, true, answers); !read) return failed(read.error());
    const auto cares = choose::caresOf(*game, answers);
    const auto next = choose::nextQuestion(*game, answers);
    if (!options.out.empty())
        if (const auto done = writeOutput(options.out, toToml(choose::weighed(*game, cares)), options.force); !done)
            return failed(done.error());
    if (options.json) {
        fmt::print("{}\n", exports::mattersJson(cares, next));
        return 0;
    }
    for (const auto& care : cares)
        fmt::print("{:<28} {:6.2f}  ({:.2f} to {:.2f})\n", game->setting(care.setting)->label, care.weight, care.low,
                   care.high);
    if (next)
        fmt::print("Which would you miss more: {} or {}?\n", game->setting(next->first)->label,
                   game->setting(next->second)->label);
    else
        fmt::print("Another answer would hardly change them.\n");
    return 0;
}

} // namespace

Command mattersCommand() {
    auto o = std::make_shared<MattersOptions>();
    return {"matters",
            "Weights of the picture from answers to \"which would you miss more?\"",
            {{"--game", "Game description, TOML", &o->game, {}, {}, true},
             {"--missed", "more:less, two settings by their ids, several", &o->missed},
             {"--alike", "a:b, missed alike, several", &o->alike},
             {"-o,--output", "The game with these weights, without what only a simulator reads", &o->out},
             {"--json", "Machine-readable, docs/formats.md", &o->json},
             forceOption(o->force)},
            [o] { return matters(*o); }};
}

} // namespace impasto::cli
