// SPDX-License-Identifier: GPL-3.0-or-later
#include "command.h"

#include <impasto/base/file.h>
#include <impasto/wording/bounds.h>

#include <CLI/CLI.hpp>
#include <algorithm>
#include <cerrno>
#include <cstdio>
#include <cstring>
#include <iostream>
#include <iterator>

namespace impasto::cli {
namespace {

CLI::Option* put(CLI::App& app, const Option& option) {
    return std::visit(
        [&](auto* into) -> CLI::Option* {
            using Value = std::remove_pointer_t<decltype(into)>;
            if constexpr (std::is_same_v<Value, bool>)
                return app.add_flag(option.name, *into, option.help);
            else if constexpr (std::is_same_v<Value, std::map<std::string, std::string>>) {
                if (option.oneOf == std::vector<std::string>{"true", "false"}) // a switch, or with a word of the two
                    return app.add_flag(option.name, (*into)[option.key], option.help);
                return app.add_option(option.name, (*into)[option.key], option.help);
            } else
                return app.add_option(option.name, *into, option.help);
        },
        option.into);
}

void add(CLI::App& parent, const Command& command, int& code) {
    auto* app = parent.add_subcommand(command.name, command.help);
    for (const auto& option : command.options) {
        auto* added = put(*app, option);
        if (option.required) added->required();
        if (option.range) added->check(CLI::Range(option.range->first, option.range->second));
        if (!option.oneOf.empty()) added->check(CLI::IsMember(option.oneOf));
    }
    for (const auto& below : command.commands) add(*app, below, code);
    if (!command.commands.empty()) app->require_subcommand(1);
    if (command.run) app->callback([run = command.run, &code] { code = run(); });
}

} // namespace

int failed(const Error& error) {
    fmt::print(stderr, "{}\n", wording::error(wording::Words(), error).all());
    return 1;
}

Result<void> writeOutput(const std::filesystem::path& file, std::string_view bytes, bool force) {
    return writeFileAtomically(file, bytes, force ? Existing::Replace : Existing::Keep);
}

Option forceOption(bool& into) {
    return {"--force", "Replace what is there already", &into};
}

Option lowsOption(std::string& into) {
    return {"--lows,--school", "How lows are counted", &into, {}, {"percentile", "worst-mean", "time-share"}};
}

Option steeringOption(std::string& into) {
    return {"--steering", "What is steered with: latency weighs more with a mouse", &into, {}, {"mouse", "pad"}};
}

std::vector<Option> boundOptions(run::BoundFigures& into) {
    const wording::Words w;
    std::vector<Option> out;
    for (const auto bound : run::allBounds) {
        std::string name = "--" + std::string(run::keyOf(bound)), unit = wording::boundUnit(w, bound);
        std::replace(name.begin(), name.end(), '_', '-');
        out.push_back(
            {std::move(name),
             fmt::format("Also asked: {} of {}, {}", run::isLeast(bound) ? "at least so much" : "at most so much",
                         wording::boundName(w, bound), unit == "%" ? "a share" : unit),
             &into[bound], run::rangeOf(bound)});
    }
    return out;
}

Result<capture::Capture> readLogOrInput(const std::string& path, const logs::ReadOptions& options) {
    if (path != "-") return logs::readLog(path, options);
    const std::string text(std::istreambuf_iterator<char>(std::cin), {});
    auto capture = logs::readLogText(text, options);
    if (capture) return capture;
    Error error = capture.error();
    error.where.file = "stdin";
    return tl::unexpected(error);
}

} // namespace impasto::cli

int main(int argc, char** argv) {
    using namespace impasto::cli;
    CLI::App app{
        "Tunes one game on one machine: measures frame times, finds what limits them, chooses settings and a cap."};
    app.set_version_flag("--version", IMPASTO_VERSION);
    app.require_subcommand(1);
    int code = 0;
    std::vector<Command> commands{summarizeCommand(), compareCommand(),  limitsCommand(),
                                  machineCommand(),   simulateCommand(), rigCommand(),
                                  tuneCommand(),      applyCommand(),    mattersCommand()};
    for (auto& command : choiceCommands()) commands.push_back(std::move(command));
    for (auto& command : paceCommands()) commands.push_back(std::move(command));
    for (const auto& command : commands) add(app, command, code);
    if (argc > 1 && argv[1][0] != '-' &&
        std::none_of(commands.begin(), commands.end(), [&](const Command& c) { return c.name == argv[1]; })) {
        failed({impasto::ErrorCode::UnknownName, argv[1], {}, impasto::Kept::AllAsBefore});
        return 2;
    }
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& error) {
        return app.exit(error) == 0 ? 0 : 2;
    }
    // What was printed has arrived, or it is said that it has not.
    if (std::fflush(stdout) != 0 || std::ferror(stdout) != 0)
        return failed({impasto::ErrorCode::CannotWrite,
                       std::strerror(errno),
                       {"stdout", {}, {}, {}},
                       impasto::Kept::AllAsBefore});
    return code;
}
