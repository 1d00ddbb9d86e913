// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/config/files.h>

#include <algorithm>
#include <impasto/base/file.h>

namespace impasto::config {
namespace {

namespace fs = std::filesystem;

constexpr std::size_t largest = std::size_t{16} << 20U;

Error placed(Error error, const fs::path& file) {
    if (error.where.file.empty()) error.where.file = file.string();
    return error;
}

/// The file itself, where the path is a link inside its own folder.
Result<fs::path> fileOf(const game::ConfigFile& config, const fs::path& home) {
    const fs::path said = config.path.starts_with("~/") ? home / config.path.substr(2) : fs::path(config.path);
    std::error_code fault;
    if (!fs::is_symlink(fs::symlink_status(said, fault))) return said;
    const auto real = fs::canonical(said, fault);
    if (fault) return fail(ErrorCode::CannotRead, fault.message(), {said.string(), {}, {}, {}});
    const auto folder = fs::canonical(said.parent_path(), fault);
    if (fault || real.parent_path() != folder)
        return fail(ErrorCode::LinkedElsewhere, real.string(), {said.string(), {}, {}, {}});
    return real;
}

Result<void> mayBeWritten(const fs::path& file) {
    std::error_code fault;
    const auto rights = fs::status(file, fault).permissions();
    using fs::perms;
    if ((rights & (perms::owner_write | perms::group_write | perms::others_write)) == perms::none)
        return fail(ErrorCode::CannotWrite, "it is marked as not to be written", {file.string(), {}, {}, {}});
    return {};
}

/// What each config is to hold, in the game's order.
std::map<std::string, std::vector<Assignment>> assignmentsOf(const game::Game& game, const game::Values& values,
                                                             std::vector<std::string>& unplaced) {
    std::map<std::string, std::vector<Assignment>> out;
    for (const auto& setting : game.settings) {
        const auto value = values.find(setting.id);
        if (value == values.end()) continue;
        const auto level = setting.levelIndex(value->second);
        if (!level) continue;
        if (!setting.place) {
            unplaced.push_back(setting.id);
            continue;
        }
        const auto& chosen = setting.levels[*level];
        out[setting.place->config].push_back(
            {setting.place->key, chosen.written.empty() ? chosen.name : chosen.written});
    }
    return out;
}

Result<void> replace(const fs::path& file, const std::string& from, const std::string& to) {
    const auto now = readFile(file, largest);
    if (!now) return tl::unexpected(now.error());
    if (*now != from) return fail(ErrorCode::ChangedMeanwhile, {}, {file.string(), {}, {}, {}});
    return writeFileAtomically(file, to);
}

/// Beside the file, under the first free name.
Result<fs::path> keepCopy(const fs::path& file, const std::string& bytes) {
    constexpr int most = 999;
    for (int i = 1; i <= most; ++i) {
        fs::path copy = file;
        copy += fmt::format(".before-{}", i);
        const auto done = writeFileAtomically(copy, bytes, Existing::Keep);
        if (done) return copy;
        if (done.error().code != ErrorCode::AlreadyThere) return tl::unexpected(done.error());
    }
    return fail(ErrorCode::AlreadyThere, {}, {file.string() + ".before-999", {}, {}, {}});
}

} // namespace

Result<Plan> planOf(const game::Game& game, const game::Values& values, const fs::path& home) {
    Plan plan;
    const auto wanted = assignmentsOf(game, values, plan.unplaced);
    for (const auto& config : game.configs) {
        const auto it = wanted.find(config.id);
        if (it == wanted.end()) continue;
        if (!game::isFile(config.format)) {
            plan.byHand.push_back({config.id, config.format, handedOver(config.format, it->second)});
            continue;
        }
        auto file = fileOf(config, home);
        if (!file) return tl::unexpected(file.error());
        auto bytes = readFile(*file, largest);
        if (!bytes) return tl::unexpected(bytes.error());
        auto changed = patched(*bytes, config.format, it->second);
        if (!changed) return tl::unexpected(placed(changed.error(), *file));
        plan.alike += it->second.size() - changed->changes.size();
        if (changed->changes.empty()) continue;
        if (const auto may = mayBeWritten(*file); !may) return tl::unexpected(may.error());
        plan.files.push_back(
            {config.id, std::move(*file), std::move(*bytes), std::move(changed->text), std::move(changed->changes)});
    }
    return plan;
}

game::Values valuesInFiles(const game::Game& game, const fs::path& home) {
    std::map<std::string, std::optional<std::string>> texts;
    for (const auto& config : game.configs) {
        if (!game::isFile(config.format)) continue;
        const auto file = fileOf(config, home);
        auto bytes = file ? readFile(*file, largest) : Result<std::string>(tl::unexpected(file.error()));
        if (bytes) texts[config.id] = std::move(*bytes);
    }
    game::Values out;
    for (const auto& setting : game.settings) {
        const auto* config = setting.place ? game.config(setting.place->config) : nullptr;
        const auto text = config == nullptr ? texts.end() : texts.find(config->id);
        if (text == texts.end()) continue;
        const auto value = valueIn(*text->second, config->format, setting.place->key);
        if (!value) continue;
        for (const auto& level : setting.levels)
            if ((level.written.empty() ? level.name : level.written) == *value) {
                out[setting.id] = level.name;
                break;
            }
    }
    return out;
}

Result<std::vector<Written>> write(const Plan& plan) {
    std::vector<Written> done;
    for (const auto& file : plan.files) {
        const auto one = [&]() -> Result<void> {
            if (const auto may = mayBeWritten(file.file); !may) return may;
            const auto now = readFile(file.file, largest);
            if (!now) return tl::unexpected(now.error());
            if (*now != file.before) return fail(ErrorCode::ChangedMeanwhile, {}, {file.file.string(), {}, {}, {}});
            auto copy = keepCopy(file.file, file.before);
            if (!copy) return tl::unexpected(copy.error());
            if (auto put = replace(file.file, file.before, file.after); !put) {
                std::error_code ignored;
                fs::remove(*copy, ignored);
                return put;
            }
            done.push_back({file.file, std::move(*copy), file.before, file.after});
            return {};
        }();
        if (one) continue;
        for (const auto& earlier : done)
            if (replace(earlier.file, earlier.after, earlier.before)) {
                std::error_code ignored;
                fs::remove(earlier.copy, ignored);
            }
        return tl::unexpected(one.error());
    }
    return done;
}

Result<void> takeBack(std::span<const Written> written) {
    for (const auto& file : written)
        if (auto back = replace(file.file, file.after, file.before); !back) return back;
    return {};
}

} // namespace impasto::config
