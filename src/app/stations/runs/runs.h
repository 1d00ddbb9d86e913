// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

#include <filesystem>

namespace impasto::app {

/// A log that is looked at before it is read, or to be read another way.
struct Reading {
    std::filesystem::path file;
    logs::LogPreview preview;
    std::optional<frames::Summary> begin; // of the preview's frames
    std::optional<RunId> instead;         // the run that came of it
};

/// An edge of a trimmed stretch in the hand.
struct TrimEdge {
    std::size_t span = 0; // of those that are drawn
    bool begin = false;
    double ms = 0;
};

/// Figures that are being typed for an order, read off a counter; fps and GiB.
struct ReadOffTyped {
    std::optional<double> average, least, most, low, memoryGib;
};

struct RunsState {
    bool tail = true;         // the distribution is open into its tail
    bool runsInstead = false; // of the orders that wait
    bool logScale = false;    // of frame times
    int track = -1; // what lies under the trace: the run's seconds, or of its tracks and then its others this one
    std::size_t sensor = 0;                 // of those that set the runs apart, the one beside their figures
    std::optional<TrimEdge> trimEdge;       // while it is dragged
    std::shared_ptr<const Reading> reading; // in place of the runs
    bool readingPending = false;            // its preview is being made
    ReadOffTyped readOff;
    std::vector<std::filesystem::path> unclear; // besides the one that is looked at
};

Drawing layoutRuns(const View& view, QSizeF size); // the families, over the chosen run
Drawing layoutRunsColumn(const View& view, QSizeF size);
Drawing layoutOrder(const View& view, QSizeF size);   // while an order waits for a log
Drawing layoutReading(const View& view, QSizeF size); // while a log is looked at
Drawing layoutReadingColumn(const View& view, QSizeF size);

/// Which order a log answers, while others wait for one; gives the y below it.
double answerLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w);
/// What a log was played with, in words of one's own; gives the y below it.
double variantLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w);
/// Where the parts come from, where a column of the log may name them; gives the y below it.
double partLine(Sheet& sheet, const View& view, const run::Run& run, double x, double y, double w);
/// Of the runs of which nothing is trimmed yet.
std::map<RunId, std::vector<capture::Span>> proposedTrims(const View& view);
/// The stretches that are drawn over a run: those that do not count, or else those that are proposed.
std::vector<TimeSpan> drawnTrims(const View& view, const RunId& run);
/// Time by pixel in the large picture; nothing where it shows no trace.
std::optional<Scale> runsTime(const View& view, QSizeF size);

/// Looks at a log without reading it: how it would be read can be corrected then.
void openReading(Studio& studio, const std::filesystem::path& file, std::optional<RunId> instead = {});
std::vector<Hand> readingHands();
Station runsStation();

} // namespace impasto::app
