// SPDX-License-Identifier: GPL-3.0-or-later
// Hyndman and Fan (1996), The American Statistician 50(4):361-365 (from memory): exact values in tables/quantiles.txt,
// made by tables/make_quantiles.py, which agree with R 4.2.2 and NumPy 1.24 but where the script says so.
#include "support/support.h"

#include <impasto/stats/stats.h>
#include <sstream>

using namespace impasto;

TEST(PublishedQuantileTest, NineTypesOnSixVectors) {
    std::istringstream table(support::textOf(support::sourceDir() / "tests/published/tables/quantiles.txt"));
    std::vector<double> vector;
    std::string name, line;
    int checked = 0;
    while (std::getline(table, line)) {
        std::istringstream in(line);
        std::string kind;
        in >> kind;
        double v = 0;
        if (kind == "vector") {
            in >> name;
            vector.clear();
            while (in >> v) vector.push_back(v);
            std::reverse(vector.begin(), vector.end()); // order must not matter
            continue;
        }
        double p = 0;
        in >> p;
        for (int type = 1; type <= 9; ++type) {
            in >> v;
            EXPECT_NEAR(*stats::quantile(vector, p, type), v, 1e-9 * std::max(1.0, v))
                << name << " p " << p << " type " << type;
            ++checked;
        }
    }
    EXPECT_EQ(checked, 6 * 15 * 9);
}
