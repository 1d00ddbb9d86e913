// SPDX-License-Identifier: GPL-3.0-or-later
#include "pictures/copy.h"

#include <QtCore/QMimeData>
#include <QtCore/QStringList>
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

QMimeData* copyOf(const Drawing& drawing, const QImage& image) {
    auto* data = new QMimeData;
    data->setText(tableOf(drawing));
    data->setImageData(image);
    return data;
}

} // namespace impasto::app
