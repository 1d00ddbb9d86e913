// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/logs/notes.h>

#include <charconv>
#include <fmt/format.h>
#include <impasto/base/keys.h>
#include <impasto/base/text.h>

namespace impasto::logs {
namespace {

constexpr Keys<NoteKind, noteKinds> kinds{{{NoteKind::MissingTime, "missing_time"},
                                           {NoteKind::ZeroTime, "zero_time"},
                                           {NoteKind::RepeatedStamp, "repeated_stamp"},
                                           {NoteKind::AbsurdTime, "absurd_time"},
                                           {NoteKind::OtherWidth, "other_width"},
                                           {NoteKind::Ending, "ending"},
                                           {NoteKind::OtherProgram, "other_program"},
                                           {NoteKind::Invented, "invented"},
                                           {NoteKind::Readings, "readings"},
                                           {NoteKind::OtherRecording, "other_recording"},
                                           {NoteKind::RatesTurned, "rates_turned"},
                                           {NoteKind::ClockApart, "clock_apart"},
                                           {NoteKind::Unlike, "unlike"},
                                           {NoteKind::CutRow, "cut_row"},
                                           {NoteKind::CutFile, "cut_file"},
                                           {NoteKind::Unchecked, "unchecked"},
                                           {NoteKind::NewestFirst, "newest_first"},
                                           {NoteKind::UnitBySize, "unit_by_size"},
                                           {NoteKind::TakenForTime, "taken_for_time"},
                                           {NoteKind::SensorsBeside, "sensors_beside"},
                                           {NoteKind::UnitChange, "unit_change"},
                                           {NoteKind::NeverShown, "never_shown"},
                                           {NoteKind::RateApart, "rate_apart"}}};
constexpr std::string_view prefix = "note.";

} // namespace

std::string_view keyOf(NoteKind kind) {
    return keyIn(kinds, kind);
}

void keep(capture::Capture& capture, const Note& note) {
    if (note.count == 0) return;
    std::string text = fmt::format("{} {}", note.count, note.firstLine);
    for (const auto& [name, rows] : note.names) text += fmt::format(" {}={}", wordOf(name), rows);
    capture.notes[fmt::format("{}{}", prefix, keyOf(note.kind))] = std::move(text);
}

std::vector<Note> notesOf(const capture::Capture& capture) {
    std::vector<Note> out;
    for (const auto& [kind, key] : kinds) {
        const auto it = capture.notes.find(fmt::format("{}{}", prefix, key));
        if (it == capture.notes.end()) continue;
        Note note{kind, 0, 0, {}};
        const std::string& text = it->second;
        const auto [end, code] = std::from_chars(text.data(), text.data() + text.size(), note.count);
        if (code != std::errc() || note.count == 0) continue;
        std::string_view rest(end, static_cast<std::size_t>(text.data() + text.size() - end));
        const auto number = [&rest] {
            std::size_t value = 0;
            if (!rest.empty()) rest.remove_prefix(1); // a blank, or the equals sign
            const auto [after, fault] = std::from_chars(rest.data(), rest.data() + rest.size(), value);
            rest.remove_prefix(static_cast<std::size_t>(after - rest.data()));
            return fault == std::errc() ? value : 0;
        };
        note.firstLine = number();
        while (!rest.empty()) {
            const auto equals = rest.find('=');
            const auto name = equals == std::string_view::npos ? std::nullopt : textOfWord(rest.substr(1, equals - 1));
            if (!name) break;
            rest.remove_prefix(equals);
            note.names.emplace_back(*name, number());
        }
        out.push_back(note);
    }
    return out;
}

} // namespace impasto::logs
