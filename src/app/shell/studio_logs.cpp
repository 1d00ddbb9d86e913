// SPDX-License-Identifier: GPL-3.0-or-later
// Logs: those that are dropped, and those that another program is still writing.
#include "shell/studio.h"
#include "stations/hands.h"

#include <atomic>
#include <impasto/base/file.h>
#include <impasto/base/parallel.h>
#include <impasto/config/files.h>
#include <impasto/logs/notes.h>
#include <impasto/logs/rates.h>
#include <impasto/path/answer.h>
#include <limits>
#include <numeric>

namespace impasto::app {

/// A table of one rate a second.
struct Studio::ReadRates {
    std::string name;
    logs::RateTable table;
};

/// What came of logs, on its way to the window.
struct Studio::ReadLogs {
    std::vector<path::ReadLog> runs;
    std::vector<Error> errors;
    std::vector<Log> unclear; // whose columns are not clear
    std::vector<ReadRates> rates;
    game::Values inFiles; // levels as the game's own files have them now
};

namespace {

/// Logs as runs, each of which says where it lay.
struct ReadAsRuns {
    const std::vector<Log>& logs;
    const std::vector<std::string>& firsts; // of the runs that they are read instead of, in hexadecimal; or empty
    const IdSource& ids;
    const Clock& clock;

    [[nodiscard]] path::ReadLog runOf(std::size_t i, capture::Capture capture) const {
        path::ReadLog out;
        out.run.id = {ids()};
        out.run.name = logs[i].file.filename().string();
        out.run.made = clock();
        capture.notes["file"] = std::filesystem::absolute(logs[i].file).string();
        capture.notes[document::arrivalNote] = "yes";
        if (!firsts[i].empty()) capture.notes[document::readingNote] = firsts[i];
        out.run.capture = std::make_shared<const capture::Capture>(std::move(capture));
        out.counts = logs[i].counts;
        out.instead = logs[i].instead;
        return out;
    }
};

/// Of the machine that followed the log; where it is read another way, of the run before it.
void addSensors(capture::Capture& capture, const Log& log, const capture::Capture* before) {
    logs::Note note{logs::NoteKind::SensorsBeside, 0, 0, {}};
    if (log.followed) {
        const std::lock_guard lock(log.followed->mutex);
        const auto started = log.followed->log.startedMs();
        if (started && log.followed->sensors)
            note.count = capture::addBeside(capture, log.followed->sensors->readings(), *started);
        if (const auto other = log.followed->sensors ? log.followed->sensors->otherGpu() : std::nullopt)
            note.names.emplace_back(*other, 1);
    } else if (before != nullptr && capture.frames() > 0) {
        const auto notes = logs::notesOf(*before);
        const auto beside = std::find_if(notes.begin(), notes.end(),
                                         [](const auto& n) { return n.kind == logs::NoteKind::SensorsBeside; });
        const double longer = capture::durationMs(capture) / capture::durationMs(*before);
        if (beside != notes.end() && std::abs(longer - 1) < 0.02) {
            note = *beside;
            note.count = capture::addBeside(capture, before->tracks, 0);
        }
    }
    logs::keep(capture, note);
}

double steadyMs() {
    return std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

} // namespace

void Studio::importLogs(std::vector<std::filesystem::path> files) {
    std::vector<Log> logs;
    for (auto& file : files) logs.push_back({std::move(file)});
    import(std::move(logs));
}

void Studio::import(std::vector<Log> logs) {
    whenOpen([this, logs = std::move(logs)] {
        m_toImport.insert(m_toImport.end(), logs.begin(), logs.end());
        if (m_importsPending == 0) startImport();
    });
}

void Studio::startImport() {
    ++m_importsPending;
    m_view.importing = {m_toImport.size(), 0};
    auto* open = m_open.get();
    open->importStop = std::stop_source();
    std::vector<std::string> firsts;
    std::vector<std::shared_ptr<const capture::Capture>> before;
    for (const auto& log : m_toImport) {
        const auto* old = log.instead ? m_view.session.facts->run(*log.instead) : nullptr;
        firsts.push_back(old == nullptr ? std::string() : m_view.session.firstReading(*old).hex());
        before.push_back(old == nullptr ? nullptr : old->capture);
    }
    open->importer.post([this, open, logs = std::exchange(m_toImport, {}), firsts, before, ids = m_options.ids,
                         clock = m_options.clock, dialects = m_dialects, session = m_view.session, home = home(),
                         limits = m_options.reading, cancel = open->importStop](const std::stop_token& quit) mutable {
        const std::stop_callback ends(quit, [&cancel] { cancel.request_stop(); });
        const auto stop = cancel.get_token();
        std::vector<Result<capture::Capture>> captures(logs.size(), fail(ErrorCode::Cancelled));
        std::vector<std::atomic<double>> shares(logs.size());
        std::atomic<double> told = 0;
        const auto progress = [&] {
            const double least = *std::min_element(shares.begin(), shares.end());
            if (least < told + 0.02) return;
            told = least;
            open->bridge.post([this, least] {
                m_view.importing.share = least;
                notify();
            });
        };
        inParallel(logs.size(), [&](std::size_t i) {
            logs::ReadOptions options = limits;
            options.dialect = logs[i].dialect;
            options.remembered = dialects;
            options.context.stop = stop;
            options.context.progress = [&, i](double share) {
                shares[i] = share;
                progress();
            };
            captures[i] = logs::readLog(logs[i].file, options);
            if (captures[i]) addSensors(*captures[i], logs[i], before[i].get());
            shares[i] = 1;
        });
        auto read = std::make_shared<ReadLogs>();
        const ReadAsRuns reading{logs, firsts, ids, clock};
        for (std::size_t i = 0; i < logs.size(); ++i) {
            if (captures[i]) {
                read->runs.push_back(reading.runOf(i, std::move(*captures[i])));
                continue;
            }
            const auto code = captures[i].error().code;
            if (code == ErrorCode::AmbiguousColumns || code == ErrorCode::NoTimeColumn ||
                code == ErrorCode::UnclearUnit)
                read->unclear.push_back(logs[i]);
            if (code == ErrorCode::NotFrames)
                if (auto table = logs::readRates(logs[i].file, limits)) {
                    read->rates.push_back({logs[i].file.filename().string(), std::move(*table)});
                    continue;
                }
            read->errors.push_back(captures[i].error());
        }
        if (session.game() != nullptr && session.edits->subject.rig == document::RigKind::Hand)
            read->inFiles = config::valuesInFiles(*session.game(), home);
        open->bridge.post([this, read] { addImported(std::move(*read)); });
    });
    notify();
}

void Studio::cancelImport() {
    m_toImport.clear();
    if (m_open) m_open->importStop.request_stop(); // the job itself goes on to its end, and tells
}

/// What was passed over while these were read; nothing is left out without a word.
QString Studio::notesOf(const std::vector<RunId>& runs) const {
    QString out;
    for (const auto& id : runs) {
        const auto* run = m_view.session.facts->run(id);
        if (run == nullptr || !run->capture) continue;
        QString said;
        for (const auto& note : wording::importNotes(m_view.w, *run->capture)) said += QLatin1Char(' ') + qs(note);
        if (!said.isEmpty())
            out += (out.isEmpty() ? QString() : QStringLiteral(" ")) + qs(run->name) + QLatin1Char(':') + said;
    }
    return out;
}

/// Where the game's files hold another level than the order of a log that was just made asked for.
QString Studio::unlikeFiles(const std::vector<RunId>& runs, const game::Values& inFiles) const {
    QStringList out;
    const auto* game = m_view.session.game();
    const auto* run = runs.size() == 1 && game != nullptr ? m_view.session.facts->run(runs.front()) : nullptr;
    const auto* order = run == nullptr ? nullptr : m_view.session.orderOf(*run);
    if (order == nullptr) return {};
    for (const auto& setting : game->settings) {
        const auto there = inFiles.find(setting.id);
        const auto asked = order->variant.values.find(setting.id);
        if (there != inFiles.end() && asked != order->variant.values.end() && there->second != asked->second)
            out << app::say("%1 %2, not %3").arg(qs(setting.label), qs(there->second), qs(asked->second));
    }
    if (out.isEmpty()) return {};
    return app::say("The game's files hold %1: was it set for this run?").arg(out.join(QStringLiteral(", ")));
}

/// A table of rates answers the order in view like a counter that was watched; without one it stands like any log.
std::optional<Error> Studio::takeRates(const ReadRates& rates) {
    const auto order = orderInHand(m_view);
    const auto& table = rates.table;
    const run::ReadOff figures{table.average, table.least, table.most, {}, {}, table.rates, table.stepMs};
    const auto wanted = order ? std::optional(order->id) : std::nullopt;
    const auto answered = path::answer(store(), wanted, figures, m_options.ids, m_options.clock, rates.name);
    if (!answered) return answered.error();
    m_view.station = stationDoing(path::Action::RecordBaseline);
    showRun(answered->runs.front());
    if (!answered->known.empty()) {
        m_view.message = app::say("%1 is run %2. It was not added again.")
                             .arg(qs(rates.name))
                             .arg(m_view.session.numberOf(answered->known.front()));
        return std::nullopt;
    }
    m_view.message =
        (answered->beside > 0
             ? app::say("%1 is no list of frames. It is shown beside the others and does not count: %2.")
             : app::say("%1 is no list of frames. It counts as read off a counter: %2. No low of it is known."))
            .arg(qs(rates.name), qs(wording::readOff(m_view.w, figures)));
    return answered->mismatch;
}

void Studio::addImported(ReadLogs read) {
    --m_importsPending;
    m_view.importing = {};
    if (!m_toImport.empty()) startImport();
    m_view.message.clear();
    const StationId runs = stationDoing(path::Action::RecordBaseline);
    if (!read.runs.empty() || !read.unclear.empty()) m_view.station = runs;
    std::optional<Error> fault;
    if (!read.runs.empty()) {
        std::vector<RunId> replaced;
        for (const auto& log : read.runs)
            if (log.instead) replaced.push_back(*log.instead);
        // One log answers the order in view; several are told apart by their names.
        if (read.runs.size() == 1) read.runs.front().wants = std::exchange(m_view.order, std::nullopt);
        const auto answered = path::answer(store(), std::move(read.runs));
        if (!answered) return tell(answered.error());
        for (const auto& id : answered->runs) showRun(id);
        for (const auto& id : replaced)
            if (m_view.behind == id) m_view.behind.reset();
        fault = answered->mismatch;
        QStringList told;
        if (!answered->known.empty())
            told << app::say("This log is run %1, frame by frame. It was not added again.")
                        .arg(m_view.session.numberOf(answered->known.front()));
        if (answered->variants > 1)
            told << app::say("%1 variants? The averages of these logs fall in groups further apart than runs of one "
                             "variant do. They are kept apart; press a run and say what it was played with.")
                        .arg(answered->variants);
        if (answered->beside > 0)
            told << (answered->beside == 1
                         ? app::say("This log answers no order. It is shown beside the others and does not count; say "
                                    "what it was played with, or \u201cCount it\u201d adds it to the baseline.")
                         : app::say("%1 logs answer no order. They are shown beside the others and do not count; say "
                                    "what they were played with, or \u201cCount it\u201d adds one to the baseline.")
                               .arg(answered->beside));
        if (const auto notes = notesOf(answered->runs); !notes.isEmpty()) told << notes;
        if (const auto unlike = unlikeFiles(answered->runs, read.inFiles); !unlike.isEmpty()) told << unlike;
        m_view.message = told.join(QLatin1Char(' '));
        // The last order of a step was answered: the path goes on where its result is seen.
        if (answered->last) {
            m_after =
                stationShowing(*answered->last == run::Purpose::Cost    ? path::Action::RecordCosts
                               : *answered->last == run::Purpose::Check ? path::Action::RecordCheck
                               : *answered->last == run::Purpose::Baseline || *answered->last == run::Purpose::WarmUp
                                   ? path::Action::RecordBaseline
                                   : path::Action::RecordProof);
            requestResults();
        }
    }
    for (const auto& table : read.rates)
        if (auto refused = takeRates(table)) read.errors.push_back(std::move(*refused));
    if (fault) return tell(*fault);
    // Those that are not clear are looked at, one after the other.
    if (!read.unclear.empty())
        if (const auto [hand, rest] = handFor(stationOf(runs).hands, QStringLiteral("reading.open")); hand != nullptr)
            for (auto it = read.unclear.rbegin(); it != read.unclear.rend(); ++it)
                hand->type(*this, rest, qs(it->file.string()));
    if (!read.errors.empty()) return tell(read.errors.front());
    notify();
}

void Studio::remember(std::uint64_t headingMark, const logs::Dialect& dialect) {
    m_dialects[headingMark] = dialect;
    if (m_dialectFile.empty()) return;
    if (const auto saved = logs::saveDialects(m_dialectFile, m_dialects); !saved) tell(saved.error());
}

void Studio::follow(const std::filesystem::path& file) {
    whenOpen([this, file] {
        m_open->followed = std::shared_ptr<Followed>(new Followed{{}, logs::Follower(file), {}, {}});
        m_followedFile = file;
        m_followedGrew = std::chrono::steady_clock::now();
        m_view.follow = {true, qs(file.filename().string()), {}, {}, {}, {}, {}, false};
        m_followTimer.start();
        notify();
    });
}

void Studio::pollFollowed() {
    if (!m_view.follow.active || m_pollPending) return;
    m_pollPending = true;
    auto* open = m_open.get();
    open->follower.post(
        [this, open, file = m_followedFile, followed = open->followed, known = m_view.follow.frameMs.size(),
         wanted = !m_options.systemRoot.empty() && m_view.readsSensors(), root = m_options.systemRoot,
         rule = m_view.edits().runs.hitchRule,
         onTime = m_view.edits().goal.brief
                      ? std::optional(frames::OnTime{m_view.target(), m_view.edits().goal.brief->tolerated()})
                      : std::nullopt](const std::stop_token&) {
            const std::lock_guard lock(followed->mutex);
            const double nowMs = steadyMs();
            if (!followed->elsewhere) followed->elsewhere = onNetwork(file);
            const bool sensors = wanted && !*followed->elsewhere;
            if (!sensors) followed->sensors.reset();
            if (sensors && !followed->sensors) followed->sensors.emplace(root);
            if (sensors) followed->sensors->sample(nowMs);
            const auto polled = followed->log.poll(nowMs); // a fault shows when the file is read as a whole
            const auto poll = polled ? *polled : logs::Follower::Poll{};
            const auto& all = followed->log.capture().framesMs;
            const std::size_t from = poll.restarted ? 0 : std::min(known, all.size());
            auto fresh =
                std::make_shared<std::vector<double>>(all.begin() + static_cast<std::ptrdiff_t>(from), all.end());
            std::shared_ptr<const frames::Summary> summary;
            if (!fresh->empty())
                summary = std::make_shared<const frames::Summary>(*frames::summarize(all, onTime, rule));
            auto latest = std::make_shared<capture::Capture>();
            if (sensors) latest->tracks = followed->sensors->latest();
            open->bridge.post([this, open, followed, poll, fresh, summary, latest, elsewhere = *followed->elsewhere] {
                m_pollPending = false;
                if (followed != open->followed) return;
                m_view.follow.sensors = std::move(*latest);
                m_view.follow.elsewhere = elsewhere;
                if (summary || poll.restarted) m_view.follow.summary = summary;
                takePoll(poll, *fresh);
            });
        });
}

void Studio::takePoll(const logs::Follower::Poll& poll, const std::vector<double>& frameMs) {
    const auto now = std::chrono::steady_clock::now();
    if (poll.grew || poll.restarted) m_followedGrew = now;
    if (poll.restarted) m_view.follow.frameMs.clear();
    m_view.follow.frameMs.insert(m_view.follow.frameMs.end(), frameMs.begin(), frameMs.end());
    const double rested = std::chrono::duration<double>(now - m_followedGrew).count();
    // Who writes it closes it at its end; where that cannot be known, a rest tells.
    const double rest = m_view.edits().runs.followRestS;
    const bool over = rested >= rest || (poll.closed && rested >= std::min(0.8, rest));
    if (over && !m_view.follow.frameMs.empty()) return endFollowing(true);
    if (!frameMs.empty() || poll.restarted) notify();
}

void Studio::endFollowing(bool take) {
    Log log{std::exchange(m_followedFile, {})};
    if (const auto begin = m_view.follow.beginMs)
        log.counts = TimeSpan{*begin, m_view.follow.endMs.value_or(std::numeric_limits<double>::max())};
    m_followTimer.stop();
    m_view.follow = {};
    if (m_open) log.followed = std::exchange(m_open->followed, nullptr);
    if (take) import({std::move(log)});
    notify();
}

void Studio::markFollowed() {
    auto& follow = m_view.follow;
    if (!follow.active) return;
    const double now = std::accumulate(follow.frameMs.begin(), follow.frameMs.end(), 0.0);
    if (!follow.beginMs || follow.endMs) {
        follow.beginMs = now;
        follow.endMs.reset();
    } else {
        follow.endMs = now;
    }
    notify();
}

} // namespace impasto::app
