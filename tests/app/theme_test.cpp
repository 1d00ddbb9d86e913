// SPDX-License-Identifier: GPL-3.0-or-later
// Contrast of text in both themes, by the relative luminance of WCAG 2.1 (W3C Recommendation, 5 June 2018, 1.4.3: at
// least 4.5 to 1).
#include "theme/theme.h"

#include <cmath>
#include <gtest/gtest.h>

using namespace impasto::app;

namespace {

double luminance(const QColor& c) {
    const auto linear = [](double v) { return v <= 0.03928 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
    return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
}

double contrast(const QColor& a, const QColor& b) {
    const double x = luminance(a), y = luminance(b);
    return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
}

} // namespace

TEST(ThemeTest, TheFormulaGivesItsKnownEnds) {
    EXPECT_NEAR(contrast(Qt::black, Qt::white), 21, 1e-9);
    EXPECT_NEAR(contrast(Qt::red, Qt::red), 1, 1e-9);
    EXPECT_NEAR(contrast(QColor(0x77, 0x77, 0x77), Qt::white), 4.48, 0.005); // the grey that just fails
}

TEST(ThemeTest, EveryTextIsReadableOnEveryGroundItStandsOn) {
    for (const auto& theme : {gesso(), umber()}) {
        const auto expectReadable = [&](Ink text, std::initializer_list<Ink> grounds) {
            for (const Ink ground : grounds)
                EXPECT_GE(contrast(theme.of(text), theme.of(ground)), 4.5)
                    << "ink " << static_cast<int>(text) << " on " << static_cast<int>(ground) << " dark " << theme.dark;
        };
        for (const Ink text : {Ink::Ink, Ink::Muted, Ink::Over})
            expectReadable(text, {Ink::Ground, Ink::Paper, Ink::Part, Ink::Band});
        expectReadable(Ink::OnSlab, {Ink::Gpu, Ink::Gpu2, Ink::Cpu, Ink::Cpu2, Ink::Mem, Ink::Mem2, Ink::DispText});
        expectReadable(Ink::OnDark, {Ink::Dark});
        expectReadable(Ink::OnDark2, {Ink::Dark});
        for (const Ink lane : {Ink::Gpu, Ink::Cpu, Ink::Mem}) expectReadable(lane, {Ink::Ground});
    }
}
