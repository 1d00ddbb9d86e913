// SPDX-License-Identifier: GPL-3.0-or-later
// VESA E-EDID 1.4, CTA-861-G, DisplayID 1.3 and 2.0, as edid-decode (Debian 12) reads them: tables/edid.txt, made by
// tables/make_edid.py of invented panels.
#include "support/support.h"

#include <cmath>
#include <impasto/base/id.h>
#include <impasto/probe/edid.h>
#include <sstream>

using namespace impasto;
using namespace impasto::probe;

namespace {

struct Panel {
    std::string bytes, name;
    std::vector<PanelMode> modes;
    std::map<std::string, display::RefreshRange> ranges;
};

std::string bytesOfHex(const std::string& hex) {
    std::string out;
    for (std::size_t i = 0; i + 1 < hex.size(); i += 2)
        out += static_cast<char>(std::stoi(hex.substr(i, 2), nullptr, 16));
    return out;
}

std::vector<Panel> panels() {
    std::istringstream table(support::textOf(support::sourceDir() / "tests/published/tables/edid.txt"));
    std::vector<Panel> out;
    std::string line;
    while (std::getline(table, line)) {
        std::istringstream in(line);
        std::string kind;
        in >> kind;
        if (kind == "edid") {
            std::string hex;
            in >> hex;
            out.push_back({bytesOfHex(hex), {}, {}, {}});
        } else if (kind == "name") {
            std::getline(in >> std::ws, out.back().name);
        } else if (kind == "mode") {
            int width = 0, height = 0;
            double hz = 0;
            in >> width >> height >> hz;
            out.back().modes.push_back({{width, height}, Hertz(hz)});
        } else if (kind != "#") {
            double low = 0, high = 0;
            in >> low >> high;
            out.back().ranges[kind] = {Hertz(low), Hertz(high)};
        }
    }
    return out;
}

/// The same timing, but for what a standard timing leaves to a formula (it names whole rates).
bool holds(const std::vector<PanelMode>& modes, const PanelMode& wanted, double within) {
    return std::any_of(modes.begin(), modes.end(), [&](const PanelMode& m) {
        return m.resolution == wanted.resolution && std::abs(m.refresh.value() - wanted.refresh.value()) <= within;
    });
}

} // namespace

TEST(PublishedEdidTest, EveryTimingIsFoundAndNoneIsInvented) {
    int checked = 0;
    for (const auto& panel : panels()) {
        const auto edid = parseEdid(panel.bytes);
        ASSERT_TRUE(edid.has_value());
        EXPECT_EQ(edid->name, panel.name);
        for (const auto& mode : panel.modes) {
            EXPECT_TRUE(holds(edid->modes, mode, 0.5))
                << display::keyText(mode.resolution) << " at " << mode.refresh.value();
            ++checked;
        }
        for (const auto& mode : edid->modes)
            EXPECT_TRUE(holds(panel.modes, mode, 0.5))
                << display::keyText(mode.resolution) << " at " << mode.refresh.value();
    }
    EXPECT_GT(checked, 900);
}

TEST(PublishedEdidTest, RatesAtTheNativeResolutionAreExact) {
    int checked = 0;
    for (const auto& panel : panels()) {
        const auto edid = parseEdid(panel.bytes);
        ASSERT_TRUE(edid.has_value());
        for (const auto hz : nativeRates(*edid)) {
            EXPECT_TRUE(holds(panel.modes, {edid->native, hz}, 0.0051)) << hz.value();
            ++checked;
        }
    }
    EXPECT_GT(checked, 100);
}

TEST(PublishedEdidTest, TheRangeThatItFollows) {
    int followed = 0, fixed = 0;
    for (const auto& panel : panels()) {
        const auto edid = parseEdid(panel.bytes);
        ASSERT_TRUE(edid.has_value());
        const display::RefreshRange* wanted = nullptr;
        for (const char* kind : {"adaptive", "seamless", "vrr", "limits"})
            if (const auto it = panel.ranges.find(kind); it != panel.ranges.end() && wanted == nullptr)
                wanted = &it->second;
        Hertz fastest(0);
        for (const auto& mode : panel.modes) fastest = std::max(fastest, mode.refresh);
        const bool wide =
            wanted != nullptr && std::min(wanted->highest, fastest).value() - wanted->lowest.value() >= 10;
        ASSERT_EQ(edid->follows.has_value(), wide) << panel.name;
        ++(wide ? followed : fixed);
        if (!wide) continue;
        EXPECT_EQ(edid->follows->lowest, wanted->lowest);
        // The fastest timing of an old panel is one that the standard names by its whole rate.
        EXPECT_NEAR(edid->follows->highest.value(), std::min(wanted->highest, fastest).value(), 0.1);
    }
    EXPECT_GT(followed, 20);
    EXPECT_GT(fixed, 5);
}
