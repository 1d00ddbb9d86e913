// SPDX-License-Identifier: GPL-3.0-or-later
// The same work on many things at once.
#pragma once

#include <cstddef>
#include <functional>

namespace impasto {

/// As many as the machine has cores.
std::size_t threadsAtOnce();

/// Calls work(0) to work(count - 1), each once, on as many threads as the machine has cores, and waits for all. What
/// the first of them throws is thrown here, once the others have ended.
void inParallel(std::size_t count, const std::function<void(std::size_t)>& work);

} // namespace impasto
