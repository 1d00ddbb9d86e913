// SPDX-License-Identifier: GPL-3.0-or-later
// The budget line in the hand: the solver itself runs for the newest target, and the drag is one step of undo.
#include "app/harness.h"

#include <QtTest/QTest>

using namespace impasto;
using namespace impasto::app;

TEST(DragTest, TheChoiceIsSolvedAgainWhileMoving) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    Picture* easel = d.window->easel();
    const Hot* line = easel->drawing().hot(QStringLiteral("budget"));
    ASSERT_NE(line, nullptr);
    const QPoint start(60 + 20, line->rect.center().toPoint().y());
    const auto steps = d.studio.store().depth();
    QTest::mousePress(easel, Qt::LeftButton, {}, start);
    const Scale ms = layersScale(d.view(), QSizeF(easel->size()));
    for (const double target : {55.0, 66.0, 72.0}) {
        const auto calls = d.studio.solverCalls();
        QTest::mouseMove(easel, QPoint(start.x(), static_cast<int>(std::lround(ms.px(1000 / target)))));
        d.rest();
        ASSERT_TRUE(d.view().preview);
        EXPECT_NEAR(d.view().preview->target.value(), target, 1.01);
        EXPECT_GT(d.studio.solverCalls(), calls);
        const auto ground = results::groundOf(*d.view().results);
        const auto fresh = choose::propose(*ground, d.view().preview->target);
        ASSERT_EQ(fresh.has_value(), d.view().preview->proposal.has_value());
        if (fresh) {
            EXPECT_EQ(fresh->values, d.view().preview->proposal->values);
        }
        EXPECT_EQ(d.view().edits().goal.brief->target, Fps(60)) << "the session knows nothing of a drag";
    }
    const Fps last = d.view().preview->target;
    QTest::mouseRelease(easel, Qt::LeftButton, {},
                        QPoint(start.x(), static_cast<int>(std::lround(ms.px(1000 / 72.0)))));
    d.rest();
    EXPECT_EQ(d.view().edits().goal.brief->target, last);
    EXPECT_EQ(d.studio.store().depth(), steps + 1);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(60));
}

TEST(DragTest, EscapePutsTheLineBackAndBracketsMoveIt) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    // Pressed without letting the event loop run: the keys must not come to rest between.
    const auto press = [&](Qt::Key key) { QTest::keyClick(d.window->easel(), key); };
    press(Qt::Key_BracketRight);
    press(Qt::Key_BracketRight);
    ASSERT_TRUE(d.view().preview);
    EXPECT_EQ(d.view().preview->target, Fps(62));
    press(Qt::Key_Escape);
    EXPECT_FALSE(d.view().preview);
    EXPECT_EQ(d.view().edits().goal.brief->target, Fps(60));
    d.rest();
    const auto depth = d.studio.store().depth();
    press(Qt::Key_BracketLeft);
    press(Qt::Key_BracketLeft);
    ASSERT_TRUE(QTest::qWaitFor([&] { return d.view().edits().goal.brief->target == Fps(58); }, 60000));
    EXPECT_EQ(d.studio.store().depth(), depth + 1) << "one step of undo once the keys have rested";
}

TEST(DragTest, TheRibbonSelectsASpan) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    Picture* ribbon = d.window->ribbon();
    const QRectF plot = ribbon->drawing().hot(QStringLiteral("ribbon.plot"))->rect;
    QTest::mousePress(ribbon, Qt::LeftButton, {}, QPoint(static_cast<int>(plot.left() + 100), 60));
    QTest::mouseMove(ribbon, QPoint(static_cast<int>(plot.left() + 300), 60));
    QTest::mouseRelease(ribbon, Qt::LeftButton, {}, QPoint(static_cast<int>(plot.left() + 300), 60));
    ASSERT_TRUE(d.view().span);
    EXPECT_NEAR(d.view().span->toMs - d.view().span->fromMs, 200 / plot.width() * 75000, 2500);
}
