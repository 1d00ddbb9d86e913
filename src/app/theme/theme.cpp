// SPDX-License-Identifier: GPL-3.0-or-later
#include "theme/theme.h"

#include <QtGui/QFontDatabase>
#include <QtGui/QGuiApplication>
#include <QtGui/QScreen>
#include <QtWidgets/QApplication>
#include <QtWidgets/QProxyStyle>
#include <QtWidgets/QStyleFactory>

namespace impasto::app {
namespace {

Theme made(bool dark, const std::array<QRgb, inkCount>& rgb) {
    Theme t;
    t.dark = dark;
    for (std::size_t i = 0; i < inkCount; ++i) t.colours[i] = QColor(rgb[i]);
    return t;
}

struct Face {
    double px;
    QFont::Weight weight;
    double line;
};

Face faceOf(Type type) {
    switch (type) {
    case Type::Title:
        return {20, QFont::Bold, 26};
    case Type::Sentence:
        return {19, QFont::Normal, 34};
    case Type::SentenceBold:
        return {19, QFont::DemiBold, 34};
    case Type::CapFigure:
        return {18, QFont::DemiBold, 22};
    case Type::Game:
        return {17, QFont::Bold, 22};
    case Type::Heading:
        return {15.5, QFont::Bold, 20};
    case Type::Value:
        return {15.5, QFont::DemiBold, 20};
    case Type::Station:
        return {14.5, QFont::DemiBold, 19};
    case Type::StationNow:
        return {14.5, QFont::Bold, 19};
    case Type::Figure:
        return {14, QFont::DemiBold, 19};
    case Type::Body:
        return {13, QFont::Normal, 18};
    case Type::BodyBold:
        return {13, QFont::DemiBold, 18};
    case Type::Note:
        return {12.5, QFont::Normal, 16};
    case Type::Small:
        return {12, QFont::Normal, 16};
    }
    return {13, QFont::Normal, 18};
}

/// Fusion with square corners and no rubber-band of its own: our focus rings are painted.
class Style final : public QProxyStyle {
  public:
    Style() : QProxyStyle(QStyleFactory::create(QStringLiteral("Fusion"))) {}
    int styleHint(StyleHint hint, const QStyleOption* option, const QWidget* widget,
                  QStyleHintReturn* data) const override {
        if (hint == SH_UnderlineShortcut) return 0;
        return QProxyStyle::styleHint(hint, option, widget, data);
    }
};

} // namespace

Theme gesso() {
    return made(false, {0xFFF4EFE6, 0xFFFCF9F2, 0xFF221C17, 0xFF5E554A, 0xFFD8CDBB, 0xFFDED5C5, 0xFFE9E0D0,
                        0xFFEAE2D4, 0xFFE2D8C7, 0xFFCFC3B0, 0xFF857A6C, 0xFF33508F, 0xFF4A66A6, 0xFF8F4523,
                        0xFFA8592F, 0xFF2B6F5B, 0xFF3C7F6B, 0xFFA87D10, 0xFF7A5A06, 0xFF94577F, 0xFFAD2916,
                        0xFFFFFFFF, 0xFFC49A3C, 0xFFE4D9C5, 0xFF221C17, 0xFFFCF9F2, 0xFFD6CBBB});
}

Theme umber() {
    return made(true, {0xFF221D1A, 0xFF2D2723, 0xFFF2E9DC, 0xFFB9AC9C, 0xFF4A4038, 0xFF3A322C, 0xFF38302A,
                       0xFF2B2521, 0xFF423931, 0xFF564B41, 0xFF8C7F71, 0xFF6F87C7, 0xFF8599D0, 0xFFBE734A,
                       0xFFCB8964, 0xFF4F9981, 0xFF69AB96, 0xFFD8AC45, 0xFFE0B85C, 0xFFD3A9C4, 0xFFFF8B72,
                       0xFF191410, 0xFFC49A3C, 0xFF40372F, 0xFFF2E9DC, 0xFF221D1A, 0xFF544A41});
}

QPalette paletteOf(const Theme& t) {
    QPalette p(t.of(Ink::Paper), t.of(Ink::Ground));
    p.setColor(QPalette::WindowText, t.of(Ink::Ink));
    p.setColor(QPalette::Text, t.of(Ink::Ink));
    p.setColor(QPalette::ButtonText, t.of(Ink::Ink));
    p.setColor(QPalette::Base, t.of(Ink::Paper));
    p.setColor(QPalette::AlternateBase, t.of(Ink::Ground));
    p.setColor(QPalette::Highlight, t.of(Ink::Band2));
    p.setColor(QPalette::HighlightedText, t.of(Ink::Ink));
    p.setColor(QPalette::ToolTipBase, t.of(Ink::Paper));
    p.setColor(QPalette::ToolTipText, t.of(Ink::Ink));
    p.setColor(QPalette::PlaceholderText, t.of(Ink::Muted));
    return p;
}

QFont fontOf(Type type) {
    const Face face = faceOf(type);
    QFont font(QStringLiteral("Lato"));
    const QScreen* screen = QGuiApplication::primaryScreen();
    font.setPointSizeF(face.px * 72.0 / (screen == nullptr ? 96.0 : screen->logicalDotsPerInchY()));
    font.setWeight(face.weight);
    font.setHintingPreference(QFont::PreferNoHinting);
    return font;
}

double lineOf(Type type) {
    return faceOf(type).line;
}

void setUpApplication(const Theme& theme) {
    for (const char* face : {"Regular", "Semibold", "Bold"})
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/Lato-%1.ttf").arg(QLatin1String(face)));
    QApplication::setStyle(new Style);
    QApplication::setPalette(paletteOf(theme));
    QApplication::setFont(fontOf(Type::Body));
}

} // namespace impasto::app
