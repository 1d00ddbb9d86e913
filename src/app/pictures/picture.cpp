// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/picture.h"

#include "pictures/paint.h"

#include <QtGui/QAccessible>
#include <QtGui/QHelpEvent>
#include <QtGui/QKeyEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QLineEdit>
#include <QtWidgets/QToolTip>

namespace impasto::app {

Picture::Picture(const QString& name, Layout layout, Hands hands, QWidget* parent)
    : QWidget(parent), m_layout(std::move(layout)), m_hands(std::move(hands)), m_theme(gesso()) {
    setObjectName(name);
    setAccessibleName(name);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAttribute(Qt::WA_OpaquePaintEvent);
}

void Picture::setTheme(const Theme& theme) {
    m_theme = theme;
    update();
}

void Picture::refresh() {
    if (width() <= 0 || height() <= 0) return;
    m_drawing = m_layout(QSizeF(size()));
    if (m_drawing.hot(m_focusId) == nullptr) {
        m_focusId.clear();
        for (const auto& hot : m_drawing.hots)
            if (hot.focusable) {
                m_focusId = hot.id;
                break;
            }
    }
    if (m_editor != nullptr && m_drawing.hot(m_editId) == nullptr) closeEditor(false);
    update();
}

const Hot* Picture::focusedHot() const {
    return m_drawing.hot(m_focusId);
}

void Picture::focusOn(const QString& id) {
    const Hot* hot = m_drawing.hot(id);
    if (hot == nullptr || !hot->focusable) return;
    m_focusId = id;
    update();
    if (m_hands.focused && hasFocus()) m_hands.focused(id);
    for (std::size_t i = 0; i < m_drawing.hots.size(); ++i)
        if (m_drawing.hots[i].id == id && QAccessible::isActive()) {
            QAccessibleEvent told(this, QAccessible::Focus);
            told.setChild(static_cast<int>(i));
            QAccessible::updateAccessibility(&told);
        }
}

void Picture::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), m_theme.of(Ink::Ground));
    paint(painter, m_drawing, m_theme, hasFocus() && m_editor == nullptr ? focusedHot() : nullptr);
}

void Picture::resizeEvent(QResizeEvent*) {
    refresh();
}

void Picture::activate(const Hot& hot) {
    if (hot.edit) {
        openEditor(hot.id);
        return;
    }
    // The hot may be gone after the call: its id is copied.
    const QString id = hot.id;
    if (m_hands.activate) m_hands.activate(id);
}

void Picture::stepBy(const QString& id, int steps) {
    if (m_hands.step) m_hands.step(id, steps);
}

void Picture::mousePressEvent(QMouseEvent* event) {
    if (m_editor != nullptr) closeEditor(true);
    const Hot* hot = m_drawing.at(event->position());
    if (hot == nullptr || event->button() != Qt::LeftButton) return;
    const Hot chosen = *hot;
    if (chosen.focusable) focusOn(chosen.id);
    if (chosen.role == Role::Line || chosen.role == Role::Edge || chosen.role == Role::Plot) {
        m_dragId = chosen.id;
        if (m_hands.drag) m_hands.drag(chosen.id, event->position(), DragPhase::Begin);
        return;
    }
    activate(chosen);
}

void Picture::mouseMoveEvent(QMouseEvent* event) {
    if (!m_dragId.isEmpty() && m_hands.drag) m_hands.drag(m_dragId, event->position(), DragPhase::Move);
    const Hot* hot = m_drawing.at(event->position());
    setCursor(hot == nullptr            ? Qt::ArrowCursor
              : hot->role == Role::Line ? Qt::SizeVerCursor
              : hot->role == Role::Edge ? Qt::SizeHorCursor
              : hot->role == Role::Plot ? Qt::CrossCursor
                                        : Qt::PointingHandCursor);
}

void Picture::mouseReleaseEvent(QMouseEvent* event) {
    if (m_dragId.isEmpty()) return;
    const QString id = std::exchange(m_dragId, QString());
    if (m_hands.drag) m_hands.drag(id, event->position(), DragPhase::End);
}

void Picture::wheelEvent(QWheelEvent* event) {
    const Hot* hot = m_drawing.at(event->position());
    const int steps = event->angleDelta().y() / 120;
    if (hot == nullptr || (hot->role != Role::Slab && hot->role != Role::Value) || steps == 0 || !m_hands.step)
        return event->ignore();
    const QString id = hot->id;
    m_hands.step(id, steps);
}

bool Picture::moveFocus(int by) {
    std::vector<const Hot*> stops;
    for (const auto& hot : m_drawing.hots)
        if (hot.focusable) stops.push_back(&hot);
    const auto it = std::find_if(stops.begin(), stops.end(), [this](const Hot* h) { return h->id == m_focusId; });
    const auto next =
        (it == stops.end() ? (by > 0 ? 0 : static_cast<std::ptrdiff_t>(stops.size()) - 1) : it - stops.begin() + by);
    if (next < 0 || next >= static_cast<std::ptrdiff_t>(stops.size())) return false;
    focusOn(stops[static_cast<std::size_t>(next)]->id);
    return true;
}

bool Picture::focusNextPrevChild(bool next) {
    if (m_editor == nullptr && moveFocus(next ? 1 : -1)) return true;
    return QWidget::focusNextPrevChild(next);
}

void Picture::keyPressEvent(QKeyEvent* event) {
    const Hot* hot = focusedHot();
    const bool plain = event->modifiers() == Qt::NoModifier || event->modifiers() == Qt::KeypadModifier;
    if (!m_dragId.isEmpty() && event->key() == Qt::Key_Escape) {
        const QString id = std::exchange(m_dragId, QString());
        if (m_hands.drag) m_hands.drag(id, {}, DragPhase::Cancel);
        return;
    }
    if (hot != nullptr && plain) {
        const bool presses = event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter ||
                             (event->key() == Qt::Key_Space && hot->role == Role::Button);
        if (presses) return activate(Hot(*hot));
        const bool steps =
            hot->role == Role::Slab || hot->role == Role::Value || hot->role == Role::Line || hot->role == Role::Edge;
        if (steps && (event->key() == Qt::Key_Up || event->key() == Qt::Key_Down) && m_hands.step) {
            const QString id = hot->id;
            return m_hands.step(id, event->key() == Qt::Key_Up ? 1 : -1);
        }
        if (event->key() == Qt::Key_Right || event->key() == Qt::Key_Down) {
            moveFocus(1);
            return;
        }
        if (event->key() == Qt::Key_Left || event->key() == Qt::Key_Up) {
            moveFocus(-1);
            return;
        }
    }
    QWidget::keyPressEvent(event); // to the window, which knows the plain keys
}

void Picture::focusInEvent(QFocusEvent* event) {
    QWidget::focusInEvent(event);
    if (event->reason() == Qt::TabFocusReason || event->reason() == Qt::BacktabFocusReason) {
        m_focusId.clear();
        moveFocus(event->reason() == Qt::TabFocusReason ? 1 : -1);
    }
    update();
}

void Picture::focusOutEvent(QFocusEvent* event) {
    QWidget::focusOutEvent(event);
    update();
}

bool Picture::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        const Hot* hot = m_drawing.at(help->pos());
        if (hot != nullptr && !hot->hint.isEmpty())
            QToolTip::showText(help->globalPos(), hot->hint, this);
        else
            QToolTip::hideText();
        return true;
    }
    return QWidget::event(event);
}

void Picture::openEditor(const QString& id) {
    const Hot* hot = m_drawing.hot(id);
    if (hot == nullptr || !hot->edit) return;
    closeEditor(false);
    m_editId = id;
    m_editor = new QLineEdit(*hot->edit, this);
    m_editor->setAccessibleName(hot->name);
    m_editor->setFont(fontOf(Type::Value));
    QRect place = hot->rect.toAlignedRect().adjusted(-6, -3, 6, 3);
    if (place.width() < 90) place.setWidth(90);
    if (place.right() > width()) place.moveRight(width() - 4);
    m_editor->setGeometry(place);
    m_editor->selectAll();
    m_editor->show();
    m_editor->setFocus();
    connect(m_editor, &QLineEdit::editingFinished, this, [this, editor = m_editor] {
        if (m_editor == editor && !editor->hasFocus()) closeEditor(true);
    });
    m_editor->installEventFilter(this);
    update();
}

bool Picture::eventFilter(QObject* watched, QEvent* event) {
    if (watched == m_editor && event->type() == QEvent::KeyPress) {
        // Both are taken here: a line edit passes Return on, which would open it again.
        const auto* pressed = static_cast<QKeyEvent*>(event);
        const bool enter = (pressed->key() == Qt::Key_Return || pressed->key() == Qt::Key_Enter) &&
                           pressed->modifiers() == Qt::NoModifier;
        if (enter || pressed->key() == Qt::Key_Escape) {
            closeEditor(enter);
            return true;
        }
    }
    return QWidget::eventFilter(watched, event);
}

void Picture::closeEditor(bool keep) {
    if (m_editor == nullptr) return;
    QLineEdit* editor = std::exchange(m_editor, nullptr);
    const QString id = std::exchange(m_editId, QString());
    const QString text = editor->text();
    const bool changed = editor->isModified();
    setFocus(); // before it hides: a hidden widget passes the focus on to its neighbour
    editor->hide();
    editor->deleteLater();
    update();
    if (keep && changed && m_hands.edited) m_hands.edited(id, text);
}

} // namespace impasto::app
