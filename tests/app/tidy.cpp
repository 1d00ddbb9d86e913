// SPDX-License-Identifier: GPL-3.0-or-later
#include "app/tidy.h"

namespace impasto::app {

void expectTidy(const Drawing& drawing, QSizeF size, const std::string& where) {
    std::vector<const Shape*> texts;
    for (const auto& shape : drawing.shapes)
        if (shape.kind == ShapeKind::Text) texts.push_back(&shape);
    for (std::size_t i = 0; i < texts.size(); ++i) {
        const QRectF a = texts[i]->rect;
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

std::vector<Picture*> picturesInSight(const Driven& d) {
    std::vector<Picture*> out{d.window->easel(), d.window->column(), d.window->path(), d.window->briefBar(),
                              d.window->ribbon()};
    std::erase_if(out, [](const Picture* picture) { return !picture->isVisible(); });
    return out;
}

void expectAllTidy(Driven& d, const std::string& when) {
    for (const QSize size : {QSize(1280, 800), QSize(1024, 640), QSize(2560, 1440)}) {
        d.window->resize(size);
        d.rest();
        for (const auto& station : stations()) {
            d.studio.go(station.id);
            for (const Picture* picture : picturesInSight(d))
                expectTidy(picture->drawing(), QSizeF(picture->size()),
                           when + ", " + std::string(station.id.key) + ", " + picture->objectName().toStdString() +
                               " at " + std::to_string(size.width()));
        }
    }
}

} // namespace impasto::app
