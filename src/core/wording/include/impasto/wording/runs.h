// SPDX-License-Identifier: GPL-3.0-or-later
// What runs are called, their figures and how sure they are, and what was found when they were checked.
#pragma once

#include <impasto/document/session.h>
#include <impasto/frames/examine.h>
#include <impasto/frames/figures.h>
#include <impasto/frames/hitch_origin.h>
#include <impasto/results/sets.h>
#include <impasto/wording/words.h>

namespace impasto::wording {

/// What a set of runs was played with: its name, and what sets it apart.
struct SetName {
    std::string name, note;
};
SetName setName(const Words& w, const document::Session& session, const results::RunSet& set);
/// A figure in its unit, with the half width where there is one: "63.7 ± 1.1 fps".
std::string figureValue(const frames::Figure& figure, const stats::Interval& value, bool isDifference);
std::string figure(const Words& w, const frames::Figure& figure);
/// The difference of two averages in fps, in percent, and in ms of their frame times.
std::string averageDifference(const Words& w, const frames::FigureComparison& averages);
/// One of the three verdicts: "no difference larger than 0.8 fps".
std::string verdict(const Words& w, const frames::FigureComparison& compared);
/// "2 more runs narrow ± 1.9 to about ± 1.0 fps"; empty where the runs are alike or only one.
std::string moreRuns(const Words& w, const frames::Figure& figure, const stats::Family& family);

/// "every 1.2 s", "at the same places in each run"; empty where they are too few.
std::string hitchOrigin(const Words& w, const frames::HitchOrigin& origin);
struct Finding {
    std::string title, detail;
};
Finding finding(const Words& w, const frames::Examined& examined);

std::string leftOut(const Words& w, document::LeftOut reason);
std::string purpose(const Words& w, const document::Session& session,
                    const run::Order& order); // "test run, Fog medium"
/// What an order sets, short: "Shadows low"; else its purpose.
std::string orderName(const Words& w, const document::Session& session, const run::Order& order);
std::string runTitle(const Words& w, const document::Session& session, const run::Run& run); // "Run 4 · baseline"

Why whyAverage(const Words& w, const frames::Summary& summary, std::size_t runs);
Why whyLow(const Words& w, const frames::Summary& summary, stats::LowRule rule, std::size_t runs);
Why whyHitches(const Words& w, const frames::Summary& summary, const frames::HitchRule& rule);

/// "72.0 fps, 64.0 to 80.0": what was read off a counter.
std::string readOff(const Words& w, const run::ReadOff& figures);

} // namespace impasto::wording
