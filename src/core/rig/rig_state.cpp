// SPDX-License-Identifier: GPL-3.0-or-later
// The state that runs are stored with, as text: "shaders=compiled cpu_c=71.5 applied.textures=very%20high ...".
#include <impasto/base/text.h>
#include <impasto/rig/rig.h>

namespace impasto::rig {
namespace {

struct Field {
    std::string_view key;
    double PowerState::*value;
};
constexpr std::array<Field, 7> fields{{{"cpu_c", &PowerState::cpuC},
                                       {"gpu_c", &PowerState::gpuC},
                                       {"cpu_average_w", &PowerState::cpuAverageW},
                                       {"gpu_average_w", &PowerState::gpuAverageW},
                                       {"shared_average_w", &PowerState::sharedAverageW},
                                       {"cpu_clock", &PowerState::cpuClock},
                                       {"gpu_clock", &PowerState::gpuClock}}};

constexpr std::string_view appliedKey = "applied.";

std::optional<double> shadersOf(std::string_view value) {
    if (value == "new") return 0.0;
    if (value == "compiled") return 1.0;
    const auto share = parseDouble(value);
    return share && *share >= 0 && *share <= 1 ? share : std::nullopt;
}

} // namespace

std::string textOf(const RigState& state) {
    std::string out = "shaders=" + (state.shadersMet >= 1   ? std::string("compiled")
                                    : state.shadersMet <= 0 ? std::string("new")
                                                            : shortestText(state.shadersMet));
    if (state.power)
        for (const auto& field : fields)
            out += fmt::format(" {}={}", field.key, shortestText((*state.power).*field.value));
    for (const auto& [id, level] : state.applied) out += fmt::format(" {}{}={}", appliedKey, id, wordOf(level));
    return out;
}

Result<RigState> stateOf(std::string_view text) {
    RigState state;
    PowerState power;
    std::size_t read = 0;
    bool good = true;
    while (!text.empty()) {
        const auto word = text.substr(0, text.find(' '));
        text.remove_prefix(std::min(text.size(), word.size() + 1));
        const auto equals = word.find('=');
        const auto key = word.substr(0, equals);
        const auto value = equals == std::string_view::npos ? std::string_view() : word.substr(equals + 1);
        if (key == "shaders") {
            const auto share = shadersOf(value);
            good = good && share;
            state.shadersMet = share.value_or(0);
            continue;
        }
        if (key.substr(0, appliedKey.size()) == appliedKey) {
            const auto level = textOfWord(value);
            good = good && level;
            state.applied[std::string(key.substr(appliedKey.size()))] = level.value_or(std::string());
            continue;
        }
        const auto* field = std::find_if(fields.begin(), fields.end(), [&](const Field& f) { return f.key == key; });
        const auto number = parseDouble(value);
        good = good && field != fields.end() && number;
        if (!good) break;
        power.*(field->value) = *number;
        ++read;
    }
    if (read == fields.size()) state.power = power;
    if (good && (read == 0 || state.power)) return state;
    return fail(ErrorCode::BadValue,
                "shaders=new, shaders=compiled or a share, and the seven values of its power or none",
                {{}, {}, {}, "rig state"});
}

} // namespace impasto::rig
