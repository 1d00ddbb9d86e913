// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that an order asks for besides the levels of the settings, once: its key in files, its option on the
// command line, and the words a person is told. A new condition is one entry of this table.
#pragma once

#include <impasto/run/run.h>

namespace impasto::run {

struct Condition {
    const char* key;                // dotted path in JSON and in the variant's key: "cap_fps", "upscaling.ratio"
    const char* option;             // of the command line, "--cap"
    const char* help;               // of the option
    const char* usual;              // its text where nothing is asked for; empty: it is off
    bool always;                    // stands in files when it is usual, too
    const char* words;              // what a person does for it; {} is its text
    const char* usualWords;         // the same where it is usual; empty: nothing is said
    const char* label;              // of the state that all runs of a session share; empty: it is an order's own
    std::vector<std::string> texts; // those it may have; empty: a number; {"true", "false"}: a switch
    std::string (*read)(const Order& order);
    bool (*write)(Order& order, std::string_view text); // false where the text is not a value of it
};
/// In the order in which a person does them. Those of a group ("generation") begin with its kind.
std::span<const Condition> conditions();

} // namespace impasto::run
