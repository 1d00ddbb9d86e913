// SPDX-License-Identifier: GPL-3.0-or-later
// A station as a value: its pictures, what hands do in them, its keys and its reasons. One folder each; all.cpp is the
// list that the path, the keys, the finder, the why drawer and the pictures walk.
#pragma once

#include "stations/view.h"

namespace impasto::app {

class Studio;

/// What hands do on hot shapes whose id is `id`, or begins with it where it ends in a dot; the rest of the id is handed
/// on. What is nullptr does nothing.
struct Hand {
    const char* id;
    void (*press)(Studio& studio, const QString& rest) = nullptr;
    void (*type)(Studio& studio, const QString& rest, const QString& text) = nullptr;
    void (*step)(Studio& studio, const QString& rest, int steps) = nullptr;
    void (*drag)(Studio& studio, const QString& rest, QPointF at, DragPhase phase, QSizeF easel) = nullptr;
};
/// The hand with the longest fitting id, and the rest of the id; nullptr without one.
std::pair<const Hand*, QString> handFor(const std::vector<Hand>& hands, const QString& id);

/// A plain key, where the focused widget did not use it.
struct Key {
    int key; // Qt::Key
    const char *name, *what;
    void (*press)(Studio& studio);
};

/// A topic of the why drawer: where a figure comes from, and what can be changed there (nullptr: nothing).
struct Topic {
    const char* id;
    std::optional<wording::Why> (*why)(const View& view, const QString& rest);
    void (*below)(Sheet& sheet, const View& view, double y) = nullptr;
};

/// Something the finder lists.
struct Findable {
    QString kind, name, note;
    std::function<void()> go;
    QString focus = {}; // the hot shape of the easel that it goes to
};

/// A picture for the documents: taken when the action comes next, on the demo.
struct Shot {
    const char* name;
    path::Action before;
    void (*prepare)(Studio& studio) = nullptr;
};

/// What a station reads of the shipped data: read off the window's thread when a session is opened, then handed over.
using Loaded = std::function<void(Studio&)>;

/// What the path says under a station's name.
struct StateLine {
    StateLine(QString words, bool somethingWasDone = true) : text(std::move(words)), reached(somethingWasDone) {}
    QString text;
    bool reached;
};
StateLine notYet();

struct Station {
    StationId id;
    const char* name;
    std::vector<path::Action> does;  // that are done here
    std::vector<path::Action> shows; // whose result is seen here, where that is not where they were done
    StateLine (*state)(const View& view);
    QString (*stale)(const View& view) = nullptr; // what a decision made here rests on no more; empty: it stands
    Drawing (*easel)(const View& view, QSizeF size) = nullptr;
    Drawing (*column)(const View& view, QSizeF size) = nullptr;
    std::vector<Hand> hands = {};
    std::vector<Key> keys = {};
    std::vector<Topic> topics = {};
    QString (*table)(const View& view) = nullptr; // of its figures, for the clipboard; none: the easel's texts
    const char* topic = "average";                // of F1 where nothing in focus has a reason of its own
    void (*find)(Studio& studio, std::vector<Findable>& out) = nullptr;
    bool (*escape)(Studio& studio) = nullptr;  // false where there is nothing to leave
    void (*arrived)(Studio& studio) = nullptr; // it came into view, or new results did while it was
    Loaded (*load)(const std::filesystem::path& dataDir) = nullptr;
    std::vector<Shot> shots = {};
};

/// In the order of the path.
const std::vector<Station>& stations();
/// One that is in the list.
const Station& stationOf(StationId id);
/// Where an action is done, and where its result is seen.
StationId stationDoing(path::Action action);
StationId stationShowing(path::Action action);
/// The state of a station in words: what is stale first.
QString stationState(const View& view, const Station& station);

/// What comes next, and why; while first results are computed, that.
QString nextAction(const View& view);
QString nextReason(const View& view);
/// Of a run whose figures are not there: that they come, or that they do not.
QString figuresWait(const View& view);

/// The easel and the column of the station in view; before anything is there, and while a session is opened, others.
Drawing layoutEasel(const View& view, QSizeF size);
Drawing layoutColumn(const View& view, QSizeF size);

} // namespace impasto::app
