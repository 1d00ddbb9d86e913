// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/base/file.h>

using namespace impasto;
using impasto::support::TemporaryFolder;

TEST(FileTest, WritesAndReadsBack) {
    const TemporaryFolder folder;
    const std::string bytes("a\0b\n", 4);
    ASSERT_TRUE(writeFileAtomically(folder.path("x"), bytes).has_value());
    EXPECT_EQ(*readFile(folder.path("x")), bytes);
    EXPECT_FALSE(std::filesystem::exists(folder.path("x.new")));
}

TEST(FileTest, MissingFilesAndFoldersAreErrors) {
    const TemporaryFolder folder;
    EXPECT_EQ(readFile(folder.path("none")).error().code, ErrorCode::CannotRead);
    EXPECT_EQ(readFile(folder.root()).error().code, ErrorCode::CannotRead);
    EXPECT_EQ(writeFileAtomically(folder.path("no/such/folder"), "x").error().code, ErrorCode::CannotWrite);
}

TEST(FileTest, TheLimitIsKept) {
    const TemporaryFolder folder;
    const auto file = folder.write("big", std::string(1000, 'x'));
    EXPECT_EQ(readFile(file, 999).error().code, ErrorCode::FileTooLarge);
    EXPECT_TRUE(readFile(file, 1000).has_value());
    EXPECT_EQ(readFile("/dev/zero", 5000000).error().code, ErrorCode::FileTooLarge);
}

TEST(FileTest, AFullDeviceKeepsTheOldFile) {
    EXPECT_FALSE(writeFileAtomically("/dev/full/x", "y").has_value());
}
