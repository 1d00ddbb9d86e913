// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/document/recipe.h>

#include <impasto/base/file.h>
#include <impasto/description/description.h>

namespace impasto::document {
namespace {

constexpr std::size_t mostRecipeBytes = std::size_t{1} << 22U;

run::Brief readBrief(const description::Section& section) {
    run::Brief b;
    b.target = Fps(section.number("target_fps", 10, 1000));
    if (section.has("lowest_low_fps")) b.lowestLow = Fps(section.number("lowest_low_fps", 1, 1000));
    if (section.has("picture_floor")) b.pictureFloor = section.number("picture_floor", 0, 1);
    for (const auto bound : run::allBounds)
        if (const auto [least, most] = run::rangeOf(bound); section.has(run::keyOf(bound)))
            b.bounds[bound] = section.number(run::keyOf(bound), least, most);
    const auto style = run::styleOf(section.text("style", "cinematic"));
    const auto lows = stats::lowRuleOf(section.text("school", "worst-mean"));
    if (!style) section.fault("style", ErrorCode::BadValue, "a style");
    if (!lows) section.fault("school", ErrorCode::BadValue, "percentile, worst-mean or time-share");
    if (section.has("steering")) {
        b.steering = run::steeringOf(section.text("steering"));
        if (!b.steering) section.fault("steering", ErrorCode::BadValue, "mouse or pad");
    }
    b.style = style.value_or(b.style);
    b.lowRule = lows.value_or(b.lowRule);
    return b;
}

} // namespace

Result<Recipe> readRecipe(const std::filesystem::path& file, description::Originals& originals) {
    const auto text = readFile(file, mostRecipeBytes);
    if (!text) return tl::unexpected(text.error());
    const auto document = description::Document::parse(*text, file.string());
    if (!document) return tl::unexpected(document.error());
    const auto root = document->root();
    Recipe recipe;
    const auto machineFile = file.parent_path() / root.text("machine"),
               gameFile = file.parent_path() / root.text("game");
    recipe.seed = static_cast<std::uint64_t>(root.number("seed", 0, 9e15));
    recipe.brief = readBrief(root.table("brief"));
    if (const auto sound = document->check(); !sound) return tl::unexpected(sound.error());
    const auto machineText = readFile(machineFile, mostRecipeBytes);
    if (!machineText) return tl::unexpected(machineText.error());
    auto machine = machine::parseMachine(*machineText, machineFile.string());
    if (!machine) return tl::unexpected(machine.error());
    const auto gameText = readFile(gameFile, mostRecipeBytes);
    if (!gameText) return tl::unexpected(gameText.error());
    auto game = game::parseGame(*gameText, gameFile.string());
    if (!game) return tl::unexpected(game.error());
    originals.add(*machineText);
    originals.add(*gameText);
    recipe.machine = std::move(*machine);
    recipe.game = std::move(*game);
    return recipe;
}

Result<void> applyRecipe(SessionStore& store, const Recipe& recipe) {
    const std::size_t m = store.addMachine(recipe.machine), g = store.addGame(recipe.game);
    return store.apply(together(
        "start", {useMachine(m), useGame(g, recipe.game), useRig(RigKind::Simulated), setBrief(recipe.brief)}));
}

} // namespace impasto::document
