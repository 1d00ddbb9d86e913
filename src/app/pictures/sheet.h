// SPDX-License-Identifier: GPL-3.0-or-later
// A picture as data: shapes with ids, laid out without a widget. Painting, hit test, keyboard, accessible names and
// tests read the same shapes.
#pragma once

#include "theme/theme.h"

#include <QtCore/QRectF>
#include <QtCore/QSizeF>
#include <QtCore/QString>
#include <QtGui/QPolygonF>
#include <cmath>
#include <optional>
#include <vector>

namespace impasto::app {

enum class ShapeKind { Rect, Line, Curve, Area, Text, Hatch, Slab, Circle };
enum class Role { None, Button, Value, Slab, Row, Line, Edge, Plot }; // a line is dragged up and down, an edge across

enum class DragPhase { Begin, Move, End, Cancel };

struct Shape {
    ShapeKind kind = ShapeKind::Rect;
    QRectF rect;
    QPolygonF points; // Line (two), Curve, Area
    Ink fill = Ink::None;
    Ink stroke = Ink::None;
    double width = 1;
    std::vector<double> dashes; // in pixels
    QString text;
    Type type = Type::Body;
    Ink casing = Ink::None; // ground under a line or text that crosses other things
    double opacity = 1;
    bool ragged = false; // right edge of a slab, where it measures nothing
    unsigned seed = 0;   // of a slab's ridges
};

/// What hand and keyboard can reach. `id` is stable over layouts.
struct Hot {
    QString id;
    QString name; // accessible, and in tool tips
    Role role = Role::Button;
    QRectF rect;
    std::optional<QRectF> ring; // where the focus ring goes, if not round the whole rect
    bool focusable = true;
    bool onSlab = false;         // ring inside, in the slab's text colour
    std::optional<QString> edit; // text to start an editor with; none: not editable
    QString hint;                // tool tip, where the name is not enough
    QString why;                 // topic of the why drawer
};

struct Drawing {
    std::vector<Shape> shapes;
    std::vector<Hot> hots; // in the order of the keyboard
    [[nodiscard]] const Hot* hot(const QString& id) const;
    [[nodiscard]] const Hot* at(QPointF point) const; // the last one that holds the point
};

enum class Align { Left, Right, Centre };

double textWidth(const QString& text, Type type);
/// The text cut with an ellipsis to a width.
QString elided(const QString& text, Type type, double width);

/// Builds a drawing. y of a text is its line's top.
class Sheet {
  public:
    explicit Sheet(QSizeF size) : m_size(size) {}
    [[nodiscard]] QSizeF size() const { return m_size; }
    [[nodiscard]] double width() const { return m_size.width(); }
    [[nodiscard]] double height() const { return m_size.height(); }

    void rect(QRectF r, Ink fill, Ink stroke = Ink::None, double width = 1, std::vector<double> dashes = {});
    void line(QPointF a, QPointF b, Ink ink, double width = 1, std::vector<double> dashes = {}, Ink casing = Ink::None);
    void curve(QPolygonF points, Ink ink, double width, std::vector<double> dashes = {});
    void area(QPolygonF points, Ink fill, double opacity = 1);
    void hatch(QRectF r, Ink ink, double spacing);
    void slab(QRectF r, Ink fill, unsigned seed, bool ragged = false, double opacity = 1);
    void circle(QPointF centre, double radius, Ink fill, Ink stroke = Ink::None, double width = 1.5);
    /// One line, elided to `maxWidth` where given, and at the sheet's edge. Gives its width.
    double text(double x, double y, const QString& text, Type type, Ink ink = Ink::Ink, Align align = Align::Left,
                double maxWidth = 0, Ink casing = Ink::None);
    /// A name and, at the right end of the row, its figure; a long name gives way.
    void row(double x, double y, double width, const QString& name, const QString& figure, Type figureType,
             Ink figureInk = Ink::Ink, Type nameType = Type::Body);
    /// Wrapped text; gives the y below it.
    double wrapped(double x, double y, double width, const QString& text, Type type, Ink ink = Ink::Ink,
                   int mostLines = 100);
    /// An interval as a bar with square caps, lying or standing.
    void interval(QPointF a, QPointF b, double cap, Ink ink, double width = 1.2, Ink casing = Ink::None);
    /// An outlined button; the primary one is filled.
    void button(QRectF r, const QString& id, const QString& label, const QString& note = {}, bool primary = false,
                bool enabled = true);
    /// A word among others of which one is chosen, ending at `right`; gives where the next one ends.
    double choice(double right, double y, const QString& id, const QString& word, const QString& hint, bool chosen);
    void hot(Hot hot) { m_drawing.hots.push_back(std::move(hot)); }
    /// `taken`, `takenBelow`: so much at the right of the title and of the note is another's.
    void heading(double x, double y, const QString& title, const QString& note = {}, double taken = 0,
                 double takenBelow = 0);

    [[nodiscard]] Drawing take() { return std::move(m_drawing); }
    [[nodiscard]] const Drawing& drawing() const { return m_drawing; }

  private:
    QSizeF m_size;
    Drawing m_drawing;
};

/// Maps values to pixels.
struct Scale {
    double fromValue = 0, toValue = 1, fromPx = 0, toPx = 1;
    bool logarithmic = false; // values above 0 then; smaller ones lie where fromValue does
    [[nodiscard]] double px(double v) const {
        const double share = logarithmic ? std::log(std::max(v, fromValue) / fromValue) / std::log(toValue / fromValue)
                                         : (v - fromValue) / (toValue - fromValue);
        return fromPx + share * (toPx - fromPx);
    }
    [[nodiscard]] double value(double p) const {
        const double share = (p - fromPx) / (toPx - fromPx);
        return logarithmic ? fromValue * std::pow(toValue / fromValue, share)
                           : fromValue + share * (toValue - fromValue);
    }
};
/// A round step for about `marks` marks over a range.
double niceStep(double range, int marks);

/// Foreign text is made safe to show.
QString qs(const std::string& text);
/// A sentence of the window, in the reader's language.
QString say(const char* text);

} // namespace impasto::app
