// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/paint.h"

#include <QtGui/QPainter>
#include <QtGui/QPainterPath>
#include <QtGui/QStaticText>
#include <impasto/base/random.h>
#include <map>

namespace impasto::app {
namespace {

QPen penOf(const QColor& colour, double width, const std::vector<double>& dashes) {
    QPen pen(colour, width);
    pen.setCapStyle(Qt::FlatCap);
    pen.setJoinStyle(Qt::MiterJoin);
    if (!dashes.empty()) {
        QList<qreal> pattern;
        for (const double d : dashes) pattern.append(d / width);
        pen.setDashPattern(pattern);
    }
    return pen;
}

void drawHatch(QPainter& p, const Shape& s, const Theme& theme) {
    p.save();
    p.setClipRect(s.rect);
    p.setPen(QPen(theme.of(s.stroke), s.stroke == Ink::Over ? 1.2 : 0.8));
    const double spacing = s.width * 1.41421356;
    for (double x = s.rect.left() - s.rect.height(); x < s.rect.right(); x += spacing)
        p.drawLine(QPointF(x, s.rect.bottom()), QPointF(x + s.rect.height(), s.rect.top()));
    p.restore();
}

/// Paint laid on thickly: square ends, a faint ridge texture, ragged at the right only where that edge measures
/// nothing.
void drawSlab(QPainter& p, const Shape& s, const Theme& theme) {
    RandomStream stream(s.seed, "ridges");
    QPainterPath path;
    path.addRect(s.rect);
    if (s.ragged) {
        path = QPainterPath(s.rect.topLeft());
        for (double y = s.rect.top(); y < s.rect.bottom(); y += 5)
            path.lineTo(s.rect.right() - 2.4 * stream.uniform(), std::min(y, s.rect.bottom()));
        path.lineTo(s.rect.right() - 2.4 * stream.uniform(), s.rect.bottom());
        path.lineTo(s.rect.bottomLeft());
        path.closeSubpath();
    }
    p.fillPath(path, theme.of(s.fill));
    p.save();
    p.setClipPath(path);
    const int ridges = static_cast<int>(s.rect.width() * s.rect.height() / 700);
    for (int i = 0; i < ridges; ++i) {
        QColor ridge = stream.uniform() < 0.5 ? QColor(Qt::white) : QColor(Qt::black);
        ridge.setAlphaF(0.13F);
        p.setPen(QPen(ridge, 0.8));
        const double y = stream.uniform(s.rect.top(), s.rect.bottom()), length = stream.uniform(14, 80);
        const double x = stream.uniform(s.rect.left() - 20, s.rect.right());
        p.drawLine(QPointF(x, y), QPointF(x + length, y));
    }
    p.restore();
}

/// A text laid out for drawing: shaped when it is shown for the first time.
const QStaticText& laidOut(const QString& text, Type type) {
    static std::map<Type, QHash<QString, QStaticText>> all;
    constexpr qsizetype most = 1000;
    auto& known = all[type];
    auto it = known.find(text);
    if (it != known.end()) return *it;
    if (known.size() >= most) known.clear();
    it = known.insert(text, QStaticText(text));
    it->setTextFormat(Qt::PlainText);
    it->setPerformanceHint(QStaticText::AggressiveCaching);
    return *it;
}

void drawText(QPainter& p, const Shape& s, const Theme& theme) {
    p.setFont(fontOf(s.type));
    if (s.casing != Ink::None) p.fillRect(s.rect.adjusted(-2, 1, 2, -1), theme.of(s.casing));
    p.setPen(theme.of(s.stroke));
    p.drawStaticText(s.rect.topLeft(), laidOut(s.text, s.type));
}

/// In pieces: a wide stroke is filled as one path, which for a long trace over itself takes its length squared.
void drawCurve(QPainter& p, const Shape& s) {
    constexpr qsizetype piece = 24;
    if (!s.dashes.empty()) return p.drawPolyline(s.points);
    for (qsizetype i = 0; i + 1 < s.points.size(); i += piece)
        p.drawPolyline(s.points.constData() + i, static_cast<int>(std::min(piece + 1, s.points.size() - i)));
}

void draw(QPainter& p, const Shape& s, const Theme& theme) {
    p.setOpacity(s.opacity);
    p.setBrush(Qt::NoBrush);
    p.setPen(Qt::NoPen);
    switch (s.kind) {
    case ShapeKind::Rect:
        if (s.fill != Ink::None) p.fillRect(s.rect, theme.of(s.fill));
        if (s.stroke != Ink::None) {
            p.setPen(penOf(theme.of(s.stroke), s.width, s.dashes));
            p.drawRect(s.rect);
        }
        break;
    case ShapeKind::Line:
        if (s.casing != Ink::None) {
            p.setPen(penOf(theme.of(s.casing), s.width + 3, {}));
            p.drawLine(s.points[0], s.points[1]);
        }
        p.setPen(penOf(theme.of(s.stroke), s.width, s.dashes));
        p.drawLine(s.points[0], s.points[1]);
        break;
    case ShapeKind::Curve:
        p.setPen(penOf(theme.of(s.stroke), s.width, s.dashes));
        drawCurve(p, s);
        break;
    case ShapeKind::Area:
        p.setBrush(theme.of(s.fill));
        p.drawPolygon(s.points);
        break;
    case ShapeKind::Hatch:
        drawHatch(p, s, theme);
        break;
    case ShapeKind::Slab:
        drawSlab(p, s, theme);
        break;
    case ShapeKind::Circle:
        if (s.fill != Ink::None) p.setBrush(theme.of(s.fill));
        if (s.stroke != Ink::None) p.setPen(QPen(theme.of(s.stroke), s.width));
        p.drawEllipse(s.rect);
        break;
    case ShapeKind::Text:
        drawText(p, s, theme);
        break;
    }
    p.setOpacity(1);
}

} // namespace

void paint(QPainter& painter, const Drawing& drawing, const Theme& theme, const Hot* focus) {
    painter.setRenderHint(QPainter::Antialiasing);
    for (const auto& shape : drawing.shapes) draw(painter, shape, theme);
    if (focus == nullptr) return;
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(theme.of(focus->onSlab ? Ink::OnSlab : Ink::Ink), 2));
    const double out = focus->onSlab ? -2.5 : 3.5;
    painter.drawRect(focus->ring.value_or(focus->rect).adjusted(-out, -out, out, out));
}

} // namespace impasto::app
