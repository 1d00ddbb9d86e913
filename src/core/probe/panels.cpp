// SPDX-License-Identifier: GPL-3.0-or-later
#include "devices.h"

#include <algorithm>

namespace impasto::probe {
namespace {

/// The greater, the more it is the one that is played on.
double weightOf(const ConnectedPanel& panel, const std::vector<Screen>& screens) {
    double weight = 0;
    for (const auto hz : nativeRates(panel.edid)) weight = std::max(weight, hz.value());
    weight *= static_cast<double>(panel.edid.native.widthPx) * panel.edid.native.heightPx / 1e12; // under 1
    if (panel.enabled) weight += 1;
    if (!screens.empty() && screens.front().connector == panel.connector) weight += 2;
    return weight;
}

} // namespace

std::vector<ConnectedPanel> panelsIn(const Tree& tree, const std::vector<Screen>& screens) {
    std::vector<ConnectedPanel> out;
    for (const auto& name : tree.names("sys/class/drm")) {
        const auto dash = name.find('-');
        const std::string at = "sys/class/drm/" + name;
        if (name.substr(0, 4) != "card" || dash == std::string::npos || tree.line(at + "/status") != "connected" ||
            out.size() >= 16)
            continue;
        const auto bytes = tree.bytes(at + "/edid", mostEdidBytes);
        auto edid = bytes ? parseEdid(*bytes) : Result<Edid>(fail(ErrorCode::EmptyFile));
        if (!edid || edid->native.widthPx == 0) continue;
        ConnectedPanel panel{cleanText(name.substr(dash + 1)), {}, false, std::move(*edid)};
        panel.gpu =
            tree.valueOf("sys/class/drm/" + name.substr(0, dash) + "/device/uevent", "PCI_SLOT_NAME").value_or("");
        panel.enabled = tree.line(at + "/enabled") == "enabled";
        out.push_back(std::move(panel));
    }
    std::stable_sort(out.begin(), out.end(),
                     [&](const auto& a, const auto& b) { return weightOf(a, screens) > weightOf(b, screens); });
    return out;
}

} // namespace impasto::probe
