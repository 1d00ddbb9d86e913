// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/copy.h"

#include "pictures/paint.h"

#include <QtCore/QBuffer>
#include <QtCore/QMimeData>
#include <QtCore/QStringList>
#include <QtGui/QPainter>
#include <QtSvg/QSvgGenerator>
#include <algorithm>

namespace impasto::app {

QString tableOf(const Drawing& drawing) {
    std::vector<const Shape*> texts;
    for (const auto& shape : drawing.shapes)
        if (shape.kind == ShapeKind::Text && !shape.text.trimmed().isEmpty()) texts.push_back(&shape);
    std::stable_sort(texts.begin(), texts.end(),
                     [](const Shape* a, const Shape* b) { return a->rect.center().y() < b->rect.center().y(); });
    QStringList lines;
    for (auto begin = texts.begin(); begin != texts.end();) {
        // A line reaches as far as its first text is high: figures of another size on it stand a little off.
        const double reach = (*begin)->rect.center().y() + 0.4 * (*begin)->rect.height();
        const auto end = std::find_if(begin, texts.end(), [&](const Shape* s) { return s->rect.center().y() > reach; });
        std::stable_sort(begin, end, [](const Shape* a, const Shape* b) { return a->rect.left() < b->rect.left(); });
        QStringList cells;
        for (auto it = begin; it != end; ++it) cells.append((*it)->text.simplified());
        lines.append(cells.join(QLatin1Char('\t')));
        begin = end;
    }
    return lines.join(QLatin1Char('\n')) + QLatin1Char('\n');
}

QByteArray svgOf(const Drawing& drawing, const Theme& theme, QSizeF size, const QString& title) {
    QBuffer buffer;
    QSvgGenerator generator;
    generator.setOutputDevice(&buffer);
    generator.setSize(size.toSize());
    generator.setViewBox(QRectF(QPointF(0, 0), size));
    generator.setResolution(96); // one unit a pixel
    generator.setTitle(title);
    QPainter painter(&generator);
    painter.fillRect(QRectF(QPointF(0, 0), size), theme.of(Ink::Ground));
    paint(painter, drawing, theme, nullptr);
    painter.end();
    return buffer.data();
}

QMimeData* copyOf(const QString& table, const QImage& image, const QByteArray& svg) {
    auto* data = new QMimeData;
    data->setText(table);
    data->setImageData(image);
    data->setData(QStringLiteral("image/svg+xml"), svg);
    return data;
}

} // namespace impasto::app
