// SPDX-License-Identifier: GPL-3.0-or-later
#include "described.h"

#include "command.h"

#include <impasto/base/file.h>

namespace impasto::cli {

Result<Described> readDescribed(const std::string& machineFile, const std::string& gameFile) {
    constexpr std::size_t mostBytes = 1U << 22U;
    Described out;
    const auto machineText = readFile(machineFile, mostBytes);
    if (!machineText) return tl::unexpected(machineText.error());
    auto machine = machine::parseMachine(*machineText, machineFile);
    if (!machine) return tl::unexpected(machine.error());
    const auto gameText = readFile(gameFile, mostBytes);
    if (!gameText) return tl::unexpected(gameText.error());
    auto game = game::parseGame(*gameText, gameFile);
    if (!game) return tl::unexpected(game.error());
    out.machine = std::move(*machine);
    out.game = std::move(*game);
    out.originals.add(*machineText);
    out.originals.add(*gameText);
    return out;
}

std::string shipped(std::string_view file) {
    return fmt::format("{}/{}", IMPASTO_DATA_DIR, file);
}

} // namespace impasto::cli
