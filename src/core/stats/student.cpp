// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/stats.h>

#include <boost/math/distributions/students_t.hpp>

namespace impasto::stats {

double studentQuantile(double p, double df) {
    return boost::math::quantile(boost::math::students_t(df), p);
}

} // namespace impasto::stats
