// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <cmath>
#include <impasto/logs/import.h>

using namespace impasto;
using namespace impasto::capture;
using namespace impasto::logs;

TEST(OwnCsvTest, ReadsBackEqualToTheBit) {
    Capture c = support::flatCapture(16.1, 300, 9.7, 15.3);
    (*c.gpuWorkMs)[5] = NAN;
    c.marks = {{"the landing", 0}, {"with\nline end", 120}};
    c.tracks = {{Sensor::GpuMemory, {500, 1000.5}, {6400.25F, 6401}}};
    c.notes = {{"variant", "a=b;c=d"}, {"free", "back\\slash\r\nline"}};
    const auto back = readLogText(writeCsv(c));
    ASSERT_TRUE(back.has_value()) << wording::error(wording::Words(), back.error()).all();
    EXPECT_EQ(fingerprintOf(*back), fingerprintOf(c)) << "NaN has one bit pattern here";
    EXPECT_EQ(back->notes, c.notes);
    EXPECT_EQ(back->marks, c.marks);
    EXPECT_TRUE(std::isnan((*back->gpuWorkMs)[5]));
    EXPECT_FALSE(back->latencyMs.has_value());
}

TEST(OwnCsvTest, FaultsNameLineAndColumn) {
    const std::string head = "# impasto capture 1\n# kind displayed\nframe_ms,cpu_work_ms\n";
    const auto bad = readLogText(head + "16.6,9\n16.7,x\n");
    ASSERT_FALSE(bad.has_value());
    EXPECT_EQ(bad.error().code, ErrorCode::BadNumber);
    EXPECT_EQ(bad.error().where.line, 5U);
    EXPECT_EQ(bad.error().where.column, 2U);
    EXPECT_EQ(readLogText(head + "16.6\n1,2\n").error().code, ErrorCode::UnevenRow);
    EXPECT_EQ(readLogText("# impasto capture 1\n# kind nonsense\nframe_ms\n1\n").error().where.line, 2U);
    EXPECT_EQ(readLogText("# impasto capture 2\nframe_ms\n1\n").error().code, ErrorCode::BadValue);
    EXPECT_EQ(readLogText(head).error().code, ErrorCode::NoFrames);
}

TEST(OwnCsvTest, ACutLastLineIsLeftOut) {
    const auto cut = readLogText("# impasto capture 1\nframe_ms,cpu_work_ms\n16.6,9\n16.7");
    ASSERT_TRUE(cut.has_value());
    EXPECT_EQ(cut->frames(), 1U);
}
