// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/cost/cost.h>
#include <impasto/stats/stats.h>

#include <Eigen/Dense>
#include <cmath>
#include <set>

namespace impasto::cost {
namespace {

using Matrix = Eigen::MatrixXd;

/// Levels that stand alone in some observation, in the order of settings and levels.
std::vector<LevelKey> measuredColumns(const game::Game& game, std::span<const std::vector<LevelKey>> changed) {
    std::set<LevelKey> alone;
    for (const auto& c : changed)
        if (c.size() == 1) alone.insert(c.front());
    std::vector<LevelKey> out;
    for (const auto& setting : game.settings)
        for (const auto& level : setting.levels)
            if (alone.contains({setting.id, level.name})) out.push_back({setting.id, level.name});
    return out;
}

std::vector<double> asVector(const Matrix& m) {
    std::vector<double> out(static_cast<std::size_t>(m.size()));
    Eigen::Map<Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>>(out.data(), m.rows(), m.cols()) =
        m;
    return out;
}

} // namespace

std::vector<LevelKey> changedLevels(const game::Values& baseline, const game::Values& values) {
    std::vector<LevelKey> out;
    for (const auto& [setting, level] : baseline)
        if (const auto it = values.find(setting); it == values.end() || it->second != level)
            out.push_back({setting, it == values.end() ? std::string() : it->second});
    return out;
}

double Fit::standardError(std::size_t i) const {
    return std::sqrt(std::max(0.0, covarianceOf(i, i)));
}

std::optional<std::size_t> Fit::indexOf(const LevelKey& key) const {
    for (std::size_t i = 0; i < columns.size(); ++i)
        if (columns[i] == key) return i + 1;
    return std::nullopt;
}

double Fit::halfWidth(std::size_t i, double confidence) const {
    return stats::studentQuantile(0.5 + confidence / 2, degreesOfFreedom) * standardError(i);
}

std::optional<Fit> fit(const game::Game& game, const game::Values& baseline,
                       std::span<const Observation> observations) {
    std::vector<std::vector<LevelKey>> changed;
    for (const auto& o : observations) changed.push_back(changedLevels(baseline, o.values));
    Fit out;
    out.columns = measuredColumns(game, changed);
    const auto k = out.columns.size() + 1;
    out.runsOf.assign(k, 0);
    std::vector<Eigen::VectorXd> rows;
    std::vector<double> values;
    for (std::size_t i = 0; i < observations.size(); ++i) {
        Eigen::VectorXd row = Eigen::VectorXd::Zero(static_cast<Eigen::Index>(k));
        row[0] = 1;
        bool known = true;
        for (const auto& key : changed[i]) {
            const auto index = out.indexOf(key);
            known = known && index.has_value();
            if (index) row[static_cast<Eigen::Index>(*index)] = 1;
        }
        if (!known) continue;
        if (changed[i].empty()) ++out.runsOf[0];
        for (std::size_t c = 1; c < k; ++c) out.runsOf[c] += row[static_cast<Eigen::Index>(c)] > 0 ? 1 : 0;
        rows.push_back(std::move(row));
        values.push_back(observations[i].value);
    }
    if (out.runsOf[0] < 2 || rows.size() <= k) return std::nullopt;
    Matrix x(static_cast<Eigen::Index>(rows.size()), static_cast<Eigen::Index>(k));
    for (std::size_t i = 0; i < rows.size(); ++i) x.row(static_cast<Eigen::Index>(i)) = rows[i].transpose();
    const Eigen::VectorXd y =
        Eigen::Map<const Eigen::VectorXd>(values.data(), static_cast<Eigen::Index>(values.size()));
    const Eigen::VectorXd b = x.colPivHouseholderQr().solve(y);
    out.degreesOfFreedom = static_cast<double>(rows.size() - k);
    out.residualSd = std::sqrt((y - x * b).squaredNorm() / out.degreesOfFreedom);
    const Matrix unscaled = (x.transpose() * x).ldlt().solve(Matrix::Identity(x.cols(), x.cols()));
    out.covariance = asVector(unscaled * (out.residualSd * out.residualSd));
    out.estimate.assign(b.data(), b.data() + b.size());
    return out;
}

std::optional<Prediction> predict(const Fit& fit, const game::Values& baseline, const game::Values& values) {
    std::vector<std::size_t> held{0};
    for (const auto& [id, level] : values) {
        const auto b = baseline.find(id);
        if (b == baseline.end() || b->second == level) continue;
        const auto index = fit.indexOf({id, level});
        if (!index) return std::nullopt;
        held.push_back(*index);
    }
    Prediction p;
    double variance = 0;
    for (const auto i : held) {
        p.mean += fit.estimate[i];
        for (const auto j : held) variance += fit.covarianceOf(i, j);
    }
    p.standardError = std::sqrt(std::max(0.0, variance));
    return p;
}

std::vector<LevelKey> plan(const game::Game& game, const game::Values& baseline, const Need& need) {
    std::vector<LevelKey> saving, room;
    for (const auto& setting : game.settings) {
        const auto b = baseline.find(setting.id);
        const auto now = b == baseline.end() ? std::nullopt : setting.levelIndex(b->second);
        const bool pays = setting.paysCpu || setting.paysGpu || setting.paysMemory;
        if (!now || setting.weight == 0 || !pays) continue;
        const bool wanted =
            (need.cpu && setting.paysCpu) || (need.gpu && setting.paysGpu) || (need.memory && setting.paysMemory);
        if (wanted) {
            for (std::size_t i = *now; i-- > 0;) saving.push_back({setting.id, setting.levels[i].name});
            continue;
        }
        if (*now > 0) room.push_back({setting.id, setting.levels.front().name});
        if (*now + 1 < setting.levels.size()) room.push_back({setting.id, setting.levels[*now + 1].name});
    }
    saving.insert(saving.end(), room.begin(), room.end());
    return saving;
}

std::vector<LevelKey> lockedLevels(const game::Game& game, const game::Values& baseline, const game::Values& locked) {
    std::vector<LevelKey> out;
    for (const auto& [id, level] : locked) {
        const auto* setting = game.setting(id);
        const auto now = baseline.find(id);
        const bool known = setting == nullptr || setting->weight == 0 || !setting->levelIndex(level) ||
                           now == baseline.end() || now->second == level;
        if (!known) out.push_back({id, level});
    }
    return out;
}

} // namespace impasto::cost
