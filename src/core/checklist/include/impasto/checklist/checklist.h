// SPDX-License-Identifier: GPL-3.0-or-later
// Whether the machine is in order for what is wanted of it, point by point. The points and their rules are data
// (docs/formats.md, Checklist); here they are judged from what is known and from what a person said of them.
#pragma once

#include <impasto/document/session.h>

namespace impasto::checklist {

/// Where on the path of a frame a point belongs.
enum class Place { Memory, Cpu, Link, Gpu, Panel };
inline constexpr std::array<Place, 5> allPlaces{Place::Memory, Place::Cpu, Place::Link, Place::Gpu, Place::Panel};
std::string_view keyOf(Place place);

/// Of one fact; all that are given must hold.
struct Condition {
    std::string fact;
    std::vector<std::string> is;       // one of these words
    std::optional<double> least, most; // of a number
    std::string leastOf;               // another fact, that it reaches ...
    double share = 1;                  // ... to this share
    std::string sameAs;                // another fact, whose word it is
};

struct Point {
    std::string id;
    Place place = Place::Cpu;
    std::string title, why, check, change, worth;
    std::string care;                // empty: none
    std::vector<Condition> applies;  // one that is known not to hold: it does not apply
    std::vector<Condition> fine;     // all hold: fine; one does not: to do; none are given: only a person can tell
    std::vector<std::string> tells;  // facts that a person needs to tell
    std::vector<std::string> reopen; // further facts whose change opens it again
};

/// Errors name file, line and key; UnknownName of a fact that nothing tells.
Result<std::vector<Point>> parseChecklist(std::string_view text, std::string fileName);

/// What is known: of the machine, its description, the goal and the state that is played in, under the names of
/// machine::factNames() and those of knownNames().
machine::Facts factsOf(const document::Session& session);
/// Of the machine alone, of which nobody has said how and for what it is played.
machine::Facts factsOf(const machine::Machine& machine);
/// Names of facts that follow from a session besides machine::factNames().
std::span<const std::string_view> knownNames();

enum class Standing { Fine, ToDo, CannotTell, DoesNotApply };
std::string_view keyOf(Standing standing);

struct Judged {
    /// A known fact that it was judged by, or that helps to tell, and the one that it was held against.
    struct Rest {
        std::string fact, against; // against: empty where it was held against none
    };
    Standing standing = Standing::CannotTell;
    std::optional<document::Tick> said; // what a person said, where it still stands
    bool reopened = false;              // it was said, and what it rested on has changed
    std::vector<Rest> rests;
};
Judged judge(const Point& point, const machine::Facts& facts, const document::Checks& checks);

/// What a tick of the point rests on now.
std::uint64_t markOf(const Point& point, const machine::Facts& facts);

struct Counts {
    std::size_t fine = 0, toDo = 0, cannotTell = 0, doesNotApply = 0;
};
Counts count(std::span<const Point> points, const machine::Facts& facts, const document::Checks& checks);

} // namespace impasto::checklist
