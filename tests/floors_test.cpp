// SPDX-License-Identifier: GPL-3.0-or-later
// What the compiler cannot see of the floors: which library may stand in which room, and that the documents are true.
#include "support/support.h"

#include <filesystem>
#include <fstream>
#include <gtest/gtest.h>
#include <map>
#include <set>
#include <sstream>

namespace fs = std::filesystem;

namespace {

const fs::path root = impasto::support::sourceDir();

std::string textOf(const fs::path& file) {
    std::ifstream in(file);
    return {std::istreambuf_iterator<char>(in), {}};
}

std::vector<fs::path> sources(const fs::path& below) {
    std::vector<fs::path> out;
    for (const auto& entry : fs::recursive_directory_iterator(below))
        if (entry.path().extension() == ".cpp" || entry.path().extension() == ".h") out.push_back(entry.path());
    return out;
}

std::vector<std::string> includesOf(const std::string& text) {
    std::vector<std::string> out;
    std::istringstream in(text);
    for (std::string line; std::getline(in, line);)
        if (line.rfind("#include ", 0) == 0) out.push_back(line.substr(9));
    return out;
}

/// The folder below src/core, or "cli", "app".
std::string roomOf(const fs::path& file) {
    const auto relative = fs::relative(file, root / "src");
    auto it = relative.begin();
    const std::string first = it->string();
    return first == "core" ? (++it)->string() : first;
}

/// Room -> rooms it uses, from the calls of impasto_module.
std::map<std::string, std::set<std::string>> modulesInCMake() {
    std::map<std::string, std::set<std::string>> out;
    std::istringstream in(textOf(root / "src/core/CMakeLists.txt"));
    std::string word, name, list;
    while (in >> word) {
        const bool closes = word.back() == ')';
        if (word == "impasto_module(NAME") {
            in >> name;
            out[name];
            list.clear();
        } else if (word == "USES" || word == "HIDES" || word == "LIBS" || word == "SOURCES") {
            list = word;
        } else if (list == "USES" || list == "HIDES") {
            out[name].insert(closes ? word.substr(0, word.size() - 1) : word);
        }
        if (closes) list.clear();
    }
    return out;
}

} // namespace

TEST(FloorsTest, LibrariesStandInTheirRooms) {
    const std::map<std::string, std::set<std::string>> allowed{{"SQLiteCpp", {"logbook"}},
                                                               {"sqlite3.h", {"logbook"}},
                                                               {"zlib.h", {"logs"}},
                                                               {"zstd.h", {"logs", "logbook"}},
                                                               {"nlohmann", {"logs", "exports", "logbook", "config"}},
                                                               {"toml++", {"description", "config"}},
                                                               {"expat.h", {"config"}},
                                                               {"CLI/", {"cli"}},
                                                               {"boost/", {"stats"}},
                                                               {"Eigen/", {"stats", "cost"}}};
    for (const auto& file : sources(root / "src"))
        for (const auto& include : includesOf(textOf(file))) {
            for (const auto& [library, rooms] : allowed)
                if (include.find(library) != std::string::npos)
                    EXPECT_TRUE(rooms.contains(roomOf(file))) << file << " includes " << include;
            EXPECT_EQ(include.find("\"../"), std::string::npos) << file;
            EXPECT_EQ(include.find("QtWidgets>"), std::string::npos) << file;
            EXPECT_EQ(include.find("<regex>"), std::string::npos) << file;
            if (roomOf(file) != "app")
                EXPECT_TRUE(include.find("<Qt") == std::string::npos && include.find("<Q") == std::string::npos)
                    << file;
        }
}

TEST(FloorsTest, OnlyTestsAndTheRigKnowTheTruth) {
    for (const auto& file : sources(root / "src")) {
        const std::string room = roomOf(file);
        if (room == "rig_sim" || room == "rig_truth" || room == "rig_model") continue;
        if (file.string().ends_with("src/cli/rig.cpp")) continue; // prints it
        const std::string text = textOf(file);
        EXPECT_EQ(text.find("rig_truth/"), std::string::npos) << file;
        EXPECT_EQ(text.find("rig_model/"), std::string::npos) << file;
    }
}

// A rig of another kind takes the simulator's place without an analysis being touched.
TEST(FloorsTest, NoAnalysisKnowsTheSimulator) {
    const std::set<std::string> simulator{"rig_sim", "rig_draw", "rig_truth", "rig_model"};
    for (const auto& [room, uses] : modulesInCMake())
        if (!simulator.contains(room))
            for (const auto& use : uses) EXPECT_FALSE(simulator.contains(use)) << room << " uses " << use;
    for (const auto& file : sources(root / "src/core"))
        if (!simulator.contains(roomOf(file))) EXPECT_EQ(textOf(file).find("[rig"), std::string::npos) << file;
}

TEST(FloorsTest, AFileAndAFunctionCanBeReadInOneGo) {
    for (const std::string below : {"src", "tests", "bench"})
        for (const auto& file : sources(root / below)) {
            std::istringstream in(textOf(file));
            std::size_t lines = 0, begins = 0;
            for (std::string line; std::getline(in, line);) {
                ++lines;
                const bool opens = !line.empty() && line.back() == '{' && line[0] != ' ' && line[0] != '}' &&
                                   line.find('(') != std::string::npos;
                if (opens) begins = lines;
                if (line == "}" && begins > 0) {
                    if (below == "src") EXPECT_LE(lines - begins, 70U) << file << " line " << begins;
                    begins = 0;
                }
            }
            EXPECT_LE(lines, 450U) << file;
        }
}

TEST(FloorsTest, ColoursStandInTheThemeAlone) {
    for (const auto& file : sources(root / "src/app")) {
        if (file.parent_path().filename() == "theme") continue;
        const std::string text = textOf(file);
        for (const char* sign : {"0xFF", "QColor(\"", "setStyleSheet"})
            EXPECT_EQ(text.find(sign), std::string::npos) << file << " " << sign;
    }
}

TEST(FloorsTest, TheTableInTheArchitectureIsTheBuilds) {
    const auto built = modulesInCMake();
    ASSERT_GE(built.size(), 15U);
    std::map<std::string, std::set<std::string>> told;
    std::istringstream in(textOf(root / "docs/architecture.md"));
    for (std::string line; std::getline(in, line);) {
        if (line.rfind("| `", 0) != 0) continue;
        std::istringstream row(line);
        std::string cell, name;
        std::getline(row, cell, '|');
        std::getline(row, name, '|');
        name = name.substr(2, name.find('`', 2) - 2);
        if (!built.contains(name)) continue;
        std::getline(row, cell, '|');
        std::set<std::string> uses;
        for (std::size_t at = cell.find('`'); at != std::string::npos; at = cell.find('`', at)) {
            const auto end = cell.find('`', at + 1);
            uses.insert(cell.substr(at + 1, end - at - 1));
            at = end + 1;
        }
        told[name] = uses;
    }
    EXPECT_EQ(told, built);
}

TEST(FloorsTest, PathsNamedInDocumentsExist) {
    for (const auto& document : {"README.md", "docs/architecture.md", "docs/formats.md", "docs/method.md"}) {
        const std::string text = textOf(root / document);
        ASSERT_FALSE(text.empty()) << document;
        for (const char* start : {"src/", "docs/", "data/", "tests/", "bench/", "packaging/"})
            for (std::size_t at = text.find(start); at != std::string::npos; at = text.find(start, at + 1)) {
                if (at > 0 && (std::isalnum(static_cast<unsigned char>(text[at - 1])) != 0 || text[at - 1] == '/' ||
                               text[at - 1] == '.'))
                    continue;
                std::size_t end = at;
                while (end < text.size() &&
                       (std::isalnum(static_cast<unsigned char>(text[end])) != 0 || text[end] == '/' ||
                        text[end] == '_' || text[end] == '-' || text[end] == '.'))
                    ++end;
                while (text[end - 1] == '.') --end;
                EXPECT_TRUE(fs::exists(root / text.substr(at, end - at)))
                    << document << ": " << text.substr(at, end - at);
            }
    }
}

// One more station is its folder and a line of the list; one more stage its file, its header and a line of the list.
TEST(FloorsTest, WhatGrowsIsNamedByItsListAlone) {
    const std::map<std::string, std::set<std::string>> calledByName{{"bench", {"src/app/shell/window.cpp"}},
                                                                    {"runs", {"src/app/shell/window_files.cpp"}}};
    std::size_t folders = 0;
    for (const auto& folder : fs::directory_iterator(root / "src/app/stations")) {
        const std::string name = folder.path().filename().string();
        if (!folder.is_directory() || name == "start") continue; // the first page is no station
        ++folders;
        std::set<std::string> names{"src/app/stations/all.cpp"}, found;
        if (const auto called = calledByName.find(name); called != calledByName.end())
            names.insert(called->second.begin(), called->second.end());
        for (const auto& file : sources(root / "src"))
            for (const auto& include : includesOf(textOf(file)))
                if (include.find("stations/" + name + "/") != std::string::npos && file.parent_path() != folder.path())
                    found.insert(fs::relative(file, root).string());
        EXPECT_EQ(found, names) << name;
    }
    EXPECT_GE(folders, 8U);
    for (const auto& stage : fs::directory_iterator(root / "src/core/results/stages"))
        EXPECT_NE(textOf(root / "src/core/results/all.cpp").find("impasto/results/" + stage.path().stem().string()),
                  std::string::npos)
            << stage.path();
}

TEST(FloorsTest, EveryFileNamesItsLicence) {
    for (const auto& below : {"src", "tests", "bench"})
        for (const auto& file : sources(root / below))
            EXPECT_EQ(textOf(file).rfind("// SPDX-License-Identifier: GPL-3.0-or-later", 0), 0U) << file;
}
