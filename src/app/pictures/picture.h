// SPDX-License-Identifier: GPL-3.0-or-later
// The one widget that shows a drawing: paints it, moves the focus among its hot shapes, opens editors in place, and
// tells what was done. It computes nothing.
#pragma once

#include "pictures/sheet.h"

#include <QtWidgets/QWidget>
#include <functional>

class QLineEdit;

namespace impasto::app {

class Picture : public QWidget {
  public:
    using Layout = std::function<Drawing(QSizeF)>;
    struct Hands {
        std::function<void(const QString& id)> activate;
        std::function<void(const QString& id, QPointF at, DragPhase phase)> drag; // only for Role::Line and Role::Plot
        std::function<void(const QString& id, int steps)> step; // wheel, Up and Down on a slab or value
        std::function<void(const QString& id, const QString& text)> edited;
        std::function<void(const QString& id)> focused;
    };

    Picture(const QString& name, Layout layout, Hands hands, QWidget* parent = nullptr);

    void setTheme(const Theme& theme);
    /// Lays out again; the focused id keeps the focus where it still exists.
    void refresh();
    [[nodiscard]] const Drawing& drawing() const { return m_drawing; }
    [[nodiscard]] const Hot* focusedHot() const;
    [[nodiscard]] QString focusedId() const { return m_focusId; }
    void focusOn(const QString& id);
    /// As a press with the mouse does, and as the wheel does.
    void activate(const Hot& hot);
    void stepBy(const QString& id, int steps);
    void openEditor(const QString& id);
    [[nodiscard]] QLineEdit* editor() const { return m_editor; }
    [[nodiscard]] QSize sizeHint() const override { return m_hint; }

  protected:
    void paintEvent(QPaintEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void focusInEvent(QFocusEvent* event) override;
    void focusOutEvent(QFocusEvent* event) override;
    bool focusNextPrevChild(bool next) override;
    bool event(QEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    bool moveFocus(int by);
    void closeEditor(bool keep);

    Layout m_layout;
    Hands m_hands;
    Theme m_theme;
    Drawing m_drawing;
    QString m_focusId, m_dragId;
    QSize m_hint{200, 100};
    QLineEdit* m_editor = nullptr;
    QString m_editId;
};

/// Makes the hot shapes of pictures known to assistive technology. Once, after QApplication.
void installAccessibility();

} // namespace impasto::app
