// SPDX-License-Identifier: GPL-3.0-or-later
// Trees of files as the kernel shows a machine. All hardware in them is invented.
#pragma once

#include "support/support.h"

#include <impasto/probe/probe.h>

namespace impasto::support {

/// Writes a file below the folder, and the folders above it.
void put(const TemporaryFolder& folder, const std::string& path, std::string_view bytes);
/// An EDID of one detailed timing and a range that it follows (none: low 0).
std::string edidOf(int width, int height, double hz, int low, int high, const std::string& name = "Brine 27");

/// A desktop with one GPU of its own, and a panel that follows.
void desktopIn(const TemporaryFolder& folder);
/// A laptop with two GPUs, a battery, and its panel on the one inside the CPU.
void laptopIn(const TemporaryFolder& folder);
/// A handheld: one GPU inside the CPU.
void handheldIn(const TemporaryFolder& folder);

} // namespace impasto::support
