// SPDX-License-Identifier: GPL-3.0-or-later
// What was passed over, cut or doubted while a log was read: nothing is left out without a note. Notes are kept with
// the capture's own, so that they last as long as the run.
#pragma once

#include <impasto/capture/capture.h>

namespace impasto::logs {

enum class NoteKind {
    MissingTime,    // rows whose time says nothing (NA, n/a, -, null, nan, or empty)
    ZeroTime,       // frames that take no time at all
    RepeatedStamp,  // rows with the time stamp of the row before
    AbsurdTime,     // frames under 0.05 ms or over a minute
    OtherWidth,     // rows with fewer cells than the log has columns
    Ending,         // rows after the last frame that hold no time: a summary
    OtherProgram,   // rows of other programs, or of another kind; names: which ones
    Invented,       // rows of frames that were invented: counted with the rendered one behind them
    Readings,       // rows that are no frames, of which the readings are kept
    OtherRecording, // rows of another recording in the same log
    RatesTurned,    // frame times from momentary rates
    ClockApart,     // stretches in which the stamps of the log go by otherwise than the frames do
    Unlike,  // long frames whose cell is written unlike nearly all others: without a decimal mark, or with an exponent
    CutRow,  // the last row, cut while it was written
    CutFile, // a packed file that ends early or is damaged: whole rows before that are kept
    Unchecked,     // a packed file without a checksum: damage inside it does not show
    NewestFirst,   // rows that stand newest first: read from the last one on
    UnitBySize,    // times whose unit nothing but their size says, and an unusual rate that comes of it; names: both
    TakenForTime,  // a column whose heading names no time, taken for one as no other can be; names: it and its number
    SensorsBeside, // sensors that were read beside the log, on the machine that followed it; names: a GPU that was at
                   // work in the place of the one that renders first
    UnitChange,    // frames that take hundreds of times as long as those before: perhaps in another unit
    NeverShown,    // rows that say that their frame was never shown: they count as frames like all others
    RateApart      // a column of rates comes to another one than the frame times beside it; names: it, and its rate
};
inline constexpr std::size_t noteKinds = 23;
std::string_view keyOf(NoteKind kind);

struct Note {
    NoteKind kind = NoteKind::MissingTime;
    std::size_t count = 0;
    std::size_t firstLine = 0;                                   // from 1; 0: not of a line
    std::vector<std::pair<std::string, std::size_t>> names = {}; // with their rows, most first; at most a few
    friend bool operator==(const Note&, const Note&) = default;
};
/// In the order of their kinds.
std::vector<Note> notesOf(const capture::Capture& capture);
/// Kept with the capture; one of no row is not.
void keep(capture::Capture& capture, const Note& note);

} // namespace impasto::logs
