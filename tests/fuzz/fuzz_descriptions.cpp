// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/game/game.h>
#include <impasto/machine/machine.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    if (const auto machine = impasto::machine::parseMachine(text, "m");
        machine && !impasto::machine::parseMachine(impasto::machine::toToml(*machine), "again"))
        __builtin_trap();
    if (const auto game = impasto::game::parseGame(text, "g");
        game && !impasto::game::parseGame(impasto::game::toToml(*game), "again"))
        __builtin_trap();
    return 0;
}
