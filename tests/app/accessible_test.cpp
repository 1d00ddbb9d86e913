// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/harness.h"

#include <QtGui/QAccessible>
#include <set>

using namespace impasto;
using namespace impasto::app;

TEST(AccessibleTest, EveryChildOfEveryStationHasANameAndARole) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    for (const auto& station : stations()) {
        d.studio.go(station.id);
        for (Picture* picture :
             {d.window->easel(), d.window->column(), d.window->path(), d.window->briefBar(), d.window->ribbon()}) {
            QAccessibleInterface* whole = QAccessible::queryAccessibleInterface(picture);
            ASSERT_NE(whole, nullptr);
            EXPECT_FALSE(whole->text(QAccessible::Name).isEmpty());
            ASSERT_EQ(whole->childCount(), static_cast<int>(picture->drawing().hots.size()));
            for (int i = 0; i < whole->childCount(); ++i) {
                QAccessibleInterface* child = whole->child(i);
                ASSERT_NE(child, nullptr);
                EXPECT_FALSE(child->text(QAccessible::Name).isEmpty())
                    << picture->drawing().hots[static_cast<std::size_t>(i)].id.toStdString();
                EXPECT_NE(child->role(), QAccessible::NoRole);
                EXPECT_FALSE(child->rect().isEmpty());
                EXPECT_EQ(whole->indexOfChild(child), i);
            }
        }
    }
    d.studio.go(StationId{"layers"});
    QAccessibleInterface* easel = QAccessible::queryAccessibleInterface(d.window->easel());
    int slabs = 0;
    for (int i = 0; i < easel->childCount(); ++i) slabs += easel->child(i)->role() == QAccessible::ListItem ? 1 : 0;
    EXPECT_GE(slabs, 6) << "the slabs are reachable as children";
}

TEST(AccessibleTest, TabReachesEveryFocusableShape) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    Picture* easel = d.window->easel();
    std::size_t wanted = 0;
    for (const auto& hot : easel->drawing().hots) wanted += hot.focusable ? 1 : 0;
    easel->focusOn(easel->drawing().hots.front().id);
    std::set<QString> met{easel->focusedId()};
    for (std::size_t i = 0; i + 1 < wanted; ++i) {
        d.key(Qt::Key_Tab);
        met.insert(easel->focusedId());
    }
    EXPECT_EQ(met.size(), wanted);
    EXPECT_TRUE(easel->hasFocus());
    d.key(Qt::Key_Tab);
    EXPECT_FALSE(easel->hasFocus()) << "and then leaves the picture";
}

TEST(AccessibleTest, WhatTheMouseCanPressAScreenReaderCan) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    const auto actionsOf = [&](Picture* picture, const QString& id) -> QAccessibleActionInterface* {
        auto* whole = QAccessible::queryAccessibleInterface(picture);
        const auto& hots = picture->drawing().hots;
        for (std::size_t i = 0; i < hots.size(); ++i)
            if (hots[i].id == id) return whole->child(static_cast<int>(i))->actionInterface();
        return nullptr;
    };
    auto* station = actionsOf(d.window->path(), QStringLiteral("station.brief"));
    ASSERT_NE(station, nullptr);
    EXPECT_EQ(station->actionNames(), QStringList{QAccessibleActionInterface::pressAction()});
    station->doAction(QAccessibleActionInterface::pressAction());
    EXPECT_EQ(d.view().station, StationId{"brief"});
    auto* target = actionsOf(d.window->easel(), QStringLiteral("brief.target"));
    ASSERT_NE(target, nullptr);
    const auto before = d.view().target();
    target->doAction(QAccessibleActionInterface::increaseAction());
    EXPECT_GT(d.view().target(), before);
    target->doAction(QAccessibleActionInterface::pressAction());
    EXPECT_NE(d.window->easel()->editor(), nullptr) << "a value is typed";
    d.key(Qt::Key_Escape);
    auto* primary = actionsOf(d.window->briefBar(), QStringLiteral("primary"));
    ASSERT_NE(primary, nullptr);
    const auto revision = d.view().session.revision;
    primary->doAction(QAccessibleActionInterface::pressAction());
    d.rest();
    EXPECT_GT(d.view().session.revision, revision);
}
