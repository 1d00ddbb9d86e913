// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/sheet.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QHash>
#include <QtCore/QStringList>
#include <QtGui/QFontMetricsF>
#include <cmath>
#include <impasto/base/shown.h>
#include <map>

namespace impasto::app {
namespace {

const QFontMetricsF& metrics(Type type) {
    // One per size; fonts do not change while the program runs.
    static std::map<Type, QFontMetricsF> cache;
    const auto it = cache.find(type);
    return it != cache.end() ? it->second : cache.emplace(type, QFontMetricsF(fontOf(type))).first->second;
}

} // namespace

QString qs(const std::string& text) {
    return QString::fromStdString(shown(text, true));
}
QString say(const char* text) {
    return QCoreApplication::translate("impasto", text);
}

double textWidth(const QString& text, Type type) {
    // To shape a text is most of what a picture costs, and a picture says mostly what the one before said.
    static std::map<Type, QHash<QString, double>> widths;
    constexpr qsizetype most = 4000;
    auto& known = widths[type];
    const auto it = known.constFind(text);
    if (it != known.constEnd()) return *it;
    if (known.size() >= most) known.clear();
    return *known.insert(text, metrics(type).horizontalAdvance(text));
}

QString elided(const QString& text, Type type, double width) {
    return textWidth(text, type) <= width ? text : metrics(type).elidedText(text, Qt::ElideRight, width);
}

const Hot* Drawing::hot(const QString& id) const {
    for (const auto& h : hots)
        if (h.id == id) return &h;
    return nullptr;
}

const Hot* Drawing::at(QPointF point) const {
    for (auto it = hots.rbegin(); it != hots.rend(); ++it)
        if (it->rect.contains(point)) return &*it;
    return nullptr;
}

void Sheet::rect(QRectF r, Ink fill, Ink stroke, double width, std::vector<double> dashes) {
    Shape s;
    s.rect = r;
    s.fill = fill;
    s.stroke = stroke;
    s.width = width;
    s.dashes = std::move(dashes);
    m_drawing.shapes.push_back(std::move(s));
}

void Sheet::line(QPointF a, QPointF b, Ink ink, double width, std::vector<double> dashes, Ink casing) {
    Shape s;
    s.kind = ShapeKind::Line;
    s.points = QPolygonF({a, b});
    s.stroke = ink;
    s.width = width;
    s.dashes = std::move(dashes);
    s.casing = casing;
    m_drawing.shapes.push_back(std::move(s));
}

void Sheet::curve(QPolygonF points, Ink ink, double width, std::vector<double> dashes) {
    Shape s;
    s.kind = ShapeKind::Curve;
    s.points = std::move(points);
    s.stroke = ink;
    s.width = width;
    s.dashes = std::move(dashes);
    m_drawing.shapes.push_back(std::move(s));
}

void Sheet::area(QPolygonF points, Ink fill, double opacity) {
    Shape s;
    s.kind = ShapeKind::Area;
    s.points = std::move(points);
    s.fill = fill;
    s.opacity = opacity;
    m_drawing.shapes.push_back(std::move(s));
}

void Sheet::hatch(QRectF r, Ink ink, double spacing) {
    Shape s;
    s.kind = ShapeKind::Hatch;
    s.rect = r;
    s.stroke = ink;
    s.width = spacing;
    m_drawing.shapes.push_back(std::move(s));
}

void Sheet::slab(QRectF r, Ink fill, unsigned seed, bool ragged, double opacity) {
    Shape s;
    s.kind = ShapeKind::Slab;
    s.rect = r;
    s.fill = fill;
    s.seed = seed;
    s.ragged = ragged;
    s.opacity = opacity;
    m_drawing.shapes.push_back(std::move(s));
}

void Sheet::circle(QPointF centre, double radius, Ink fill, Ink stroke, double width) {
    Shape s;
    s.kind = ShapeKind::Circle;
    s.rect = QRectF(centre.x() - radius, centre.y() - radius, 2 * radius, 2 * radius);
    s.fill = fill;
    s.stroke = stroke;
    s.width = width;
    m_drawing.shapes.push_back(std::move(s));
}

double Sheet::text(double x, double y, const QString& text, Type type, Ink ink, Align align, double maxWidth,
                   Ink casing) {
    if (text.isEmpty()) return 0;
    Shape s;
    s.kind = ShapeKind::Text;
    const double room = align == Align::Left ? width() - x : align == Align::Right ? x : 2 * std::min(x, width() - x);
    s.text = elided(text, type, maxWidth > 0 ? std::min(maxWidth, room) : room);
    const double w = textWidth(s.text, type);
    const double left = align == Align::Left ? x : align == Align::Right ? x - w : x - w / 2;
    // The box is the ink's height, not the line's: lines of one paragraph must not count as overlapping.
    const double h = metrics(type).ascent() + metrics(type).descent();
    s.rect = QRectF(left, y + (lineOf(type) - h) / 2, w, h);
    s.type = type;
    s.stroke = ink;
    s.casing = casing;
    m_drawing.shapes.push_back(std::move(s));
    return w;
}

void Sheet::row(double x, double y, double width, const QString& name, const QString& figure, Type figureType,
                Ink figureInk, Type nameType) {
    const double w = text(x + width, y - (lineOf(figureType) - lineOf(nameType)) / 2, figure, figureType, figureInk,
                          Align::Right, 0.7 * width);
    text(x, y, name, nameType, Ink::Muted, Align::Left, width - w - 10);
}

double Sheet::wrapped(double x, double y, double width, const QString& text, Type type, Ink ink, int mostLines) {
    QString line;
    int lines = 0;
    const auto flush = [&](bool more) {
        if (line.isEmpty()) return;
        ++lines;
        this->text(x, y, more && lines == mostLines ? line + QStringLiteral(" …") : line, type, ink, Align::Left,
                   width);
        y += lineOf(type);
        line.clear();
    };
    for (const auto& word : text.split(QLatin1Char(' '), Qt::SkipEmptyParts)) {
        const QString longer = line.isEmpty() ? word : line + QLatin1Char(' ') + word;
        if (textWidth(longer, type) > width && !line.isEmpty()) {
            flush(true);
            if (lines == mostLines) return y;
            line = word;
        } else {
            line = longer;
        }
    }
    flush(false);
    return y;
}

void Sheet::interval(QPointF a, QPointF b, double cap, Ink ink, double width, Ink casing) {
    const bool lying = std::abs(a.y() - b.y()) < 0.01;
    const QPointF half = lying ? QPointF(0, cap / 2) : QPointF(cap / 2, 0);
    for (const auto& [from, to] : {std::pair(a, b), std::pair(a - half, a + half), std::pair(b - half, b + half)})
        line(from, to, ink, width, {}, casing);
}

void Sheet::button(QRectF r, const QString& id, const QString& label, const QString& note, bool primary, bool enabled) {
    rect(r, primary ? Ink::Dark : Ink::Paper, primary ? Ink::Dark : enabled ? Ink::Ink : Ink::Line, 1.2);
    const Type type = primary ? Type::Station : Type::BodyBold;
    constexpr double leastPad = 4; // beside words that are a little wide; they are cut where that does not do
    const double noteWidth = note.isEmpty() ? 0 : textWidth(note, Type::Small) + 8;
    const double spare = r.width() - textWidth(label, type) - noteWidth;
    const double pad = std::clamp(spare / 2, leastPad, primary ? 16.0 : 12.0);
    const double top = r.center().y() - lineOf(type) / 2;
    const Ink ink = primary ? Ink::OnDark : enabled ? Ink::Ink : Ink::Muted;
    if (note.isEmpty() && !primary && spare >= 2 * leastPad)
        text(r.center().x(), top, label, type, ink, Align::Centre);
    else
        text(r.left() + pad, top, label, type, ink, Align::Left, r.width() - 2 * pad - noteWidth);
    text(r.right() - pad, r.center().y() - lineOf(Type::Small) / 2, note, Type::Small,
         primary ? Ink::OnDark2 : Ink::Muted, Align::Right);
    Hot h;
    h.id = id;
    h.name = label;
    h.hint = note;
    h.rect = r;
    h.focusable = enabled;
    hot(std::move(h));
}

double Sheet::choice(double right, double y, const QString& id, const QString& word, const QString& hint, bool chosen) {
    const double w = textWidth(word, chosen ? Type::BodyBold : Type::Body), x = right - w;
    text(x, y + 2, word, chosen ? Type::BodyBold : Type::Body, chosen ? Ink::Ink : Ink::Muted);
    if (chosen) line({x, y + 20}, {right, y + 20}, Ink::Ink, 1.5);
    Hot h;
    h.id = id;
    h.name = word;
    h.role = Role::Row; // Enter takes it; Space stays the next step
    h.rect = QRectF(x - 4, y, w + 8, 22);
    h.hint = hint;
    hot(std::move(h));
    return x - 16;
}

void Sheet::heading(double x, double y, const QString& title, const QString& note, double taken, double takenBelow) {
    const double room = width() - 2 * x;
    text(x, y, title, Type::Title, Ink::Ink, Align::Left, room - taken);
    text(x, y + 27, note, Type::Body, Ink::Muted, Align::Left, room - takenBelow);
}

double niceStep(double range, int marks) {
    const double raw = range / std::max(1, marks);
    const double magnitude = std::pow(10.0, std::floor(std::log10(std::max(raw, 1e-9))));
    for (const double factor : {1.0, 2.0, 4.0, 5.0, 10.0})
        if (factor * magnitude >= raw * 0.999) return factor * magnitude;
    return 10 * magnitude;
}

} // namespace impasto::app
