// SPDX-License-Identifier: GPL-3.0-or-later
#include "distributions.h"

#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>
#include <impasto/stats/stats.h>

namespace impasto::stats {

double studentQuantile(double p, double df) {
    return boost::math::quantile(boost::math::students_t(df), p);
}

double studentCdf(double t, double df) {
    return boost::math::cdf(boost::math::students_t(df), t);
}

double normalQuantile(double p) {
    return boost::math::quantile(boost::math::normal(), p);
}

} // namespace impasto::stats
