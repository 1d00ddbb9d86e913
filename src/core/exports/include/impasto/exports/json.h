// SPDX-License-Identifier: GPL-3.0-or-later
// Machine-readable results (docs/formats.md, JSON). Units stand in the keys; undefined is null; "schema": 1.
#pragma once

#include <impasto/checklist/checklist.h>
#include <impasto/frames/examine.h>
#include <impasto/frames/figures.h>
#include <impasto/frames/hitch_origin.h>
#include <impasto/frames/measured.h>
#include <impasto/limits/pairs.h>
#include <impasto/logs/notes.h>
#include <impasto/path/next_step.h>
#include <impasto/probe/probe.h>

namespace impasto::exports {

/// One log: its figures, the run's own doubt of them (none where it is too short), what was looked for in it, what else
/// it measured, and where its hitches come from beside the others.
struct SummarizedLog {
    std::string name, dialect, packing; // as in the capture's notes
    std::vector<logs::Note> notes;      // what was passed over while it was read
    frames::Summary summary;
    std::optional<frames::RunDoubt> doubt;
    std::vector<frames::Examined> examined;
    std::vector<capture::Span> proposedTrims;
    frames::AllMeasured measured = {};
    frames::HitchOrigin origin = {};
};
std::string summariesJson(std::span<const SummarizedLog> logs, std::optional<Fps> target);
/// Two families of logs side by side, docs/formats.md.
std::string comparisonJson(std::span<const frames::FigureComparison> figures,
                           std::span<const frames::MeasuredComparison> measured, stats::LowRule school);
/// What limits each part of a log.
struct LimitedLog {
    std::string name;
    std::vector<limits::PartVerdict> parts;
    std::vector<std::vector<limits::WhatIf>> whatIfs; // of each part
};
/// `found`: held against logs of another state; none: they were not.
std::string limitsOfLogsJson(std::span<const LimitedLog> logs,
                             const std::optional<std::vector<limits::PairFinding>>& found = {});
/// A point of the checklist, and what it was judged by in words.
struct CheckedPoint {
    checklist::Point point;
    checklist::Judged judged;
    std::string rests;
};
/// A machine that was read; the points where they were asked for.
std::string machineJson(const probe::Probed& read, std::span<const CheckedPoint> points);
/// Brake, costs, choice, cap, before and after.
std::string tuneJson(const document::Session& session, const results::Results& results);

} // namespace impasto::exports
