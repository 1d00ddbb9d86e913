// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/wording/logs.h>

#include <algorithm>

#include <impasto/base/shown.h>

namespace impasto::wording {
namespace {

std::string separatorOf(const Words& w, char delimiter) {
    switch (delimiter) {
    case '\t':
        return w.say("tabs");
    case ' ':
        return w.say("spaces");
    case ',':
        return w.say("commas");
    case ';':
        return w.say("semicolons");
    default:
        return w.say("bars");
    }
}

/// " A (512 rows), B (40)."; nothing where none is known.
std::string namesIn(const Words& w, const logs::Note& note) {
    std::vector<std::string> names;
    for (const auto& [name, rows] : note.names)
        names.push_back(names.empty() ? w.say("{} ({} rows)", shown(name), rows)
                                      : fmt::format("{} ({})", shown(name), rows));
    return names.empty() ? std::string() : " " + listed(w, names) + ".";
}

std::string unitBySize(const Words& w, const logs::Note& note) {
    if (note.names.empty()) return {};
    const auto& [key, rate] = note.names.front();
    const auto unit = std::find_if(logs::allTimeUnits.begin(), logs::allTimeUnits.end(),
                                   [&key](logs::TimeUnit each) { return keyOf(each) == key; });
    if (unit == logs::allTimeUnits.end()) return {};
    return w.say("No heading names the unit of the times: {} by their size, which comes to {} fps. Where that cannot "
                 "be, look at the log and say the unit (Ctrl+Alt+O).",
                 timeUnit(*unit), rate);
}

std::string sensorsBeside(const Words& w, const logs::Note& note) {
    auto text = note.count == 1 ? w.say("1 sensor of this machine was read while the log was written.")
                                : w.say("{} sensors of this machine were read while the log was written.", note.count);
    if (!note.names.empty())
        text += " " + w.say("{} was at work while the GPU that is meant for games rested: does the game run on the "
                            "wrong one?",
                            shown(note.names.front().first));
    return text;
}

std::string takenForTime(const Words& w, const logs::Note& note) {
    if (note.names.empty()) return {};
    return w.say(
        "No heading names a time: column {}, \u201c{}\u201d, is taken for it. Where it is something else, look "
        "at the log (Ctrl+Alt+O).",
        note.names.front().second, shown(note.names.front().first));
}

std::string neverShown(const Words& w, const logs::Note& note) {
    return note.count == 1 ? w.say("1 row says that its frame was never shown: it counts as a frame all the same.")
                           : w.say("{} rows say that their frames were never shown: they count as frames all the "
                                   "same, and fewer were seen.",
                                   note.count);
}

std::string rateApart(const Words& w, const logs::Note& note) {
    if (note.names.empty()) return {};
    return w.say("Column \u201c{}\u201d says {} fps, the frame times come to another rate: are invented frames counted "
                 "in one of them?",
                 shown(note.names.front().first), note.names.front().second);
}

} // namespace

std::string timeUnit(logs::TimeUnit unit) {
    return unit == logs::TimeUnit::Microseconds ? std::string("\u00b5s")
           : unit == logs::TimeUnit::Ticks      ? std::string("100 ns")
                                                : std::string(keyOf(unit));
}

std::string importNote(const Words& w, const logs::Note& note) {
    const auto rows = [&](const char* one, const char* many) {
        return note.count == 1 ? w.say(one, note.firstLine) : w.say(many, note.count, note.firstLine);
    };
    switch (note.kind) {
    case logs::NoteKind::MissingTime:
        return rows("1 row without a time passed over, in line {}; a long frame may hide there.",
                    "{} rows without a time passed over, first in line {}; long frames may hide there.");
    case logs::NoteKind::ZeroTime:
        return rows("1 frame that takes no time passed over, in line {}.",
                    "{} frames that take no time passed over, first in line {}.");
    case logs::NoteKind::RepeatedStamp:
        return rows("1 time stamp repeats the one before: passed over, in line {}.",
                    "{} time stamps repeat the one before: passed over, first in line {}.");
    case logs::NoteKind::AbsurdTime:
        return rows("1 frame under 0.05 ms or over a minute passed over, in line {}.",
                    "{} frames under 0.05 ms or over a minute passed over, first in line {}.");
    case logs::NoteKind::OtherWidth:
        return rows("1 row of another kind, with fewer cells, passed over, in line {}.",
                    "{} rows of another kind, with fewer cells, passed over, first in line {}.");
    case logs::NoteKind::Ending:
        return rows("1 row after the last frame is no frame: passed over, in line {}.",
                    "{} rows after the last frame are no frames: passed over, from line {}.");
    case logs::NoteKind::OtherProgram:
        return rows("1 row of another program or kind passed over, in line {}.",
                    "{} rows of another program or kind passed over, first in line {}.") +
               namesIn(w, note);
    case logs::NoteKind::Invented:
        return rows("1 row is an invented frame, in line {}: frame times are those between rendered ones.",
                    "{} rows are invented frames, first in line {}: frame times are those between rendered ones.");
    case logs::NoteKind::Readings:
        return rows("1 row is no frame: its readings are kept, in line {}.",
                    "{} rows are no frames: their readings are kept, first in line {}.");
    case logs::NoteKind::OtherRecording:
        return rows("1 row of another recording in the same log passed over, in line {}.",
                    "{} rows of another recording in the same log passed over, first in line {}.");
    case logs::NoteKind::RatesTurned:
        return rows("1 momentary rate turned into a frame time, in line {}.",
                    "{} momentary rates turned into frame times, first in line {}.");
    case logs::NoteKind::ClockApart:
        return rows(
            "Frame times and time stamps disagree once, in line {}: a row is missing there, or wrong.",
            "Frame times and time stamps disagree {} times, first in line {}: rows are missing there, or wrong.");
    case logs::NoteKind::Unlike:
        return rows("1 long frame is written unlike the others, in line {}: is it right?",
                    "{} long frames are written unlike the others, first in line {}: are they right?");
    case logs::NoteKind::CutRow:
        return w.say("The last row, line {}, is cut: left out.", note.firstLine);
    case logs::NoteKind::CutFile:
        return w.say("The packed file ends early or is damaged: whole rows before that are kept.");
    case logs::NoteKind::Unchecked:
        return w.say("The packed file has no checksum: damage inside it would not show.");
    case logs::NoteKind::NewestFirst:
        return w.say("The rows stand newest first: read from the last one on.");
    case logs::NoteKind::UnitBySize:
        return unitBySize(w, note);
    case logs::NoteKind::TakenForTime:
        return takenForTime(w, note);
    case logs::NoteKind::SensorsBeside:
        return sensorsBeside(w, note);
    case logs::NoteKind::UnitChange:
        return w.say("From line {} on, {} frames take hundreds of times as long as those before: did the unit change "
                     "there?",
                     note.firstLine, note.count);
    case logs::NoteKind::NeverShown:
        return neverShown(w, note);
    case logs::NoteKind::RateApart:
        return rateApart(w, note);
    }
    return {};
}

std::vector<std::string> importNotes(const Words& w, const capture::Capture& capture) {
    std::vector<std::string> out;
    for (const auto& note : logs::notesOf(capture)) out.push_back(importNote(w, note));
    return out;
}

std::string dialect(const Words& w, const logs::Dialect& d) {
    std::vector<std::string> said;
    switch (d.meaning) {
    case logs::TimeMeaning::PerFrame:
        said.push_back(w.say("Frame times in {}, column {} of {}.", timeUnit(d.unit), d.timeColumn + 1, d.columns));
        break;
    case logs::TimeMeaning::Cumulative:
        said.push_back(w.say("Time stamps in {}, column {} of {}.", timeUnit(d.unit), d.timeColumn + 1, d.columns));
        break;
    case logs::TimeMeaning::Rate:
        said.push_back(w.say("Momentary rates in fps, column {} of {}.", d.timeColumn + 1, d.columns));
        break;
    }
    if (d.cpuColumn) said.push_back(w.say("CPU work in {}, column {}.", timeUnit(d.cpuUnit), *d.cpuColumn + 1));
    if (d.gpuColumn) said.push_back(w.say("GPU work in {}, column {}.", timeUnit(d.gpuUnit), *d.gpuColumn + 1));
    if (logs::countsInvented(d)) said.push_back(w.say("Invented frames counted in column {}.", *d.inventedColumn + 1));
    const std::string separator = separatorOf(w, d.delimiter);
    said.push_back(
        d.decimalComma
            ? w.say("Cells separated by {}, decimal comma; frames from line {}.", separator, d.firstDataLine + 1)
            : w.say("Cells separated by {}; frames from line {}.", separator, d.firstDataLine + 1));
    if (d.sensors.size() == 1) said.push_back(w.say("1 sensor column."));
    if (d.sensors.size() > 1) said.push_back(w.say("{} sensor columns.", d.sensors.size()));
    if (d.others.size() == 1) said.push_back(w.say("1 more column was kept."));
    if (d.others.size() > 1) said.push_back(w.say("{} more columns were kept.", d.others.size()));
    if (!d.program.empty()) said.push_back(w.say("Several programs are in this log; {} counts.", shown(d.program)));
    if (d.recording > 1) said.push_back(w.say("Recording {} of the log.", d.recording));
    std::string out;
    for (const auto& each : said) out += (out.empty() ? "" : " ") + each;
    return out;
}

std::string sensor(const Words& w, capture::Sensor sensor) {
    using capture::Sensor;
    switch (sensor) {
    case Sensor::GpuLoad:
        return w.say("GPU load, %");
    case Sensor::CpuLoad:
        return w.say("CPU load, %");
    case Sensor::BusiestCore:
        return w.say("busiest core, %");
    case Sensor::GpuMemory:
        return w.say("GPU memory, MiB");
    case Sensor::SystemMemory:
        return w.say("system memory, MiB");
    case Sensor::GpuPower:
        return w.say("GPU power, W");
    case Sensor::CpuPower:
        return w.say("CPU power, W");
    case Sensor::SystemPower:
        return w.say("system power, W");
    case Sensor::CpuClock:
        return w.say("CPU clock, %");
    case Sensor::GpuClock:
        return w.say("GPU clock, %");
    case Sensor::CpuTemperature:
        return w.say("CPU temperature, \u00b0C");
    case Sensor::GpuTemperature:
        return w.say("GPU temperature, \u00b0C");
    case Sensor::Fan:
        return w.say("fan, %");
    case Sensor::CpuMhz:
        return w.say("CPU clock, MHz");
    case Sensor::GpuMhz:
        return w.say("GPU clock, MHz");
    case Sensor::SecondGpuLoad:
        return w.say("load of the second GPU, %");
    }
    return {};
}

std::string sensorColumn(const Words& w, capture::Sensor sensor) {
    using capture::Sensor;
    switch (sensor) {
    case Sensor::GpuLoad:
        return w.say("GPU load %");
    case Sensor::CpuLoad:
        return w.say("CPU load %");
    case Sensor::BusiestCore:
        return w.say("core %");
    case Sensor::GpuMemory:
        return w.say("GPU GiB");
    case Sensor::SystemMemory:
        return w.say("memory GiB");
    case Sensor::GpuPower:
        return w.say("GPU W");
    case Sensor::CpuPower:
        return w.say("CPU W");
    case Sensor::SystemPower:
        return w.say("system W");
    case Sensor::CpuClock:
        return w.say("CPU clock %");
    case Sensor::GpuClock:
        return w.say("GPU clock %");
    case Sensor::CpuTemperature:
        return w.say("CPU \u00b0C");
    case Sensor::GpuTemperature:
        return w.say("GPU \u00b0C");
    case Sensor::Fan:
        return w.say("fan %");
    case Sensor::CpuMhz:
        return w.say("CPU MHz");
    case Sensor::GpuMhz:
        return w.say("GPU MHz");
    case Sensor::SecondGpuLoad:
        return w.say("2nd GPU %");
    }
    return {};
}

std::string sensorInColumn(capture::Sensor sensor, double value) {
    const bool memory = sensor == capture::Sensor::GpuMemory || sensor == capture::Sensor::SystemMemory;
    return memory ? fmt::format("{:.1f}", value / 1024) : fmt::format("{:.0f}", value);
}

std::string meanwhile(const Words& w, const capture::Capture& capture) {
    using capture::Sensor;
    struct Reading {
        Sensor sensor;
        const char* words;
    };
    const auto readings = [&](std::initializer_list<Reading> all) {
        std::vector<std::string> out;
        for (const auto& [sensor, words] : all)
            if (const auto mean = capture::trackMean(capture, sensor))
                out.push_back(w.say(words, fmt::format("{:.0f}", *mean)));
        return listed(w, out);
    };
    std::string out;
    const auto add = [&](const char* sentence, const std::string& list) {
        if (!list.empty()) out += (out.empty() ? "" : " ") + w.say(sentence, list);
    };
    add("GPU {}.", readings({{Sensor::GpuLoad, "{}% busy"},
                             {Sensor::GpuClock, "clock {}%"},
                             {Sensor::GpuMhz, "clock {} MHz"},
                             {Sensor::GpuPower, "{} W"},
                             {Sensor::GpuTemperature, "{} \u00b0C"}}));
    add("Second GPU {}.", readings({{Sensor::SecondGpuLoad, "{}% busy"}}));
    add("CPU {}.", readings({{Sensor::CpuLoad, "{}% busy"},
                             {Sensor::BusiestCore, "its busiest core {}%"},
                             {Sensor::CpuClock, "clock {}%"},
                             {Sensor::CpuMhz, "clock {} MHz"},
                             {Sensor::CpuPower, "{} W"},
                             {Sensor::CpuTemperature, "{} \u00b0C"}}));
    add("Machine {}.", readings({{Sensor::SystemPower, "{} W"}, {Sensor::Fan, "fan {}%"}}));
    return out;
}

std::string measured(const Words& w, std::string_view key) {
    if (key == "cpu_work_ms") return w.say("CPU work");
    if (key == "gpu_work_ms") return w.say("GPU work");
    if (key == "latency_ms") return w.say("latency");
    if (key == "shown_fps") return w.say("shown, rendered or not");
    const auto found = capture::sensorOf(key);
    return found ? sensor(w, *found) : std::string(key);
}

std::string_view measuredUnit(std::string_view key) {
    constexpr std::pair<std::string_view, std::string_view> units[]{
        {"_ms", "ms"},  {"_fps", "fps"}, {"_percent", "%"}, {"_mib", "MiB"}, {"_w", "W"}, {"_temperature_c", "\u00b0C"},
        {"_mhz", "MHz"}};
    for (const auto& [end, unit] : units)
        if (key.ends_with(end)) return unit;
    return {};
}

} // namespace impasto::wording
