// SPDX-License-Identifier: GPL-3.0-or-later
// What a column of a log could be, by its values alone. Private to logs.
#pragma once

#include <impasto/logs/import.h>

namespace impasto::logs {

/// What one column could be.
struct Nature {
    bool perFrame = false;
    double positive = 0; // share of its values, where it is neither a clock nor a counter
    bool cumulative = false;
    bool counts = false;             // rises by one each row
    bool falls = false;              // all the way: a clock or a counter of rows that stand newest first
    bool mostlyFalls = false;        // but for a row in fifty: no list of frame times
    double uneven = 1;               // how far the steps of all rows but one of fifty lie from the usual one, relative
    bool wide = false;               // its values lie far apart
    bool whole = false;              // its values are whole numbers
    bool constant = false;           // and one and the same
    std::optional<std::size_t> fall; // a clock that falls or begins again: the first row that does
    double typical = 0.0;            // median value, or median step of a cumulative column
};

/// The unit in which a typical frame time lies between 0.25 ms and half a second.
TimeUnit plausibleUnit(double typical);
/// The units that a clock of no unit could be in: a thousand apart where it may tell a reading every half, one, two,
/// five or ten seconds as well as fast frames; ticks, where frames would be slow in µs.
std::optional<std::string> unsettledUnits(const Nature& nature);
/// Rise or fall all the way, most at both ends, and could be frame times: they were sorted.
bool inOrderOfSize(std::vector<double> values);
/// The frames take as long as the steps of the stamps times the factor, from the stamp on or up to it.
bool repeatsSteps(const std::vector<double>& stamps, const std::vector<double>& frames, double factor);
/// From the first to the last, over all steps; 0 without any.
double meanStep(const std::vector<double>& values);
/// Sum of all but the greatest fiftieth: a row that is damaged hides nothing.
double withoutWorst(std::vector<double> values);
/// " (average 58.9, 57.1 to 61.4 fps)" of rates; empty where there is none.
std::string whatTheyComeTo(std::vector<double> rates);
/// Of the finite ones; 0 without any.
double meanOf(const std::vector<double>& values);
std::vector<double> stepsOf(const std::vector<double>& values);
/// `missing`: cells that say that there is none. Few others that are no number do not hide a column: the import then
/// names their line.
Nature natureOf(std::vector<double> values, std::size_t missing);

} // namespace impasto::logs
