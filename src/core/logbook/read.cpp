// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/base/parallel.h>
#include <impasto/capture/check.h>
#include <impasto/logbook/edits_json.h>

#include "chunk.h"
#include "facts_json.h"
#include "rows.h"

namespace impasto::logbook {
namespace {

using document::Edits;

/// The texts of one table of a session, in order.
std::vector<std::string> texts(SQLite::Database& db, const char* sql, const SessionId& id) {
    SQLite::Statement s(db, sql);
    bindId(s, 1, id.bytes);
    std::vector<std::string> out;
    while (s.executeStep()) out.push_back(s.getColumn(0).getString());
    return out;
}

/// A run's frames as they are stored: its head, and its chunks in order.
struct StoredFrames {
    struct Chunk {
        std::string column, data;
        std::size_t rows = 0;
    };
    std::string head;
    std::vector<Chunk> chunks;
};

StoredFrames framesIn(SQLite::Database& db, const RunId& id, std::string head) {
    StoredFrames out{std::move(head), {}};
    SQLite::Statement s(db,
                        "SELECT column_name, rows, data FROM capture_chunk WHERE run = ? ORDER BY column_name, chunk");
    bindId(s, 1, id.bytes);
    while (s.executeStep()) {
        const auto data = s.getColumn(2);
        const auto* bytes = static_cast<const char*>(data.getBlob());
        out.chunks.push_back({s.getColumn(0).getString(),
                              {bytes, static_cast<std::size_t>(data.getBytes())},
                              static_cast<std::size_t>(s.getColumn(1).getInt64())});
    }
    return out;
}

/// Nothing when a chunk is damaged or missing, or the frames make no sense.
std::optional<capture::Capture> unpacked(const StoredFrames& stored) {
    auto capture = captureFromHead(stored.head);
    if (!capture) return std::nullopt;
    std::map<std::string_view, std::size_t> rowsOf; // room for them, so that nothing is copied while it is read
    for (const auto& chunk : stored.chunks) rowsOf[chunk.column] += std::min(chunk.rows, chunkRows);
    for (const auto& chunk : stored.chunks) {
        const auto to = columnIn(*capture, chunk.column);
        const auto unpackIn = [&](auto* column) {
            if (column->empty()) column->reserve(rowsOf[chunk.column]);
            return unpack(chunk.data, chunk.rows, *column);
        };
        if (!to || !std::visit(unpackIn, *to)) return std::nullopt;
    }
    // Of a recording that was killed, parts lie ahead.
    std::erase_if(capture->marks, [&](const capture::PartMark& m) { return m.firstFrame >= capture->frames(); });
    if (capture::faultOf(*capture)) return std::nullopt; // another program's hand, or damage that no checksum saw
    return std::move(*capture);
}

/// What a row says of a run besides its frames.
run::Run runIn(SQLite::Statement& s) {
    run::Run run;
    run.id = {idFrom(s.getColumn(0))};
    if (!s.getColumn(1).isNull()) run.order = OrderId{idFrom(s.getColumn(1))};
    run.maker = run::makerOf(s.getColumn(2).getString()).value_or(run::Maker::Dropped);
    const std::string state = s.getColumn(3).getString();
    run.crashed = state.starts_with("crashed ");
    run.interrupted = !state.ends_with("complete");
    run.name = s.getColumn(4).getString();
    run.rigState = s.getColumn(5).getString();
    run.made = std::chrono::sys_seconds(std::chrono::seconds(s.getColumn(6).getInt64()));
    return run;
}

/// Several runs: what SQLite gives row by row is unpacked side by side.
void take(std::vector<run::Run>& runs, const std::vector<StoredFrames>& stored, document::Facts& facts,
          std::vector<Error>& damage) {
    std::vector<std::optional<capture::Capture>> captures(runs.size());
    inParallel(runs.size(), [&](std::size_t i) {
        if (!runs[i].crashed) captures[i] = unpacked(stored[i]);
    });
    for (std::size_t i = 0; i < runs.size(); ++i) {
        auto& run = runs[i];
        auto& capture = captures[i];
        const auto readOff = readOffFromHead(stored[i].head);
        if (!readOff) capture.reset(); // figures that cannot be
        if (readOff && capture && capture->frames() == 0) run.readOff = *readOff;
        run.damaged = !capture && !run.crashed;
        const bool there = capture.has_value();
        run.capture = std::make_shared<const capture::Capture>(there ? std::move(*capture) : capture::Capture{});
        const auto why = run.crashed ? ErrorCode::CrashedOnRun : ErrorCode::DamagedCapture;
        facts.runs.push_back(std::move(run));
        if (!there) damage.push_back({why, fmt::format("run {}", facts.runs.size()), {}, Kept::RestOfLogbook});
    }
    runs.clear();
}

void readRuns(SQLite::Database& db, const SessionId& id, document::Facts& facts, Stored& stored) {
    constexpr std::size_t atOnce = 64; // packed frames that are held
    SQLite::Statement s(db, "SELECT id, order_id, maker, state, name, rig_state, made_s, head FROM run WHERE session = "
                            "? ORDER BY position IS NULL, position, made_s");
    bindId(s, 1, id.bytes);
    std::vector<run::Run> runs;
    std::vector<StoredFrames> frames;
    const auto takeAll = [&] {
        take(runs, frames, facts, stored.damage);
        frames.clear();
    };
    while (s.executeStep()) {
        runs.push_back(runIn(s));
        if (s.getColumn(3).getString() == "recording") stored.foundRecording.push_back(runs.back().id);
        auto head = s.getColumn(7).getString();
        frames.push_back(runs.back().crashed ? StoredFrames{std::move(head), {}}
                                             : framesIn(db, runs.back().id, std::move(head)));
        if (runs.size() == atOnce) takeAll();
    }
    takeAll();
}

/// The texts of one table of a session, each parsed. All were valid when stored; one that is not is damage.
template <class Parse, class Take>
Result<void> readThings(SQLite::Database& db, const char* sql, const SessionId& id, Parse parse, Take take) {
    for (const auto& text : texts(db, sql, id)) {
        auto thing = parse(text);
        if (!thing) {
            Error error = thing.error();
            return fail(ErrorCode::DamagedLogbook, error.what, std::move(error.where), Kept::RestOfLogbook);
        }
        take(std::move(*thing));
    }
    return {};
}

Result<void> readEdits(SQLite::Database& db, const SessionId& id, Stored& stored) {
    SQLite::Statement s(db, "SELECT name, json FROM edits WHERE session = ? ORDER BY step");
    bindId(s, 1, id.bytes);
    while (s.executeStep()) {
        auto edits = editsFromJson(s.getColumn(1).getString());
        if (!edits) { // what came before it is whole
            stored.damage.push_back(
                {ErrorCode::DamagedLogbook,
                 fmt::format("change {} and what follows it, {}", stored.steps.size() + 1, edits.error().what),
                 {},
                 Kept::RestOfLogbook});
            return {};
        }
        stored.steps.push_back({s.getColumn(0).getString(), std::make_shared<const Edits>(std::move(*edits))});
    }
    return {};
}

} // namespace

Result<Stored> readSession(SQLite::Database& db, const SessionId& id) {
    SQLite::Statement s(db, "SELECT seed, revision, first_edits, depth FROM session WHERE id = ?");
    bindId(s, 1, id.bytes);
    if (!s.executeStep()) return fail(ErrorCode::UnknownName, id.hex());
    Stored stored;
    document::Facts facts;
    facts.seed = static_cast<std::uint64_t>(s.getColumn(0).getInt64());
    stored.session.id = id;
    stored.session.revision = static_cast<std::uint64_t>(s.getColumn(1).getInt64());
    auto first = editsFromJson(s.getColumn(2).getString());
    if (!first) return tl::unexpected(first.error());
    stored.first = std::make_shared<const Edits>(std::move(*first));
    stored.depth = static_cast<std::size_t>(s.getColumn(3).getInt64());
    Result<void> done = readThings(
        db, "SELECT text FROM machine WHERE session = ? ORDER BY position", id,
        [&](const std::string& text) {
            stored.originals.add(text);
            return machine::parseMachine(text, {});
        },
        [&](auto m) { facts.machines.push_back(std::make_shared<const machine::Machine>(std::move(m))); });
    if (done)
        done = readThings(
            db, "SELECT text FROM game WHERE session = ? ORDER BY position", id,
            [&](const std::string& text) {
                stored.originals.add(text);
                return game::parseGame(text, {});
            },
            [&](auto g) { facts.games.push_back(std::make_shared<const game::Game>(std::move(g))); });
    if (done)
        done = readThings(db, "SELECT json FROM run_order WHERE session = ? ORDER BY position", id, orderFromJson,
                          [&](auto order) { facts.orders.push_back(std::move(order)); });
    if (done) done = readEdits(db, id, stored);
    if (!done) return tl::unexpected(done.error());
    readRuns(db, id, facts, stored);
    stored.depth = std::min(stored.depth, stored.steps.size());
    stored.session.facts = std::make_shared<const document::Facts>(std::move(facts));
    stored.session.edits = stored.depth == 0 ? stored.first : stored.steps[stored.depth - 1].after;
    return stored;
}

void closeRecordings(SQLite::Database& db, const Stored& stored) {
    SQLite::Statement s(db, "UPDATE run SET state = 'interrupted', position = ? WHERE id = ?");
    const auto& runs = stored.session.facts->runs;
    for (std::size_t i = 0; i < runs.size(); ++i) {
        if (std::find(stored.foundRecording.begin(), stored.foundRecording.end(), runs[i].id) ==
            stored.foundRecording.end())
            continue;
        s.reset();
        s.bind(1, static_cast<std::int64_t>(i));
        bindId(s, 2, runs[i].id.bytes);
        s.exec();
    }
}

} // namespace impasto::logbook
