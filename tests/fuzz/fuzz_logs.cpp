// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logs/import.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    const std::string_view text(reinterpret_cast<const char*>(data), size);
    const auto capture = impasto::logs::readLogText(text);
    if (!capture) return 0;
    // What was read can be written and read again.
    const auto back = impasto::logs::readLogText(impasto::logs::writeCsv(*capture));
    if (!back || back->frames() != capture->frames()) __builtin_trap();
    return 0;
}
