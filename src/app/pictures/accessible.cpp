// SPDX-License-Identifier: GPL-3.0-or-later
// Every hot shape of a picture is a child with a name, a role and an action.
#include "pictures/picture.h"

#include <QtGui/QAccessible>
#include <QtWidgets/QAccessibleWidget>
#include <map>

namespace impasto::app {
namespace {

QAccessible::Role roleOf(const Hot& hot) {
    switch (hot.role) {
    case Role::Button:
        return QAccessible::Button;
    case Role::Value:
        return QAccessible::EditableText;
    case Role::Slab:
        return QAccessible::ListItem;
    case Role::Row:
        return QAccessible::ListItem;
    case Role::Line:
    case Role::Edge:
        return QAccessible::Slider;
    case Role::Plot:
        return QAccessible::Chart;
    case Role::None:
        break;
    }
    return QAccessible::Graphic;
}

class AccessibleHot final : public QAccessibleInterface, public QAccessibleActionInterface {
  public:
    AccessibleHot(Picture* picture, int index) : m_picture(picture), m_index(index) {}
    [[nodiscard]] bool isValid() const override { return hot() != nullptr; }
    [[nodiscard]] QObject* object() const override { return nullptr; }
    [[nodiscard]] QWindow* window() const override { return m_picture->window()->windowHandle(); }
    [[nodiscard]] QAccessibleInterface* parent() const override {
        return QAccessible::queryAccessibleInterface(m_picture);
    }
    [[nodiscard]] QAccessibleInterface* child(int) const override { return nullptr; }
    [[nodiscard]] QAccessibleInterface* childAt(int, int) const override { return nullptr; }
    [[nodiscard]] int childCount() const override { return 0; }
    int indexOfChild(const QAccessibleInterface*) const override { return -1; }
    [[nodiscard]] QString text(QAccessible::Text kind) const override {
        const Hot* h = hot();
        if (h == nullptr) return {};
        if (kind == QAccessible::Name) return h->name;
        if (kind == QAccessible::Description) return h->hint;
        if (kind == QAccessible::Value && h->edit) return *h->edit;
        return {};
    }
    void setText(QAccessible::Text, const QString&) override {}
    [[nodiscard]] QRect rect() const override {
        const Hot* h = hot();
        return h == nullptr ? QRect() : h->rect.toAlignedRect().translated(m_picture->mapToGlobal(QPoint(0, 0)));
    }
    [[nodiscard]] QAccessible::Role role() const override {
        return hot() == nullptr ? QAccessible::NoRole : roleOf(*hot());
    }
    [[nodiscard]] QAccessible::State state() const override {
        QAccessible::State s;
        const Hot* h = hot();
        s.focusable = h != nullptr && h->focusable;
        s.focused = h != nullptr && m_picture->hasFocus() && m_picture->focusedId() == h->id;
        return s;
    }

    void* interface_cast(QAccessible::InterfaceType type) override {
        return type == QAccessible::ActionInterface ? static_cast<QAccessibleActionInterface*>(this) : nullptr;
    }
    [[nodiscard]] QStringList actionNames() const override {
        const Hot* h = hot();
        if (h == nullptr || !h->focusable) return {};
        const bool steps =
            h->role == Role::Value || h->role == Role::Slab || h->role == Role::Line || h->role == Role::Edge;
        return steps ? QStringList{pressAction(), increaseAction(), decreaseAction()} : QStringList{pressAction()};
    }
    void doAction(const QString& action) override {
        if (hot() == nullptr || !actionNames().contains(action)) return;
        const Hot chosen = *hot(); // it may be gone after the call
        m_picture->focusOn(chosen.id);
        if (action == pressAction()) return m_picture->activate(chosen);
        m_picture->stepBy(chosen.id, action == increaseAction() ? 1 : -1);
    }
    [[nodiscard]] QStringList keyBindingsForAction(const QString&) const override { return {}; }

  private:
    [[nodiscard]] const Hot* hot() const {
        const auto& hots = m_picture->drawing().hots;
        return m_index >= 0 && m_index < static_cast<int>(hots.size()) ? &hots[static_cast<std::size_t>(m_index)]
                                                                       : nullptr;
    }
    Picture* m_picture;
    int m_index;
};

class AccessiblePicture final : public QAccessibleWidget {
  public:
    explicit AccessiblePicture(Picture* picture)
        : QAccessibleWidget(picture, QAccessible::Grouping), m_picture(picture) {}
    ~AccessiblePicture() override {
        for (const auto& [index, id] : m_children) QAccessible::deleteAccessibleInterface(id);
    }
    AccessiblePicture(const AccessiblePicture&) = delete;
    AccessiblePicture& operator=(const AccessiblePicture&) = delete;
    [[nodiscard]] int childCount() const override { return static_cast<int>(m_picture->drawing().hots.size()); }
    [[nodiscard]] QAccessibleInterface* child(int index) const override {
        if (index < 0 || index >= childCount()) return nullptr;
        const auto it = m_children.find(index);
        if (it != m_children.end()) return QAccessible::accessibleInterface(it->second);
        auto* made = new AccessibleHot(m_picture, index);
        m_children[index] = QAccessible::registerAccessibleInterface(made);
        return made;
    }
    int indexOfChild(const QAccessibleInterface* wanted) const override {
        for (const auto& [index, id] : m_children)
            if (QAccessible::accessibleInterface(id) == wanted) return index;
        return -1;
    }

  private:
    Picture* m_picture;
    mutable std::map<int, QAccessible::Id> m_children;
};

QAccessibleInterface* make(const QString&, QObject* object) {
    auto* picture = dynamic_cast<Picture*>(object);
    return picture == nullptr ? nullptr : new AccessiblePicture(picture);
}

} // namespace

void installAccessibility() {
    QAccessible::installFactory(make);
}

} // namespace impasto::app
