// SPDX-License-Identifier: GPL-3.0-or-later
// Logbooks from a hand that wishes no good: every value in the JSON of a session is put to what it never is. It opens
// with an error, or what follows from it is computed to the end.
#include "support/support.h"

#include <SQLiteCpp/SQLiteCpp.h>
#include <impasto/logbook/logbook.h>
#include <impasto/wording/names.h>
#include <impasto/wording/runs.h>
#include <nlohmann/json.hpp>

using namespace impasto;
using namespace impasto::support;
using logbook::Logbook;
using Json = nlohmann::ordered_json;

namespace {

/// A session in which all that can be said is said, with two short runs.
SessionId storedAll(const std::filesystem::path& file) {
    auto book = std::move(*Logbook::open(file));
    auto whole = walkedDemo(path::Action::Done).store;
    // Its runs cut short: what is computed is to be quick.
    auto facts = *whole.session().facts;
    for (auto& run : facts.runs) {
        auto capture = flatCapture(14, 180, 9.0, 12.0);
        run.capture = std::make_shared<const capture::Capture>(std::move(capture));
    }
    const RunId first = facts.runs.front().id;
    document::Session session = whole.session();
    session.facts = std::make_shared<const document::Facts>(std::move(facts));
    document::SessionStore cut(session, whole.first(), whole.steps(), whole.depth());
    for (const auto& edit :
         {document::trimRun(first, {{10, 200}}), document::leaveOut(first, document::LeftOut::ByHand),
          document::nameVariant(session.facts->runs.back().id, "route off")})
        EXPECT_TRUE(cut.apply(edit).has_value());
    auto words = Logbook::wordsOf(Logbook::wholeOf(cut), cut, originals());
    words.stepsFrom = 0;
    words.whole = true;
    EXPECT_TRUE(book->store(Logbook::wholeOf(cut), words, 0).has_value());
    return session.id;
}

const std::vector<Json>& odd() {
    static const std::vector<Json> values{nullptr,
                                          true,
                                          "x",
                                          "",
                                          -1,
                                          0,
                                          1,
                                          1e308,
                                          -1e308,
                                          1e-320,
                                          1e18,
                                          Json::array(),
                                          Json::object(),
                                          "\u202e\u0007",
                                          std::string(70000, 'y')};
    return values;
}

std::vector<Json::json_pointer> placesIn(const Json& j, const Json::json_pointer& at = Json::json_pointer()) {
    std::vector<Json::json_pointer> out{at};
    if (!j.is_structured()) return out;
    std::size_t i = 0;
    for (const auto& [key, value] : j.items()) {
        if (i++ == 3 && j.is_array()) break;
        for (auto& place : placesIn(value, j.is_array() ? at / (i - 1) : at / key)) out.push_back(std::move(place));
    }
    return out;
}

/// Opens, loads and computes what can be; 1 where nothing was found wrong.
int computed(const std::filesystem::path& file, const SessionId& id) {
    const auto book = Logbook::open(file);
    if (!book) return 0;
    const auto stored = (*book)->load(id);
    if (!stored) return 0;
    results::ResultsCache cache;
    pace::CapRules rules;
    const auto results = results::compute(stored->session, cache, rules);
    const auto step = path::nextStep(stored->session, results);
    const wording::Words w;
    static_cast<void>(wording::reason(w, stored->session, results, step));
    for (const auto& run : stored->session.facts->runs) static_cast<void>(wording::runTitle(w, stored->session, run));
    return stored->damage.empty() ? 1 : 0;
}

/// Every place of the JSON in a column of the one row, put to everything odd; of these every `stride`th. At most this
/// share of them is taken for sound.
void crafted(const char* select, const char* update, std::size_t stride, double share) {
    const TemporaryFolder folder;
    const auto good = folder.path("good"), bad = folder.path("bad");
    const auto id = storedAll(good);
    EXPECT_EQ(computed(good, id), 1);
    std::string text;
    {
        SQLite::Database db(good.string(), SQLite::OPEN_READWRITE);
        db.exec("PRAGMA wal_checkpoint(TRUNCATE)");
        text = db.execAndGet(select).getString();
    }
    const auto json = Json::parse(text);
    const auto places = placesIn(json);
    int opened = 0, tried = 0;
    std::size_t n = 0;
    for (const auto& place : places)
        for (const auto& value : odd()) {
            if (n++ % stride != 0) continue;
            Json changed = json;
            changed[place] = value;
            std::filesystem::copy_file(good, bad, std::filesystem::copy_options::overwrite_existing);
            {
                SQLite::Database db(bad.string(), SQLite::OPEN_READWRITE);
                SQLite::Statement s(db, update);
                s.bind(1, changed.dump());
                s.exec();
                db.exec("PRAGMA wal_checkpoint(TRUNCATE)");
            }
            SCOPED_TRACE(place.to_string() + " = " + value.dump().substr(0, 30));
            opened += computed(bad, id);
            ++tried;
        }
    EXPECT_LT(opened, tried * share) << "what is wrong is to be found";
    EXPECT_GT(tried, 50);
}

} // namespace

TEST(CraftedTest, EveryValueOfTheEdits) {
    crafted("SELECT json FROM edits ORDER BY step DESC LIMIT 1",
            "UPDATE edits SET json = ? WHERE step = (SELECT max(step) FROM edits)", 19, 0.6);
}

TEST(CraftedTest, EveryValueOfAnOrder) {
    crafted("SELECT json FROM run_order ORDER BY position LIMIT 1", "UPDATE run_order SET json = ? WHERE position = 0",
            7, 0.6);
}

TEST(CraftedTest, EveryValueOfARunsHead) {
    crafted("SELECT head FROM run ORDER BY position LIMIT 1", "UPDATE run SET head = ? WHERE position = 0", 2, 0.6);
}

TEST(CraftedTest, EveryValueOfWhatASessionIsAbout) {
    crafted("SELECT about FROM (SELECT '{\"machine\":\"a\",\"verdict\":\"met\",\"target_fps\":60}' AS about)",
            "UPDATE session SET about = ?", 1, 1.01);
}
