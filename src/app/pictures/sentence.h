// SPDX-License-Identifier: GPL-3.0-or-later
// A sentence whose underlined values can be pressed or edited in place.
#pragma once

#include "pictures/sheet.h"

#include <QtCore/QStringList>

namespace impasto::app {

/// Words and values of a sentence, flowing over lines.
class Sentence {
  public:
    Sentence(Sheet& sheet, double x, double y, double width)
        : m_sheet(sheet), m_left(x), m_x(x), m_y(y), m_right(x + width) {}
    void words(const QString& text) {
        for (const auto& word : text.split(QLatin1Char(' '), Qt::SkipEmptyParts)) {
            const bool closes =
                word == QStringLiteral(".") || word == QStringLiteral(",") || word == QStringLiteral(":");
            place(word, Type::Sentence, closes);
        }
    }
    void value(const QString& id, const QString& name, const QString& text, std::optional<QString> edit,
               Role role = Role::Value) {
        const QRectF r = place(text, Type::SentenceBold, false);
        m_sheet.line({r.left(), r.bottom() + 2}, {r.right(), r.bottom() + 2}, Ink::Ink, 1.5);
        Hot h;
        h.id = id;
        h.name = name;
        h.role = role;
        h.rect = r;
        h.edit = std::move(edit);
        m_sheet.hot(h);
    }
    [[nodiscard]] double bottom() const { return m_y + lineOf(Type::Sentence); }

  private:
    QRectF place(const QString& text, Type type, bool closes) {
        const double w = textWidth(text, type), space = textWidth(QStringLiteral(" "), Type::Sentence);
        double x = m_x > m_left && !closes ? m_x + space : m_x;
        if (x + w > m_right && m_x > m_left) {
            m_y += lineOf(Type::Sentence);
            x = m_left;
        }
        m_sheet.text(x, m_y, text, type);
        m_x = x + w;
        return {x, m_y + 5, w, 24};
    }
    Sheet& m_sheet;
    double m_left, m_x, m_y, m_right;
};

} // namespace impasto::app
