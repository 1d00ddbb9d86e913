// SPDX-License-Identifier: GPL-3.0-or-later
// A log that is damaged by a hand or a disk gives the same figures, or an error, or a note: never other figures without
// a word. Rows that are gone as a whole excepted: no reader can know of them.
#include "support/support.h"

#include <cmath>
#include <impasto/base/random.h>
#include <impasto/frames/summary.h>
#include <impasto/logs/import.h>
#include <impasto/logs/notes.h>

using namespace impasto;
using namespace impasto::logs;

namespace {

struct Dialected {
    const char* name;
    std::string text;
    bool alone = true; // nothing else in it tells how long a frame took
};

std::vector<Dialected> wellFormed() {
    RandomStream s(21, "mutation");
    std::vector<double> ms;
    for (int i = 0; i < 600; ++i) ms.push_back(16 + 3 * std::sin(i / 40.0) + 0.4 * s.normal());
    const auto logOf = [&ms](const char* heading, const std::function<std::string(int, double, double)>& row) {
        std::string text = heading;
        double at = 0;
        for (int i = 0; i < 600; ++i) {
            at += ms[static_cast<std::size_t>(i)];
            text += row(i, ms[static_cast<std::size_t>(i)], at) + "\n";
        }
        return text;
    };
    const auto comma = [](std::string text) {
        std::replace(text.begin(), text.end(), '.', ',');
        return text;
    };
    return {
        {"times", logOf("frame_ms\n", [](int, double v, double) { return fmt::format("{:.4f}", v); })},
        {"stamps", logOf("time_s\n", [](int, double, double at) { return fmt::format("{:.6f}", at / 1000); }), false},
        {"both",
         logOf("time_s,frame_ms,gpu_ms\n",
               [](int, double v, double at) { return fmt::format("{:.6f},{:.4f},{:.4f}", at / 1000, v, 0.8 * v); }),
         false},
        {"decimal commas", logOf("frame;frame_ms;quality\n",
                                 [&](int i, double v, double) {
                                     return fmt::format("{};{};{}", i, comma(fmt::format("{:.3f}", v)), i % 5);
                                 })},
        {"microseconds",
         logOf("", [](int i, double v, double) { return fmt::format("{}\t{:.2f}\thill", i, 1000 * v); })},
        {"clock times",
         logOf("stamp,scene\n",
               [](int, double, double at) {
                   const int whole = static_cast<int>(at);
                   return fmt::format("2031-04-05T10:{:02d}:{:02d}.{:03d}Z,mill", whole / 60000, whole / 1000 % 60,
                                      whole % 1000);
               }),
         false}};
}

/// One piece of damage that leaves the rows in place.
std::string damaged(std::string text, RandomStream& s) {
    const auto at = [&](std::size_t size) { return static_cast<std::size_t>(s.uniform() * static_cast<double>(size)); };
    const std::size_t begin = text.find('\n') + 1; // the heading says the columns
    const std::size_t place = begin + at(text.size() - begin - 1);
    constexpr std::string_view bytes = "0123456789.,;-+eE xN\"\t\n\0\x80";
    switch (at(5)) {
    case 0: // another byte
        text[place] = bytes[at(bytes.size())];
        break;
    case 1: // one more
        text.insert(place, 1, bytes[at(bytes.size())]);
        break;
    case 2: // one less, no line end: that would join rows
        if (text[place] != '\n') text.erase(place, 1);
        break;
    case 3: { // a cell that says nothing
        const auto from = text.rfind('\n', place) + 1, to = text.find('\n', place);
        text.replace(from, to - from, "NA");
        break;
    }
    default: // a row twice
        const auto from = text.rfind('\n', place) + 1, to = text.find('\n', place);
        text.insert(from, text.substr(from, to + 1 - from));
    }
    return text;
}

/// One frame is another one, as well written as all others: no reader can know.
bool isOneOtherFrame(const Dialected& log, const capture::Capture& before, const capture::Capture& after) {
    if (!log.alone || before.frames() != after.frames()) return false;
    std::size_t other = 0;
    for (std::size_t i = 0; i < before.frames(); ++i) other += before.framesMs[i] != after.framesMs[i] ? 1 : 0;
    return other == 1;
}

} // namespace

TEST(MutationTest, FiguresAreEqualOrAnErrorOrANote) {
    RandomStream s(22, "damage");
    constexpr int mutations = IMPASTO_MUTATIONS;
    for (const auto& log : wellFormed()) {
        const auto whole = readLogText(log.text);
        ASSERT_TRUE(whole.has_value()) << log.name << wording::error(wording::Words(), whole.error()).all();
        ASSERT_TRUE(notesOf(*whole).empty()) << log.name;
        const double average = frames::summarize(whole->framesMs)->average.value();
        int read = 0;
        for (int i = 0; i < mutations; ++i) {
            const std::string text = damaged(log.text, s);
            const auto capture = readLogText(text);
            if (!capture) continue;
            ++read;
            const double now = frames::summarize(capture->framesMs)->average.value();
            if (std::abs(now / average - 1) <= 0.01 || !notesOf(*capture).empty()) continue;
            if (isOneOtherFrame(log, *whole, *capture)) continue;
            std::size_t first = 0;
            while (first < text.size() && text[first] == log.text[first]) ++first;
            const auto from = text.rfind('\n', first) + 1;
            ADD_FAILURE() << log.name << ": " << average << " became " << now << " at \"" << text.substr(from, 60)
                          << '"';
        }
        EXPECT_GT(read, mutations / 3) << log.name << ": most damage leaves a log that can be read";
    }
}
