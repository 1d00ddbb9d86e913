// SPDX-License-Identifier: GPL-3.0-or-later
// What the pictures are laid out from: the session, its results, and where the eye is. No widget, no computation.
#pragma once

#include "pictures/sheet.h"

#include <filesystem>
#include <impasto/capture/import.h>
#include <impasto/logbook/logbook.h>
#include <impasto/report/wording.h>
#include <impasto/session/next_step.h>

namespace impasto::app {

enum class Station { Bench, Brief, Runs, Limits, Layers, Pace, Proof, Logbook };
inline constexpr int stationCount = 8;
QString stationName(Station station);

/// A recording in progress.
struct Live {
    bool active = false;
    QString title;
    std::size_t number = 0, of = 0; // which order of how many
    std::vector<double> frameMs;
    std::vector<capture::PartMark> marks;
    double share = 0;       // of this run
    double minutesLeft = 0; // of play
};

/// A log that another program is still writing.
struct Follow {
    bool active = false;
    QString name;
    std::vector<double> frameMs;
    std::optional<double> beginMs, endMs;          // of the run, marked by key
    std::shared_ptr<const stats::Summary> summary; // of the frames so far
};

/// Logs that are being read.
struct Importing {
    std::size_t logs = 0; // none: nothing is read
    double share = 0;     // of the one that is furthest behind
};

/// A log that is looked at before it is read, or to be read another way.
struct Reading {
    std::filesystem::path file;
    capture::LogPreview preview;
    std::optional<stats::Summary> begin; // of the preview's frames
    std::optional<RunId> instead;        // the run that came of it
};

/// What the large picture of Runs shows.
enum class RunPicture { Trace, Seconds, Percentiles };

/// An edge of a trimmed stretch in the hand.
struct TrimEdge {
    std::size_t span = 0; // of those that are drawn
    bool begin = false;
    double ms = 0;
};

/// The budget line in the hand: what the solver says to the newest target.
struct Preview {
    Fps target;
    std::optional<choose::Proposal> proposal;
    std::optional<Error> error;
    Fps solvedFor; // the target the proposal belongs to
};

using TimeSpan = capture::Span;

/// A shipped description that the simulated rig can play.
struct Practice {
    bool isMachine = false;
    QString name, note;
    std::filesystem::path file;
};

struct View {
    session::Session session;
    std::shared_ptr<const session::Results> results = std::make_shared<session::Results>();
    session::NextStep step;
    Station station = Station::Bench;
    std::optional<RunId> run, behind;                  // shown in the ribbon
    std::optional<TimeSpan> span;                      // selected in the ribbon
    bool zoomed = false;                               // the ribbon shows the span alone
    std::shared_ptr<const stats::Summary> spanSummary; // of the span; none until it is computed
    RunPicture runPicture = RunPicture::Trace;
    bool logScale = false;                  // of frame times in Runs
    int track = -1;                         // which reading lies under the trace: the run's tracks, then its others
    std::optional<TrimEdge> trimEdge;       // while it is dragged
    std::shared_ptr<const Reading> reading; // in place of the runs
    Importing importing;
    QString openSetting; // whose levels are fanned out in Layers
    std::optional<Preview> preview;
    std::size_t paceFrame = 0; // first frame of the ten in Pace
    Live live;
    Follow follow;
    QString whyTopic; // empty: the station's own column
    QString message;  // an error or a notice, until the next action
    QString saved;    // what the logbook says
    std::vector<logbook::SessionHead> logbookSessions;
    std::vector<game::Setting> usualSettings;
    std::vector<Practice> practice;
    report::Wording w;
    choose::CapRules rules;

    [[nodiscard]] const session::Edits& edits() const { return *session.edits; }
    [[nodiscard]] const run::Run* shownRun() const { return run ? session.facts->run(*run) : nullptr; }
    [[nodiscard]] bool empty() const { return step.action == session::Action::Begin; }
    [[nodiscard]] Fps target() const {
        return preview ? preview->target : edits().brief ? edits().brief->target : Fps(60);
    }
};

/// The state of a station in words, for the path.
QString stationState(const View& view, Station station);
bool stationStale(const View& view, Station station);

/// What of the run does not count, hatched over its trace.
void hatchTrims(Sheet& sheet, const View& view, const RunId& run, const Scale& time, QRectF plot);
/// The stretches that are drawn over a run: those that do not count, or else those that are proposed.
std::vector<TimeSpan> drawnTrims(const View& view, const RunId& run);
/// "GPU load percent".
QString sensorName(capture::Sensor sensor);
/// Time by pixel in the large picture of Runs; nothing where it shows no trace.
std::optional<Scale> runsTime(const View& view, QSizeF size);

// Each station: its easel and its column at the right.
Drawing layoutStart(const View& view, QSizeF size);
Drawing layoutStartColumn(const View& view, QSizeF size);
Drawing layoutBench(const View& view, QSizeF size);
Drawing layoutBenchColumn(const View& view, QSizeF size);
Drawing layoutBrief(const View& view, QSizeF size);
Drawing layoutBriefColumn(const View& view, QSizeF size);
Drawing layoutRuns(const View& view, QSizeF size);
Drawing layoutRunsColumn(const View& view, QSizeF size);
Drawing layoutOrder(const View& view, QSizeF size);   // Runs, while an order waits for a log
Drawing layoutReading(const View& view, QSizeF size); // Runs, while a log is looked at
Drawing layoutReadingColumn(const View& view, QSizeF size);
Drawing layoutLimits(const View& view, QSizeF size);
Drawing layoutLimitsColumn(const View& view, QSizeF size);
Drawing layoutLayers(const View& view, QSizeF size);
Drawing layoutLayersColumn(const View& view, QSizeF size);
Drawing layoutPace(const View& view, QSizeF size);
Drawing layoutPaceColumn(const View& view, QSizeF size);
Drawing layoutProof(const View& view, QSizeF size);
Drawing layoutProofColumn(const View& view, QSizeF size);
Drawing layoutLogbook(const View& view, QSizeF size);
Drawing layoutLogbookColumn(const View& view, QSizeF size);
Drawing layoutWhy(const View& view, QSizeF size);
Drawing layoutEasel(const View& view, QSizeF size);
Drawing layoutColumn(const View& view, QSizeF size);

/// The frame scale of Layers, so that a drag can be read back into a budget.
Scale layersScale(const View& view, QSizeF size);
/// Cap by pixel in Pace's picture.
Scale paceCapScale(const View& view, QSizeF size);

/// A station with nothing to show yet: what will appear, why it is empty, and the way on.
Drawing layoutEmpty(const View& view, QSizeF size, const QString& title, const QString& what);

} // namespace impasto::app
