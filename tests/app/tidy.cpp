// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/tidy.h"

namespace impasto::app {

void expectTidy(const Drawing& drawing, QSizeF size, const std::string& where) {
    for (const auto& hot : drawing.hots) // a promise that the mouse keeps
        EXPECT_TRUE(!hot.hint.contains(QStringLiteral("drag"), Qt::CaseInsensitive) || hot.role == Role::Line ||
                    hot.role == Role::Edge || hot.role == Role::Plot)
            << where << ": \"" << hot.name.toStdString() << "\" cannot be dragged";
    std::vector<const Shape*> texts;
    for (const auto& shape : drawing.shapes)
        if (shape.kind == ShapeKind::Text) texts.push_back(&shape);
    for (std::size_t i = 0; i < texts.size(); ++i) {
        const QRectF a = texts[i]->rect;
        if (texts[i]->text.endsWith(QChar(0x2026)))
            for (const auto& hot : drawing.hots)
                EXPECT_TRUE(hot.role != Role::Button || hot.name.size() > 12 || !hot.rect.contains(a.center()) ||
                            !hot.name.startsWith(texts[i]->text.chopped(1)) || hot.name == texts[i]->text)
                    << where << ": the button \"" << hot.name.toStdString() << "\" is cut";
        EXPECT_TRUE(a.left() >= -0.5 && a.top() >= -0.5 && a.right() <= size.width() + 0.5 &&
                    a.bottom() <= size.height() + 0.5)
            << where << ": \"" << texts[i]->text.toStdString() << "\" leaves the picture at " << a.left() << ","
            << a.top();
        for (std::size_t k = i + 1; k < texts.size(); ++k) {
            const QRectF both = a.adjusted(0, 2, 0, -2).intersected(texts[k]->rect.adjusted(0, 2, 0, -2));
            EXPECT_TRUE(both.width() <= 1 || both.height() <= 1)
                << where << ": \"" << texts[i]->text.toStdString() << "\" over \"" << texts[k]->text.toStdString()
                << "\"";
        }
    }
}

void overEveryPicture(Driven& d, const std::string& when, const std::vector<QSize>& sizes,
                      const std::function<void(const Picture&, const std::string& where)>& look) {
    for (const QSize size : sizes) {
        d.window->resize(size);
        d.rest();
        for (const auto& station : stations()) {
            d.studio.go(station.id);
            for (const Picture* picture :
                 {d.window->easel(), d.window->column(), d.window->path(), d.window->briefBar(), d.window->ribbon()})
                if (picture->isVisible())
                    look(*picture, fmt::format("{}, {}, {} at {}", when, station.id.key,
                                               picture->objectName().toStdString(), size.width()));
        }
    }
}

void expectAllTidy(Driven& d, const std::string& when) {
    overEveryPicture(d, when, {QSize(1280, 800), QSize(1024, 640), QSize(2560, 1440)},
                     [](const Picture& picture, const std::string& where) {
                         expectTidy(picture.drawing(), QSizeF(picture.size()), where);
                     });
}

void lookOnTheWay(Driven& d, const std::function<void(const std::string& when)>& look) {
    look("empty");
    d.studio.startPractice();
    d.rest();
    look("before the first run");
    ASSERT_TRUE(d.spaceUntil(path::Action::RecordCosts));
    look("after the baseline");
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    d.studio.activate(QStringLiteral("open.shadows"));
    look("before the choice");
    ASSERT_TRUE(d.spaceUntil(path::Action::Done));
    look("kept");
}

} // namespace impasto::app
