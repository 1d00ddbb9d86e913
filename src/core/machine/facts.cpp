// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/machine/facts.h>

namespace impasto::machine {

std::span<const FactName> factNames() {
    static constexpr FactName names[] = {{"system.kind", true}, // desktop, laptop, handheld
                                         {"system.profile", true},
                                         {"system.virtual", true},
                                         {"system.load"}, // mean of what waits to run, over a minute
                                         {"cpu.threads"},
                                         {"cpu.now_mhz"}, // of its fastest core
                                         {"cpu.highest_mhz"},
                                         {"cpu.governor", true},
                                         {"cpu.preference", true},
                                         {"memory.free_mib"},
                                         {"memory.modules"},
                                         {"memory.speed_mts"},
                                         {"memory.rated_mts"},
                                         {"gpu.address", true},
                                         {"gpu.driver", true},
                                         {"gpu.integrated", true},
                                         {"gpu.window_mib"}, // of its memory, that the CPU sees
                                         {"gpu.link_gts"},
                                         {"gpu.link_best_gts"},
                                         {"gpu.link_lanes"},
                                         {"gpu.link_best_lanes"},
                                         {"second.address", true},
                                         {"second.driver", true},
                                         {"second.integrated", true},
                                         {"second.memory_mib"},
                                         {"second.link_gts"},
                                         {"second.link_best_gts"},
                                         {"second.link_lanes"},
                                         {"second.link_best_lanes"},
                                         {"panel.connector", true},
                                         {"panel.wired_to", true}, // gpu, second
                                         {"panel.now", true},      // as 2560x1440
                                         {"panel.now_hz"},
                                         {"panel.highest_hz"}, // at its native resolution
                                         {"panel.others"},     // that are connected besides
                                         {"power.mains", true},
                                         {"power.battery", true},
                                         {"power.battery_wh"},
                                         {"power.battery_new_wh"},
                                         {"power.draw_w"}, // from the battery
                                         {"heat.cpu_c"},
                                         {"heat.cpu_limit_c"},
                                         {"heat.gpu_c"},
                                         {"heat.gpu_limit_c"},
                                         {"fans.turning"},
                                         {"fans.fastest_rpm"}};
    return names;
}

std::optional<double> numberIn(const Facts& facts, std::string_view key) {
    const auto it = facts.find(key);
    const auto* number = it == facts.end() ? nullptr : std::get_if<double>(&it->second);
    return number == nullptr ? std::nullopt : std::optional(*number);
}

std::optional<std::string> wordIn(const Facts& facts, std::string_view key) {
    const auto it = facts.find(key);
    const auto* word = it == facts.end() ? nullptr : std::get_if<std::string>(&it->second);
    return word == nullptr ? std::nullopt : std::optional(*word);
}

} // namespace impasto::machine
