// SPDX-License-Identifier: GPL-3.0-or-later
// What was computed of single runs, kept between two starts of the program by someone else. It is checked, not trusted:
// it counts only where it was made by the same method from the same frames and edits, and some of it is computed again.
#pragma once

#include <functional>
#include <impasto/base/id.h>
#include <optional>
#include <string>
#include <vector>

namespace impasto::results {

struct KeptBytes {
    std::string stage;
    RunId run;
    std::uint64_t mark = 0; // of the method and of all that it was made from
    std::string bytes;
};

/// Where results are kept. All empty: nowhere.
struct Keeping {
    /// The bytes of a result; nothing where there is none. Called from several threads at once.
    std::function<std::optional<std::string>(std::string_view stage, const RunId& run, std::uint64_t mark)> find;
    /// What was made anew, at the end of a computation; in place of what was kept of these runs by these stages.
    std::function<void(const std::vector<KeptBytes>&)> keep;
    /// One of them was not what is computed: all are to go.
    std::function<void()> forget;
    std::uint64_t checkedEvery = 50; // one in so many is computed again; 1: all
    std::uint64_t salt = 0;          // which ones: another number at every start
};

} // namespace impasto::results
