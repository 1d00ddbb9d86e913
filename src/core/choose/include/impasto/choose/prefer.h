// SPDX-License-Identifier: GPL-3.0-or-later
// What of the picture matters, from answers to "which would you miss more?".
#pragma once

#include <impasto/game/game.h>
#include <span>

namespace impasto::choose {

/// Of two settings, the one that would be missed more were each at its least level instead of its best.
struct Missed {
    std::string more, less;
    bool alike = false; // neither of them more
    friend bool operator==(const Missed&, const Missed&) = default;
};

struct Care {
    std::string setting;
    double weight = 0;        // as in the game's description; all together they come to what they came to there
    double low = 0, high = 0; // 95%
};

/// The factor by which a weight that nobody was asked about may be off, one standard deviation of its logarithm.
inline constexpr double usualCareDoubt = 0.7;
/// What another answer must be expected to tell of one difference (nats) to be worth a question.
inline constexpr double leastTold = 0.06;

/// Bradley and Terry (1952): a setting is missed more than another with the chance u / (u + v), where u and v are what
/// each loses of the picture, its weight times what its least level lacks. Their logarithms are normal around those of
/// the description, with `doubt`; the answers' likelihood is maximised under that (Newton), and the intervals are those
/// of the curvature there (Laplace). Of the settings that have a weight and something to lose, in the game's order;
/// answers about others do not count.
std::vector<Care> caresOf(const game::Game& game, std::span<const Missed> answers, double doubt = usualCareDoubt);

/// The two settings whose answer would tell most; nothing where none would tell enough. No pair is asked twice.
std::optional<std::pair<std::string, std::string>> nextQuestion(const game::Game& game, std::span<const Missed> answers,
                                                                double doubt = usualCareDoubt);

/// The game with these weights.
game::Game weighed(game::Game game, const std::vector<Care>& cares);

} // namespace impasto::choose
