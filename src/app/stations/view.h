// SPDX-License-Identifier: GPL-3.0-or-later
// What the pictures are laid out from: the session, its results, and where the eye is. No widget, no computation.
#pragma once

#include "pictures/sheet.h"

#include <filesystem>
#include <impasto/logbook/logbook.h>
#include <impasto/logs/import.h>
#include <impasto/path/next_step.h>
#include <impasto/path/perform.h>
#include <impasto/wording/errors.h>
#include <impasto/wording/layers.h>
#include <impasto/wording/limits.h>
#include <impasto/wording/logs.h>
#include <impasto/wording/names.h>
#include <impasto/wording/numbers.h>
#include <impasto/wording/pace.h>
#include <impasto/wording/path.h>
#include <impasto/wording/proof.h>
#include <impasto/wording/runs.h>
#include <map>
#include <typeindex>

namespace impasto::app {

/// Which station, by its stable key: "runs".
struct StationId {
    std::string_view key;
    friend bool operator==(const StationId&, const StationId&) = default;
};

using TimeSpan = capture::Span;

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
    std::optional<double> beginMs, endMs;           // of the run, marked by key
    std::shared_ptr<const frames::Summary> summary; // of the frames so far
    capture::Capture sensors;                       // the last values of those that are read meanwhile
    bool elsewhere = false;                         // another machine writes it
};

/// Logs that are being read.
struct Importing {
    std::size_t logs = 0; // none: nothing is read
    double share = 0;     // of the one that is furthest behind
};

/// The budget line in the hand: what the solver says to the newest target.
struct Preview {
    Fps target;
    std::optional<choose::Proposal> proposal;
    std::optional<Error> error;
    Fps solvedFor; // the target the proposal belongs to
};

/// What stations remember of where the eye is: each has a struct of its own, which starts as it is made.
class States {
  public:
    template <class T>
    T& of() {
        auto& state = m_states[typeid(T)];
        if (!state) state = std::make_shared<T>();
        return *std::static_pointer_cast<T>(state);
    }
    template <class T>
    [[nodiscard]] const T& of() const {
        static const T fresh{};
        const auto it = m_states.find(typeid(T));
        return it == m_states.end() ? fresh : *std::static_pointer_cast<const T>(it->second);
    }

  private:
    std::map<std::type_index, std::shared_ptr<void>> m_states;
};

struct View {
    document::Session session;
    std::shared_ptr<const results::Results> results = std::make_shared<results::Results>();
    std::optional<OrderId> order; // of those that wait, the one the next log answers; none: the oldest
    path::NextStep step;
    StationId station{"bench"};
    States states;                                      // of the stations
    std::optional<RunId> run, behind;                   // shown in the ribbon
    std::optional<TimeSpan> span;                       // selected in the ribbon
    bool zoomed = false;                                // the ribbon shows the span alone
    std::shared_ptr<const frames::Summary> spanSummary; // of the span; none until it is computed
    std::optional<Preview> preview;                     // the budget line in the hand
    Importing importing;
    Live live;
    Follow follow;
    bool narrow = false;       // the column is not beside the easel: a key away
    QString opening;           // what is being opened, while it is; no session is open then
    bool computing = false;    // the first results of a session with runs
    QString whyTopic;          // empty: the station's own column
    QString ask;               // the field of the column whose answer a key asks for, until it is open
    QString message;           // an error or a notice, until the next action
    QString saved;             // what the logbook says
    QString notSaved;          // why what is done is not saved; it stands at the window's top until it is
    bool savingFails = false;  // it was to be saved, and can be tried again
    bool canSimulate = false;  // machine and game are of the simulator
    bool practiceGame = false; // the game is
    std::vector<logbook::SessionHead> logbookSessions;
    wording::Words w;
    pace::CapRules rules;

    template <class T>
    [[nodiscard]] const T& state() const {
        return states.of<T>();
    }
    template <class T>
    [[nodiscard]] const T* get() const {
        return results->get<T>();
    }
    template <class T>
    [[nodiscard]] const T* of(const RunId& id) const {
        return results->of<T>(id);
    }
    [[nodiscard]] const document::Edits& edits() const { return *session.edits; }
    [[nodiscard]] const run::Run* shownRun() const { return run ? session.facts->run(*run) : nullptr; }
    [[nodiscard]] bool empty() const { return step.action == path::Action::Begin; }
    /// This machine's sensors are read beside the log that is followed: not where a simulator or another machine plays,
    /// or where the user says so.
    [[nodiscard]] bool readsSensors() const {
        return follow.active && !follow.elsewhere && edits().runs.followSensors &&
               edits().subject.rig == document::RigKind::Hand;
    }
    [[nodiscard]] Fps target() const {
        return preview ? preview->target : edits().goal.brief ? edits().goal.brief->target : Fps(60);
    }
};

/// What of the run does not count, hatched over its trace.
void hatchTrims(Sheet& sheet, const View& view, const RunId& run, const Scale& time, QRectF plot);

/// "2026-11-28 21:04", where the reader is.
QString dateTime(std::int64_t secondsUtc);

/// A station with nothing to show yet: what will appear, why it is empty, and the way on.
Drawing layoutEmpty(const View& view, QSizeF size, const QString& title, const QString& what);

} // namespace impasto::app
