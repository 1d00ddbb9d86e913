// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/prefer.h>

#include <algorithm>
#include <cmath>
#include <impasto/stats/solve.h>

namespace impasto::choose {
namespace {

/// The logarithms of what each setting may lose.
class Worths {
  public:
    Worths(const game::Game& game, std::span<const Missed> answers, double doubt) : m_precision(1 / (doubt * doubt)) {
        for (const auto& setting : game.settings) {
            const double lost = lostBy(setting);
            if (lost <= 0) continue;
            m_settings.push_back(&setting);
            m_prior.push_back(std::log(lost));
        }
        for (const auto& answer : answers) {
            const auto more = indexOf(answer.more), less = indexOf(answer.less);
            if (more && less && more != less) m_answers.push_back({*more, *less, answer.alike ? 0.5 : 1.0});
        }
        m_worth = m_prior;
        climb();
        m_doubt = inverted(curvature());
    }

    [[nodiscard]] std::size_t size() const { return m_settings.size(); }
    [[nodiscard]] const game::Setting& setting(std::size_t i) const { return *m_settings[i]; }
    [[nodiscard]] double worth(std::size_t i) const { return m_worth[i]; }
    [[nodiscard]] double variance(std::size_t i, std::size_t j) const { return m_doubt[i * size() + j]; }
    [[nodiscard]] double varianceBetween(std::size_t i, std::size_t j) const {
        return variance(i, i) + variance(j, j) - 2 * variance(i, j);
    }
    /// That the first is missed more.
    [[nodiscard]] double chance(std::size_t i, std::size_t j) const {
        return 1 / (1 + std::exp(m_worth[j] - m_worth[i]));
    }
    [[nodiscard]] bool asked(std::size_t i, std::size_t j) const {
        return std::any_of(m_answers.begin(), m_answers.end(), [&](const Answer& a) {
            return (a.more == i && a.less == j) || (a.more == j && a.less == i);
        });
    }

    /// The weight at stake, times what the least level lacks.
    static double lostBy(const game::Setting& setting) {
        double least = 1, most = 0;
        for (const auto& level : setting.levels) {
            least = std::min(least, level.picture);
            most = std::max(most, level.picture);
        }
        return setting.weight * std::max(0.0, most - least);
    }

  private:
    struct Answer {
        std::size_t more, less;
        double share; // of the answer that says so
    };

    [[nodiscard]] std::optional<std::size_t> indexOf(const std::string& id) const {
        for (std::size_t i = 0; i < m_settings.size(); ++i)
            if (m_settings[i]->id == id) return i;
        return std::nullopt;
    }

    [[nodiscard]] double likelihood(const std::vector<double>& worth) const {
        double sum = 0;
        for (std::size_t i = 0; i < size(); ++i) sum -= 0.5 * m_precision * std::pow(worth[i] - m_prior[i], 2);
        for (const auto& a : m_answers) {
            const double apart = worth[a.more] - worth[a.less];
            sum -= a.share * std::log1p(std::exp(-apart)) + (1 - a.share) * std::log1p(std::exp(apart));
        }
        return sum;
    }

    [[nodiscard]] std::vector<double> curvature() const {
        const std::size_t n = size();
        std::vector<double> out(n * n, 0.0);
        for (std::size_t i = 0; i < n; ++i) out[i * n + i] = m_precision;
        for (const auto& a : m_answers) {
            const double p = chance(a.more, a.less), bend = p * (1 - p);
            out[a.more * n + a.more] += bend;
            out[a.less * n + a.less] += bend;
            out[a.more * n + a.less] -= bend;
            out[a.less * n + a.more] -= bend;
        }
        return out;
    }

    /// Newton's steps, each halved while it does not climb.
    void climb() {
        constexpr int mostSteps = 100, mostHalves = 40;
        constexpr double still = 1e-12;
        for (int step = 0; step < mostSteps && !m_answers.empty(); ++step) {
            std::vector<double> slope(size());
            for (std::size_t i = 0; i < size(); ++i) slope[i] = -m_precision * (m_worth[i] - m_prior[i]);
            for (const auto& a : m_answers) {
                const double more = a.share - chance(a.more, a.less);
                slope[a.more] += more;
                slope[a.less] -= more;
            }
            auto move = stats::solve(curvature(), slope);
            const double before = likelihood(m_worth);
            std::vector<double> next = m_worth;
            for (int half = 0; half < mostHalves; ++half) {
                for (std::size_t i = 0; i < size(); ++i) next[i] = m_worth[i] + move[i];
                if (likelihood(next) >= before) break;
                for (double& each : move) each /= 2;
            }
            m_worth = next;
            if (std::all_of(move.begin(), move.end(), [](double m) { return std::abs(m) < still; })) return;
        }
    }

    static std::vector<double> inverted(const std::vector<double>& a) {
        const auto n = static_cast<std::size_t>(std::lround(std::sqrt(static_cast<double>(a.size()))));
        std::vector<double> out(a.size());
        for (std::size_t j = 0; j < n; ++j) {
            std::vector<double> unit(n, 0.0);
            unit[j] = 1;
            const auto column = stats::solve(a, unit);
            for (std::size_t i = 0; i < n; ++i) out[i * n + j] = column[i];
        }
        return out;
    }

    double m_precision;
    std::vector<const game::Setting*> m_settings;
    std::vector<double> m_prior, m_worth, m_doubt;
    std::vector<Answer> m_answers;
};

} // namespace

std::vector<Care> caresOf(const game::Game& game, std::span<const Missed> answers, double doubt) {
    const Worths worths(game, answers, doubt);
    double before = 0, after = 0;
    std::vector<Care> out;
    for (std::size_t i = 0; i < worths.size(); ++i) {
        const auto& setting = worths.setting(i);
        const double lacks = Worths::lostBy(setting) / setting.weight;
        const double spread = std::exp(1.959964 * std::sqrt(worths.variance(i, i)));
        const double weight = std::exp(worths.worth(i)) / lacks;
        out.push_back({setting.id, weight, weight / spread, weight * spread});
        before += setting.weight;
        after += weight;
    }
    for (auto& care : out)
        for (double* value : {&care.weight, &care.low, &care.high}) *value *= before / after;
    return out;
}

std::optional<std::pair<std::string, std::string>> nextQuestion(const game::Game& game, std::span<const Missed> answers,
                                                                double doubt) {
    const Worths worths(game, answers, doubt);
    std::optional<std::pair<std::string, std::string>> found;
    double most = leastTold;
    for (std::size_t i = 0; i < worths.size(); ++i)
        for (std::size_t j = i + 1; j < worths.size(); ++j) {
            if (worths.asked(i, j)) continue;
            const double p = worths.chance(i, j);
            const double told = 0.5 * std::log1p(p * (1 - p) * worths.varianceBetween(i, j));
            if (told <= most) continue;
            most = told;
            found = {worths.setting(i).id, worths.setting(j).id};
        }
    return found;
}

game::Game weighed(game::Game game, const std::vector<Care>& cares) {
    for (auto& setting : game.settings)
        for (const auto& care : cares)
            if (care.setting == setting.id) setting.weight = std::max(0.01, std::round(100 * care.weight) / 100);
    return game;
}

} // namespace impasto::choose
