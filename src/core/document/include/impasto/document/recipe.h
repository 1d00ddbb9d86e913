// SPDX-License-Identifier: GPL-3.0-or-later
// The demo is a recipe, not a database: machine, game, brief and seed, before the first run.
#pragma once

#include <filesystem>
#include <impasto/description/originals.h>
#include <impasto/document/store.h>

namespace impasto::document {

struct Recipe {
    machine::Machine machine;
    game::Game game;
    run::Brief brief;
    std::uint64_t seed = 1;
};

/// docs/formats.md, Recipe; the paths of machine and game are relative to the recipe's folder. The
/// whole descriptions go into `originals`. Errors name file, line and key.
Result<Recipe> readRecipe(const std::filesystem::path& file, description::Originals& originals);
/// Puts machine, game and brief into a session. Errors: the edits'.
Result<void> applyRecipe(SessionStore& store, const Recipe& recipe);

} // namespace impasto::document
