// SPDX-License-Identifier: GPL-3.0-or-later
// The program run as a shell runs it.
#pragma once

#include "support/support.h"

#include <array>
#include <cstdio>
#include <sys/wait.h>

namespace impasto::support {

struct Outcome {
    int code;
    std::string out, err;
};

inline Outcome cli(const std::string& arguments) {
    const TemporaryFolder folder;
    const auto errors = folder.path("err");
    std::string out;
    FILE* pipe = ::popen((std::string(IMPASTO_CLI) + " " + arguments + " 2>" + errors.string()).c_str(), "r");
    std::array<char, 4096> buffer{};
    while (std::fgets(buffer.data(), buffer.size(), pipe) != nullptr) out += buffer.data();
    const int status = ::pclose(pipe);
    return {WEXITSTATUS(status), out, textOf(errors)};
}

} // namespace impasto::support
