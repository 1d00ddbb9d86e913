// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logs/notes.h>

#include <charconv>
#include <fmt/format.h>
#include <impasto/base/keys.h>

namespace impasto::logs {
namespace {

constexpr Keys<NoteKind, noteKinds> kinds{{{NoteKind::MissingTime, "missing_time"},
                                           {NoteKind::ZeroTime, "zero_time"},
                                           {NoteKind::RepeatedStamp, "repeated_stamp"},
                                           {NoteKind::AbsurdTime, "absurd_time"},
                                           {NoteKind::OtherWidth, "other_width"},
                                           {NoteKind::Ending, "ending"},
                                           {NoteKind::OtherProgram, "other_program"},
                                           {NoteKind::CutRow, "cut_row"},
                                           {NoteKind::CutFile, "cut_file"}}};
constexpr std::string_view prefix = "note.";

} // namespace

std::string_view keyOf(NoteKind kind) {
    return keyIn(kinds, kind);
}

void keep(capture::Capture& capture, const Note& note) {
    if (note.count == 0) return;
    capture.notes[fmt::format("{}{}", prefix, keyOf(note.kind))] = fmt::format("{} {}", note.count, note.firstLine);
}

std::vector<Note> notesOf(const capture::Capture& capture) {
    std::vector<Note> out;
    for (const auto& [kind, key] : kinds) {
        const auto it = capture.notes.find(fmt::format("{}{}", prefix, key));
        if (it == capture.notes.end()) continue;
        Note note{kind, 0, 0};
        const std::string& text = it->second;
        const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), note.count);
        if (code != std::errc() || note.count == 0) continue;
        if (end != text.data() + text.size()) std::from_chars(end + 1, text.data() + text.size(), note.firstLine);
        out.push_back(note);
    }
    return out;
}

} // namespace impasto::logs
