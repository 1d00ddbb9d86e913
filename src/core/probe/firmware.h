// SPDX-License-Identifier: GPL-3.0-or-later
// DMTF SMBIOS 3.x, structure 17: the memory modules, as the firmware lists them. Most systems let only root read it.
#pragma once

#include <optional>
#include <string_view>

namespace impasto::probe {

struct Modules {
    int filled = 0;
    std::optional<double> ratedMts, speedMts; // of the slowest one; what is set may be lower
};
/// Nothing where the bytes are no such table.
std::optional<Modules> modulesIn(std::string_view table);

} // namespace impasto::probe
