// SPDX-License-Identifier: GPL-3.0-or-later
// Colours and type of the window. Every colour literal of the program stands in theme/.
#pragma once

#include <QtGui/QColor>
#include <QtGui/QFont>
#include <QtGui/QPalette>
#include <array>

namespace impasto::app {

enum class Ink {
    Ground,
    Paper,
    Ink,
    Muted,
    Line,
    Grid,
    Rail,
    Part,
    Band,
    Band2,
    Off,
    Gpu,
    Gpu2,
    Cpu,
    Cpu2,
    Mem,
    Mem2,
    Disp,
    DispText,
    Gen,
    Over,
    OnSlab,
    Stroke,
    StrokeOff,
    Dark,
    OnDark,
    OnDark2,
    None
};
inline constexpr std::size_t inkCount = static_cast<std::size_t>(Ink::None);

struct Theme {
    bool dark = false;
    std::array<QColor, inkCount> colours;
    [[nodiscard]] QColor of(Ink ink) const {
        return ink == Ink::None ? QColor(0, 0, 0, 0) : colours[static_cast<std::size_t>(ink)];
    }
};
Theme gesso();
Theme umber();
QPalette paletteOf(const Theme& theme);

/// The sizes of type, named by what they are for (pixels / weight).
enum class Type {
    Title,        // 20 bold
    Sentence,     // 19
    SentenceBold, // 19 semibold
    CapFigure,    // 18 semibold
    Game,         // 17 bold
    Heading,      // 15.5 bold
    Value,        // 15.5 semibold
    Station,      // 14.5 semibold
    StationNow,   // 14.5 bold
    Figure,       // 14 semibold
    Body,         // 13
    BodyBold,     // 13 semibold
    Note,         // 12.5
    Small         // 12
};
QFont fontOf(Type type);
/// Line pitch in pixels.
double lineOf(Type type);

/// Registers the compiled-in faces and sets Fusion with our proxy style. Once, after QApplication.
void setUpApplication(const Theme& theme);

} // namespace impasto::app
