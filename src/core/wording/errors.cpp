// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/errors.h>

#include <algorithm>
#include <array>
#include <impasto/base/shown.h>

namespace impasto::wording {
namespace {

/// "run.csv, line 3, column 2, key".
std::string placeOf(const Words& w, const Where& where) {
    std::vector<std::string> parts;
    if (!where.file.empty()) parts.push_back(where.file);
    if (where.line) parts.push_back(w.say("line {}", *where.line));
    if (where.column) parts.push_back(w.say("column {}", *where.column));
    if (!where.key.empty()) parts.push_back(where.key);
    return listed(w, parts);
}

struct ErrorSentences {
    ErrorCode code;
    const char* what; // {} is Error::what; two of them are its halves around '/'
    const char* advice;
};

constexpr std::array<ErrorSentences, errorCodeCount> sentences{{
    {ErrorCode::Cancelled, "Cancelled.", ""},
    {ErrorCode::CannotRead, "The file cannot be read: {}.", "Check that it exists and that you may read it."},
    {ErrorCode::CannotWrite, "The file cannot be written: {}.", "Choose another folder, or make room for it."},
    {ErrorCode::AlreadyThere, "The file is there already.", "Choose another name, or say --force."},
    {ErrorCode::FileTooLarge, "The file holds more than {}.",
     "Keep what is needed of it: a shorter recording, fewer columns. Or start with --most-rows and --most-gib, "
     "which say how much is read."},
    {ErrorCode::EmptyFile, "The file is empty.", "Record again, or choose another file."},
    {ErrorCode::NotText, "This is not plain text: {}.", "Save it as UTF-8 text and drop it again."},
    {ErrorCode::DamagedPacking, "What is packed as {} is damaged from the start.",
     "Copy it again from where it was recorded, or drop the log unpacked."},
    {ErrorCode::NoTable, "The JSON holds no table of frames.",
     "A list of objects is read, one a frame, or an object of lists of one length."},
    {ErrorCode::LineTooLong, "A line is longer than {} bytes.",
     "Check that this is a frame log with one frame per line."},
    {ErrorCode::NoFrames, "No line holds a frame.", "A log needs a column of frame times or time stamps."},
    {ErrorCode::NoTimeColumn, "No column looks like frame times or time stamps.",
     "Name the column \"frame_ms\" or \"time_s\" in a heading."},
    {ErrorCode::AmbiguousColumns, "Several columns could be the frame times: {}.",
     "Name the right one \"frame_ms\" in a heading."},
    {ErrorCode::BadNumber, "\"{}\" is not a number.", "Correct it, or delete the line."},
    {ErrorCode::NegativeTime, "A frame cannot take {}.", "Correct it, or delete the line."},
    {ErrorCode::TimeRunsBackwards, "The time stamp {} is earlier than the one before it.",
     "Split the log where the new recording starts."},
    {ErrorCode::UnevenRow, "The line has {} cells; the log has {}.", "Correct or delete the line."},
    {ErrorCode::NotFrames, "This is no list of frames: {}.",
     "Use a log with one line a frame; of such a table no low is known."},
    {ErrorCode::UnclearUnit, "The times could be in {} or in {}: heading and values do not settle it.",
     "Look at the log and say which it is (Ctrl+Alt+O)."},
    {ErrorCode::BadSyntax, "The text cannot be parsed: {}.", "Correct it and try again."},
    {ErrorCode::MissingKey, "{} is missing.", "Add it; docs/formats.md lists the fields."},
    {ErrorCode::BadValue, "The value is not {}.", "Correct it; docs/formats.md lists the fields."},
    {ErrorCode::UnknownName, "Unknown name \"{}\".", "Check the spelling."},
    {ErrorCode::DuplicateName, "\"{}\" is used twice.", "Give one of them another name."},
    {ErrorCode::NewerLogbook, "The logbook was written by a newer version ({}).",
     "Open it with that version, or choose another file with --logbook."},
    {ErrorCode::ForeignLogbook, "This file is not an Impasto logbook.", "Choose another file with --logbook."},
    {ErrorCode::DamagedLogbook, "The logbook is damaged: {}.",
     "Move it away and restore it from a backup, or start a new one with --logbook."},
    {ErrorCode::DamagedLogbookLog,
     "The write-ahead log beside the logbook is damaged: the newest changes in it, {}, cannot be read.",
     "It was copied beside the logbook (.damaged). Look at what is missing, or restore a backup."},
    {ErrorCode::CrashedOnRun, "The program ended while it computed {}.",
     "The run is left out, its frames are kept. \u201cCount it\u201d in Runs tries it again."},
    {ErrorCode::NewerSession, "That file holds a later state of this session, or one that went another way.",
     "Choose another file."},
    {ErrorCode::DamagedCapture, "The stored frames of {} are damaged.",
     "The run is marked; record it again if you need it."},
    {ErrorCode::LogbookBusy, "The logbook is open elsewhere: {}.",
     "Close it there, or choose another file with --logbook."},
    {ErrorCode::DiskFull, "The disk is full: {}.", "Make room; saving continues by itself."},
    {ErrorCode::LacksMachine, "There is no machine yet.", "Describe it in Bench."},
    {ErrorCode::LacksGame, "There is no game yet.", "Choose or describe one."},
    {ErrorCode::LacksBrief, "No goal yet.", "Set a target frame rate in Brief."},
    {ErrorCode::LacksRuns, "More runs are needed: {}.", "Record them first."},
    {ErrorCode::OrderMismatch, "The log does not fit the order: it lasts {} s, not {} s.",
     "Play the whole route once more, from start to finish."},
    {ErrorCode::NothingFits, "No combination of the settings fits the budget in every part.",
     "Lower the target, or unlock a setting."},
    {ErrorCode::OutOfRange, "The value is outside its range, {}.", "Choose one inside it."},
    {ErrorCode::GameCrashed, "The game ended while it was being recorded.",
     "Start it again; if it ends at the same place, undo the value that was set last."},
    {ErrorCode::NotInFile, "The file holds no \"{}\".",
     "Change the value once in the game, so that it writes the file; or correct the key in the game's description."},
    {ErrorCode::ChangedMeanwhile, "The file was changed since it was looked at.",
     "End the game first, then look at the differences again."},
    {ErrorCode::LinkedElsewhere, "The file is a link to another folder: {}.",
     "Name the file itself in the game's description, if that is what you want changed."},
    {ErrorCode::UnlikeKinds, "This log has times between started frames, another one between displayed frames.",
     "Compare logs of one kind only."},
    {ErrorCode::OutOfMemory, "There is not enough memory for this.",
     "Close other programs, or split the log into shorter recordings."},
    {ErrorCode::Internal, "An internal step failed: {}.",
     "Try again; if it fails the same way, the log or the session that led to it helps to find the fault."},
}};

const char* keptText(Kept kept) {
    switch (kept) {
    case Kept::Nothing:
        return "Nothing was read.";
    case Kept::AllAsBefore:
        return "Everything is as it was.";
    case Kept::SavedRevisions:
        return "Everything shown as saved is in the file.";
    case Kept::FramesUntilHere:
        return "The frames recorded so far are kept.";
    case Kept::RestOfLogbook:
        return "Everything else opens as usual.";
    }
    return "";
}

/// How a log differs from its order, where that is not its length: "rate 40/60", "capped 60".
void misfit(const Words& w, const std::string& how, ErrorText& text) {
    const auto space = how.find(' '), slash = how.find('/');
    if (space == std::string::npos) return;
    const auto kind = how.substr(0, space);
    if (kind == "rate")
        text.what = w.say("The log does not fit the order: it runs at {} fps, other runs of these settings at {}.",
                          how.substr(space + 1, slash - space - 1), how.substr(slash + 1));
    else if (const auto line = how.find('\n'); kind == "program" && line != std::string::npos)
        text.what = w.say("The log does not fit the order: it is of the program {}, the other runs are of {}.",
                          how.substr(space + 1, line - space - 1), how.substr(line + 1));
    else
        text.what =
            w.say("The log does not fit the order: it stays at {} fps, as with a cap or sync, and the order has "
                  "neither.",
                  how.substr(space + 1));
    text.advice =
        w.say("It lies beside the others, left out; the order stays open. \u201cCount it\u201d uses it all the same.");
}

} // namespace

std::string ErrorText::all() const {
    std::string out;
    for (const auto* part : {&what, &where, &kept, &advice})
        if (!part->empty()) out += (out.empty() ? "" : " ") + *part;
    return out;
}

ErrorText error(const Words& w, const Error& raw) {
    ErrorText text;
    // Cells of logs and names of files come from elsewhere.
    const Error error{raw.code,
                      shown(raw.what, true),
                      {shown(raw.where.file), raw.where.line, raw.where.column, shown(raw.where.key)},
                      raw.kept};
    for (const auto& s : sentences)
        if (s.code == error.code) {
            const auto cut = std::min(error.what.find('/'), error.what.size());
            const bool halves = std::string_view(s.what).find("{}") != std::string_view(s.what).rfind("{}");
            text.what = halves ? w.say(s.what, error.what.substr(0, cut),
                                       error.what.substr(std::min(cut + 1, error.what.size())))
                               : w.say(s.what, error.what);
            text.advice = *s.advice == '\0' ? std::string() : w.say(s.advice);
        }
    if (error.code == ErrorCode::OrderMismatch) misfit(w, error.what, text);
    const std::string place = placeOf(w, error.where);
    if (!place.empty()) text.where = w.say("Where: {}.", place);
    text.kept = w.say(keptText(error.kept));
    return text;
}

} // namespace impasto::wording
