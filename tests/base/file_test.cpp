// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/support.h"

#include <impasto/base/file.h>
#include <sys/stat.h>

using namespace impasto;
using impasto::support::TemporaryFolder;

TEST(FileTest, WritesAndReadsBack) {
    const TemporaryFolder folder;
    const std::string bytes("a\0b\n", 4);
    ASSERT_TRUE(writeFileAtomically(folder.path("x"), bytes).has_value());
    EXPECT_EQ(*readFile(folder.path("x")), bytes);
    EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder.root()), {}), 1) << "nothing is left beside";
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
    EXPECT_EQ(readFile("/dev/zero", 5000000).error().code, ErrorCode::CannotRead) << "it never ends";
}

TEST(FileTest, AFullDeviceKeepsTheOldFile) {
    EXPECT_FALSE(writeFileAtomically("/dev/full/x", "y").has_value());
}

TEST(FileTest, WhatIsThereIsKeptWhereItIsNotToBeReplaced) {
    const TemporaryFolder folder;
    const auto file = folder.write("x", "old");
    EXPECT_EQ(writeFileAtomically(file, "new", Existing::Keep).error().code, ErrorCode::AlreadyThere);
    EXPECT_EQ(*readFile(file), "old");
    EXPECT_TRUE(writeFileAtomically(folder.path("y"), "new", Existing::Keep).has_value());
    EXPECT_EQ(*readFile(folder.path("y")), "new");
    std::filesystem::permissions(file, std::filesystem::perms::owner_read);
    EXPECT_TRUE(writeFileAtomically(file, "new").has_value());
    EXPECT_EQ(*readFile(file), "new");
    EXPECT_EQ(std::filesystem::status(file).permissions(), std::filesystem::perms::owner_read) << "the rights stay";
    const auto entries = std::distance(std::filesystem::directory_iterator(folder.root()), {});
    EXPECT_EQ(entries, 2) << "nothing is left beside";
}

TEST(FileTest, NeitherPipesNorDevicesAreReadOrWaitedFor) {
    const TemporaryFolder folder;
    ASSERT_EQ(::mkfifo(folder.path("pipe").c_str(), 0600), 0);
    for (const auto& path : {folder.path("pipe"), std::filesystem::path("/dev/zero"), folder.root()})
        EXPECT_EQ(readFile(path).error().code, ErrorCode::CannotRead) << path;
}
