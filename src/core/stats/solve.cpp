// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/solve.h>

#include <Eigen/Cholesky>

namespace impasto::stats {

std::vector<double> solve(std::span<const double> a, std::span<const double> b) {
    const auto n = static_cast<Eigen::Index>(b.size());
    const Eigen::Map<const Eigen::MatrixXd> matrix(a.data(), n, n); // symmetric: rows are columns
    const Eigen::Map<const Eigen::VectorXd> right(b.data(), n);
    const Eigen::VectorXd x = matrix.ldlt().solve(right);
    return {x.data(), x.data() + n};
}

} // namespace impasto::stats
