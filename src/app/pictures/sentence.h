// SPDX-License-Identifier: GPL-3.0-or-later
// A sentence whose underlined values can be pressed or edited in place.
#pragma once

#include "pictures/sheet.h"

#include <utility>

namespace impasto::app {

/// A value in a sentence. One that has nothing to edit is pressed.
struct SentenceValue {
    std::string id; // of its shape
    QString name, text;
    std::optional<QString> edit = {};
};

/// Words and values of sentences, flowing over lines.
class Sentence {
  public:
    Sentence(Sheet& sheet, double x, double y, double width)
        : m_sheet(sheet), m_left(x), m_x(x), m_y(y), m_right(x + width) {}
    /// A whole sentence with its values at %1, %2 and so on.
    void say(const QString& sentence, const std::vector<SentenceValue>& values) {
        QString word;
        const auto flush = [&](bool closes) {
            if (!word.isEmpty()) place(std::exchange(word, {}), Type::Sentence, closes);
        };
        bool touches = false; // the value before, so that a full stop stands close to it
        for (qsizetype i = 0; i < sentence.size(); ++i) {
            const int number = sentence[i] == u'%' && i + 1 < sentence.size() ? sentence[i + 1].digitValue() : -1;
            if (number >= 1 && static_cast<std::size_t>(number) <= values.size()) {
                flush(touches);
                value(values[static_cast<std::size_t>(number) - 1]);
                touches = true;
                ++i;
            } else if (sentence[i] == u' ') {
                flush(touches);
                touches = false;
            } else {
                word += sentence[i];
            }
        }
        flush(touches);
    }
    [[nodiscard]] double bottom() const { return m_y + lineOf(Type::Sentence); }

  private:
    void value(const SentenceValue& v) {
        const QRectF r = place(v.text, Type::SentenceBold, false);
        m_sheet.line({r.left(), r.bottom() + 2}, {r.right(), r.bottom() + 2}, Ink::Ink, 1.5);
        Hot h;
        h.id = QString::fromStdString(v.id);
        h.name = v.name;
        h.role = v.edit ? Role::Value : Role::Button;
        h.rect = r;
        h.edit = v.edit;
        m_sheet.hot(h);
    }
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
