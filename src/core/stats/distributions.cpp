// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/stats/stats.h>

#include "welch.h"

#include <boost/math/distributions/gamma.hpp>
#include <boost/math/distributions/normal.hpp>
#include <boost/math/distributions/students_t.hpp>

namespace impasto::stats {

double studentQuantile(double p, double df) {
    return boost::math::quantile(boost::math::students_t(df), p);
}

double studentCdf(double t, double df) {
    return boost::math::cdf(boost::math::students_t(df), t);
}

double poissonLimit(double events, double p) {
    return boost::math::quantile(boost::math::gamma_distribution<>(events), p);
}

double normalQuantile(double p) {
    return boost::math::quantile(boost::math::normal(), p);
}

} // namespace impasto::stats
