// SPDX-License-Identifier: GPL-3.0-or-later
// What a machine says of itself: a panel's EDID, the firmware's table, the list of device names.
#include <cstdint>
#include <impasto/probe/edid.h>
#include <impasto/probe/probe.h>
#include <probe/firmware.h>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    using namespace impasto::probe;
    std::string bytes(reinterpret_cast<const char*>(data), size);
    (void)modulesIn(bytes);
    (void)pciName(bytes, 0x1000, 0x0001);
    // With sums that are right, so that what lies behind them is reached.
    for (std::size_t at = 0; at + 128 <= bytes.size(); at += 128) {
        if (at == 0) bytes.replace(0, 8, std::string("\0\xff\xff\xff\xff\xff\xff\0", 8));
        unsigned sum = 0;
        for (std::size_t i = 0; i < 127; ++i) sum += static_cast<unsigned char>(bytes[at + i]);
        bytes[at + 127] = static_cast<char>(256 - sum % 256);
    }
    if (const auto edid = parseEdid(bytes)) {
        if (nativeRates(*edid).size() > edid->modes.size()) __builtin_trap();
        if (edid->follows && !(edid->follows->lowest < edid->follows->highest)) __builtin_trap();
    }
    return 0;
}
