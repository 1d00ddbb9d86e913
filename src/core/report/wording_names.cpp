// SPDX-License-Identifier: GPL-3.0-or-later
// Names of things, and errors.
#include <cmath>
#include <impasto/base/text.h>
#include <impasto/report/wording.h>

namespace impasto::report {

Translate english() {
    return [](const char* text) { return std::string(text); };
}

std::string ErrorText::all() const {
    std::string out;
    for (const auto* part : {&what, &where, &kept, &advice})
        if (!part->empty()) out += (out.empty() ? "" : " ") + *part;
    return out;
}

std::string Wording::style(run::Style style) const {
    switch (style) {
    case run::Style::Competitive:
        return say("competitive");
    case run::Style::Cinematic:
        return say("cinematic");
    case run::Style::Battery:
        return say("battery");
    case run::Style::WeakMachine:
        return say("weak machine");
    case run::Style::Headset:
        return say("headset");
    case run::Style::Quiet:
        return say("quiet");
    }
    return {};
}

std::string Wording::styleWants(run::Style style) const {
    switch (style) {
    case run::Style::Competitive:
        return say("highest steady rate, low latency");
    case run::Style::Cinematic:
        return say("the best picture that feels smooth");
    case run::Style::Battery:
        return say("an even rate, hours, little heat");
    case run::Style::WeakMachine:
        return say("30 without dips");
    case run::Style::Headset:
        return say("every frame inside the refresh");
    case run::Style::Quiet:
        return say("less heat and noise, same feel");
    }
    return {};
}

std::string Wording::styleGivesUp(run::Style style) const {
    switch (style) {
    case run::Style::Competitive:
        return say("gives up most of the picture");
    case run::Style::Cinematic:
        return say("gives up rate, some latency");
    case run::Style::Battery:
        return say("gives up rate and some picture");
    case run::Style::WeakMachine:
        return say("gives up resolution, effects");
    case run::Style::Headset:
        return say("gives up picture at the edges");
    case run::Style::Quiet:
        return say("gives up what nobody notices");
    }
    return {};
}

std::string Wording::figure(stats::Figure figure) const {
    switch (figure) {
    case stats::Figure::Average:
        return say("average");
    case stats::Figure::OnePercentLow:
        return say("1% low");
    case stats::Figure::TenthPercentLow:
        return say("0.1% low");
    case stats::Figure::P99:
        return say("99% of frames under");
    case stats::Figure::HitchesPerMinute:
        return say("hitches a minute");
    case stats::Figure::WithinBudget:
        return say("within the budget");
    }
    return {};
}

namespace {

/// Unit and factor of a figure as shown.
std::pair<const char*, double> unitOf(stats::Figure figure) {
    switch (figure) {
    case stats::Figure::P99:
        return {" ms", 1};
    case stats::Figure::HitchesPerMinute:
        return {"", 1};
    case stats::Figure::WithinBudget:
        return {" %", 100};
    default:
        return {" fps", 1};
    }
}

} // namespace

std::string Wording::figureValue(stats::Figure figure, const stats::Interval& value, bool isDifference) const {
    const auto [unit, factor] = unitOf(figure);
    const auto half = value.halfWidth ? std::optional(*value.halfWidth * factor) : std::nullopt;
    const auto text = isDifference ? signedPlusMinus : plusMinus;
    return text(value.estimate * factor, half, 1) + unit;
}

std::string Wording::averageDifference(const stats::FigureComparison& averages) const {
    const double before = averages.before.mean.estimate, after = averages.after.mean.estimate;
    if (!(before > 0) || !(after > 0)) return {};
    const auto& d = averages.comparison.difference;
    const auto scaled = [&d](double factor) {
        return signedPlusMinus(d.estimate * factor,
                               d.halfWidth ? std::optional(*d.halfWidth * std::abs(factor)) : std::nullopt, 2);
    };
    // 1000 / after - 1000 / before = -1000 (after - before) / (before after)
    return say("{}, {}%, {} ms", figureValue(stats::Figure::Average, d, true), scaled(100 / before),
               scaled(-1000 / (before * after)));
}

std::string Wording::verdict(const stats::FigureComparison& compared) const {
    switch (compared.comparison.verdict) {
    case stats::Verdict::Differs:
        return say("differs");
    case stats::Verdict::NoLargerDifference: {
        const auto [unit, factor] = unitOf(compared.figure);
        return say("no difference larger than {}{}", plusMinus(compared.comparison.largest * factor, {}, 2), unit);
    }
    case stats::Verdict::NotEnoughRuns:
        return say("not enough runs");
    }
    return {};
}

std::string Wording::hitchOrigin(const stats::HitchOrigin& origin) const {
    switch (origin.pattern) {
    case stats::HitchPattern::TooFew:
        return {};
    case stats::HitchPattern::Periodic:
        return say("one every {} s", fmt::format("{:.2f}", origin.periodMs / 1000));
    case stats::HitchPattern::SamePlace:
        return say("{} at the same places in other runs", percent(origin.strength));
    case stats::HitchPattern::FirstRun:
        return say("{} only in the first run", percent(origin.strength));
    case stats::HitchPattern::Growing:
        return say("{} in the second half: they grow", percent(origin.strength));
    case stats::HitchPattern::Random:
        return say("at random");
    }
    return {};
}

Wording::Finding Wording::finding(const stats::Examined& e) const {
    const std::string change = signedPlusMinus(100 * e.figure, {}, 1) + "%";
    switch (e.finding) {
    case stats::Finding::Flattened:
        return e.found ? Finding{say("capped or synced"), say("{} of the frames are held", percent(e.figure))}
                       : Finding{say("no cap or sync"), say("frame times move freely")};
    case stats::Finding::Drifts:
        return {e.found ? say("drifting") : say("no drift"), say("{} inside the parts", change)};
    case stats::Finding::StandsStill:
        if (!e.found) return {say("readings alive"), say("none stands still")};
        return {say("a reading stands still"), e.figure == 1   ? say("the CPU's is a wait, not work")
                                               : e.figure == 2 ? say("the GPU's is a wait, not work")
                                                               : say("CPU and GPU: waits, not work")};
    case stats::Finding::TooShort: {
        const std::string rests = say("1% low on {} frames", count(static_cast<std::size_t>(std::ceil(e.figure))));
        return {e.found ? say("too short") : say("long enough"), rests};
    }
    case stats::Finding::NotApplied:
        return e.found ? Finding{say("nothing changed"), say("was it applied? Reload and run it again")}
                       : Finding{say("applied"), say("{} on what it pays for", change)};
    case stats::Finding::Background:
        return {e.found ? say("another program was busy") : say("nothing else was busy"),
                say("{} points of load", signedPlusMinus(e.figure, {}, 1))};
    case stats::Finding::Unlike:
        return {e.found ? say("unlike its siblings") : say("like its siblings"), say("{} in the average", change)};
    }
    return {};
}

std::string Wording::moreRuns(stats::Figure figure, const stats::Family& family) const {
    constexpr std::size_t more = 2;
    if (!family.spreadSd || !family.mean.halfWidth || *family.mean.halfWidth <= 0) return {};
    const auto then = stats::halfWidthAt(*family.spreadSd, family.mean.count + more);
    const auto [unit, factor] = unitOf(figure);
    return say("{} more runs bring \u00b1 {} to about \u00b1 {}{}", more,
               plusMinus(*family.mean.halfWidth * factor, {}, 1), plusMinus(*then * factor, {}, 1), unit);
}

std::string Wording::school(run::LowSchool school) const {
    switch (school) {
    case run::LowSchool::Percentile:
        return say("percentile");
    case run::LowSchool::WorstMean:
        return say("worst-mean");
    case run::LowSchool::TimeShare:
        return say("time-share");
    }
    return {};
}

std::string Wording::schoolMeaning(run::LowSchool school) const {
    switch (school) {
    case run::LowSchool::Percentile:
        return say("the rate at the 99th percentile of the frame times (type 7)");
    case run::LowSchool::WorstMean:
        return say("the rate at the mean of the slowest 1% of the frames");
    case run::LowSchool::TimeShare:
        return say("the rate at the frame where the slowest frames add up to 1% of the time");
    }
    return {};
}

std::string Wording::lane(run::Lane lane) const {
    switch (lane) {
    case run::Lane::Cpu:
        return say("CPU");
    case run::Lane::Gpu:
        return say("GPU");
    case run::Lane::Frame:
        return say("frame");
    }
    return {};
}

std::string Wording::edit(session::EditName name) const {
    using enum session::EditName;
    switch (name) {
    case UseMachine:
        return say("machine");
    case UseGame:
        return say("game");
    case UseRig:
        return say("way to record");
    case SetRoute:
        return say("route");
    case SetBaseline:
        return say("start values");
    case SetBrief:
        return say("brief");
    case SetTarget:
        return say("target");
    case SetShares:
        return say("usable shares");
    case LockSetting:
        return say("lock of a setting");
    case LeaveOut:
        return say("leaving a run out");
    case CountRun:
        return say("counting a run");
    case HideRun:
        return say("deleting a run");
    case AcceptChoice:
        return say("accepted choice");
    case ChangeChoice:
        return say("change of a level");
    case ChooseCap:
        return say("cap");
    case KeepResult:
        return say("keeping the result");
    case WriteNote:
        return say("note");
    case SetTitle:
        return say("title");
    case TrimRun:
        return say("trimming of a run");
    case SetHitchRule:
        return say("what a hitch is");
    }
    return {};
}

std::string Wording::stale(const session::Stale& names) const {
    if (names.empty()) return {};
    std::string list;
    for (const auto& name : names) list += (list.empty() ? "" : ", ") + m_tr(name.c_str());
    return say("stale: {}", list);
}

std::string Wording::capSchool(choose::CapSchool school) const {
    switch (school) {
    case choose::CapSchool::Steady:
        return say("steady");
    case choose::CapSchool::Headroom:
        return say("headroom");
    case choose::CapSchool::BottomOfRange:
        return say("bottom of the range");
    case choose::CapSchool::Even:
        return say("even");
    case choose::CapSchool::Window:
        return say("window");
    case choose::CapSchool::None:
        return say("no cap");
    }
    return {};
}

std::string Wording::capSchoolRule(choose::CapSchool school, const choose::CapRules& rules) const {
    switch (school) {
    case choose::CapSchool::Steady:
        return say("highest low that holds the target");
    case choose::CapSchool::Headroom:
        return say("slack for {} of the work", percent(rules.headroomQuantile));
    case choose::CapSchool::BottomOfRange:
        return say("what {} of the seconds reach", percent(1 - rules.bottomQuantile));
    case choose::CapSchool::Even:
        return say("whole refreshes a frame");
    case choose::CapSchool::Window:
        return say("just under the top of the window");
    case choose::CapSchool::None:
        return say("latency first");
    }
    return {};
}

std::string Wording::leftOut(session::LeftOut reason) const {
    switch (reason) {
    case session::LeftOut::WarmUp:
        return say("First run: shaders were compiled. It is kept and does not count.");
    case session::LeftOut::Interrupted:
        return say("Stopped before its end. Its frames are kept and do not count.");
    case session::LeftOut::Damaged:
        return say("Its stored frames are damaged.");
    case session::LeftOut::Mismatch:
        return say("It does not fit the order it should answer.");
    case session::LeftOut::ByHand:
        return say("Left out by hand.");
    }
    return {};
}

std::string Wording::dialect(const capture::Dialect& d) const {
    const auto unit = [](capture::TimeUnit u) {
        return u == capture::TimeUnit::Microseconds ? std::string("\u00b5s") : std::string(capture::keyOf(u));
    };
    std::string out = d.meaning == capture::TimeMeaning::PerFrame
                          ? say("Frame times in {}, column {} of {}.", unit(d.unit), d.timeColumn + 1, d.columns)
                          : say("Time stamps in {}, column {} of {}.", unit(d.unit), d.timeColumn + 1, d.columns);
    const auto work = [&](const std::string& lane, const std::optional<std::size_t>& column) {
        if (column) out += ' ' + say("{} work in {}, column {}.", lane, unit(d.workUnit), *column + 1);
    };
    work(lane(run::Lane::Cpu), d.cpuColumn);
    work(lane(run::Lane::Gpu), d.gpuColumn);
    const std::string parted = d.delimiter == '\t'  ? say("tabs")
                               : d.delimiter == ' ' ? say("spaces")
                               : d.delimiter == ',' ? say("commas")
                               : d.delimiter == ';' ? say("semicolons")
                                                    : say("bars");
    out +=
        ' ' + (d.decimalComma ? say("Cells parted by {}, decimal comma", parted) : say("Cells parted by {}", parted));
    out += say("; frames from line {}.", d.firstDataLine + 1);
    if (!d.sensors.empty()) out += ' ' + say("{} slow readings.", d.sensors.size());
    if (!d.others.empty()) out += ' ' + say("{} other columns come along.", d.others.size());
    if (!d.program.empty()) out += ' ' + say("Of several programs {} counts.", d.program);
    return out;
}

std::string Wording::meanwhile(const capture::Capture& capture) const {
    using capture::Sensor;
    std::string out;
    const auto add = [&](const std::string& who, std::initializer_list<std::pair<Sensor, const char*>> readings) {
        std::string said;
        for (const auto& [sensor, words] : readings)
            if (const auto mean = capture::trackMean(capture, sensor))
                said += (said.empty() ? " " : ", ") + say(words, fmt::format("{:.0f}", *mean));
        if (!said.empty()) out += (out.empty() ? "" : " ") + who + said + ".";
    };
    add(lane(run::Lane::Gpu), {{Sensor::GpuLoad, "{}% busy"},
                               {Sensor::GpuClock, "clock {}%"},
                               {Sensor::GpuPower, "{} W"},
                               {Sensor::GpuTemperature, "{} \u00b0C"}});
    add(lane(run::Lane::Cpu), {{Sensor::CpuLoad, "{}% busy"},
                               {Sensor::CpuClock, "clock {}%"},
                               {Sensor::CpuPower, "{} W"},
                               {Sensor::CpuTemperature, "{} \u00b0C"}});
    add(say("Machine"), {{Sensor::SystemPower, "{} W"}, {Sensor::Fan, "fan {}%"}});
    return out;
}

std::string Wording::part(const std::string& part) const {
    return part.empty() ? say("whole run") : part;
}

std::string Wording::purpose(const session::Session& session, const run::Order& order) const {
    switch (order.purpose) {
    case run::Purpose::Baseline:
        return say("baseline");
    case run::Purpose::Cost:
        for (const auto& [id, level] : order.variant.values) {
            const auto it = session.edits->baseline.find(id);
            const auto* setting = session.game() == nullptr ? nullptr : session.game()->setting(id);
            if (setting != nullptr && it != session.edits->baseline.end() && it->second != level)
                return say("cost, {} {}", setting->label, level);
        }
        return say("cost");
    case run::Purpose::Check:
        return say("chosen set, no cap");
    case run::Purpose::ProofBefore:
        return say("before");
    case run::Purpose::ProofAfter:
        return order.variant.cap ? say("after, cap {}", wishFps(*order.variant.cap)) : say("after");
    }
    return {};
}

std::string Wording::runTitle(const session::Session& session, const run::Run& run) const {
    const auto* order = session.facts->orderOf(run);
    const std::string kind = order != nullptr   ? purpose(session, *order)
                             : run.name.empty() ? say("frame log")
                                                : run.name;
    return say("Run {} \u00b7 {}", session.numberOf(run.id), kind);
}

namespace {

std::string placeOf(const Where& w) {
    std::string out = w.file;
    const auto add = [&out](const std::string& text) { out += (out.empty() ? "" : ", ") + text; };
    if (w.line) add(fmt::format("line {}", *w.line));
    if (w.column) add(fmt::format("column {}", *w.column));
    if (!w.key.empty()) add(w.key);
    return out;
}

struct ErrorSentences {
    ErrorCode code;
    const char* what; // {} is Error::what; two of them are its halves around '/'
    const char* advice;
};

constexpr std::array<ErrorSentences, 33> sentences{{
    {ErrorCode::Cancelled, "Cancelled.", ""},
    {ErrorCode::CannotRead, "The file cannot be read: {}.", "Check that it exists and that you may read it."},
    {ErrorCode::CannotWrite, "The file cannot be written: {}.", "Choose another folder, or make room for it."},
    {ErrorCode::FileTooLarge, "The file is larger than {} bytes.", "Cut the log into shorter recordings."},
    {ErrorCode::EmptyFile, "The file is empty.", "Record again, or choose another file."},
    {ErrorCode::NotText, "This is no plain text: {}.", "Save it as UTF-8 text and drop it again."},
    {ErrorCode::LineTooLong, "A line is longer than {} bytes.",
     "Check that this is a frame log with one frame a line."},
    {ErrorCode::NoFrames, "No line holds a frame.", "A log needs a column of frame times or of time stamps."},
    {ErrorCode::NoTimeColumn, "No column looks like frame times or time stamps.",
     "Name the column \"frame_ms\" or \"time_s\" in a heading."},
    {ErrorCode::AmbiguousColumns, "Several columns could be the frame times: {}.",
     "Name the right one \"frame_ms\" in a heading."},
    {ErrorCode::BadNumber, "\"{}\" is no number.", "Correct the cell or cut the line."},
    {ErrorCode::NegativeTime, "A frame cannot take {}.", "Correct the cell or cut the line."},
    {ErrorCode::TimeRunsBackwards, "The time stamp {} is earlier than the one before.",
     "Split the log where a new recording begins."},
    {ErrorCode::UnevenRow, "The line has {} cells; the log has {}.", "Correct or cut the line."},
    {ErrorCode::BadSyntax, "The text cannot be parsed: {}.", "Correct it and try again."},
    {ErrorCode::MissingKey, "{} is missing.", "Add it; docs/formats.md has the fields."},
    {ErrorCode::BadValue, "The value is not {}.", "Correct it; docs/formats.md has the fields."},
    {ErrorCode::UnknownName, "Nothing is called \"{}\" here.", "Check the spelling."},
    {ErrorCode::DuplicateName, "\"{}\" stands here twice.", "Give one of them another name."},
    {ErrorCode::NewerLogbook, "The logbook was written by a newer version ({}).",
     "Open it with that version, or choose another file with --logbook."},
    {ErrorCode::ForeignLogbook, "The file is no logbook of Impasto.", "Choose another file with --logbook."},
    {ErrorCode::DamagedLogbook, "The logbook is damaged: {}.",
     "Copy it away and restore it from a backup, or start a new one with --logbook."},
    {ErrorCode::DamagedCapture, "The stored frames of {} are damaged.",
     "The run says so; record it again if it is needed."},
    {ErrorCode::LogbookBusy, "The logbook is open elsewhere: {}.",
     "Close it there, or choose another file with --logbook."},
    {ErrorCode::DiskFull, "The disk is full: {}.", "Make room; saving goes on by itself."},
    {ErrorCode::LacksMachine, "There is no machine yet.", "Describe it at Bench."},
    {ErrorCode::LacksGame, "There is no game yet.", "Choose or describe one."},
    {ErrorCode::LacksBrief, "Nothing is wished yet.", "Say the target at Brief."},
    {ErrorCode::LacksRuns, "More runs are needed: {}.", "Record them first."},
    {ErrorCode::OrderMismatch, "The log does not fit the order: it lasts {} s, not {} s.",
     "Play the whole route once more, from start to stop."},
    {ErrorCode::NothingFits, "No set of measured levels fits the budget in every part.",
     "Lower the target, or measure lower levels."},
    {ErrorCode::OutOfRange, "The value is out of its range, {}.", "Choose one inside."},
    {ErrorCode::GameCrashed, "The game ended while it was recorded.",
     "Start it again; if it ends at the same place, take back the value that was set last."},
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
        return "The frames until here are kept.";
    case Kept::RestOfLogbook:
        return "Everything else is open as usual.";
    }
    return "";
}

} // namespace

ErrorText Wording::error(const Error& error) const {
    ErrorText text;
    for (const auto& s : sentences)
        if (s.code == error.code) {
            const auto cut = std::min(error.what.find('/'), error.what.size());
            const bool halves = std::string_view(s.what).find("{}") != std::string_view(s.what).rfind("{}");
            text.what =
                halves ? say(s.what, error.what.substr(0, cut), error.what.substr(std::min(cut + 1, error.what.size())))
                       : say(s.what, error.what);
            text.advice = *s.advice == '\0' ? std::string() : say(s.advice);
        }
    const std::string place = placeOf(error.where);
    if (!place.empty()) text.where = say("Where: {}.", place);
    text.kept = say(keptText(error.kept));
    return text;
}

} // namespace impasto::report
