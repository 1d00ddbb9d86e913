// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/finder.h"

#include <QtGui/QKeyEvent>
#include <QtGui/QPainter>
#include <QtWidgets/QLineEdit>
#include <algorithm>

namespace impasto::app {
namespace {

constexpr double rowHeight = 28;
const QString rowPrefix = QStringLiteral("found.");

} // namespace

std::vector<Findable> matching(const std::vector<Findable>& all, const QString& text) {
    const QStringList words = text.split(QLatin1Char(' '), Qt::SkipEmptyParts);
    std::vector<Findable> out;
    for (const auto& f : all) {
        const QString in = f.kind + QLatin1Char(' ') + f.name;
        if (std::all_of(words.begin(), words.end(),
                        [&](const QString& word) { return in.contains(word, Qt::CaseInsensitive); }))
            out.push_back(f);
    }
    std::stable_partition(out.begin(), out.end(),
                          [&](const Findable& f) { return f.name.startsWith(text.trimmed(), Qt::CaseInsensitive); });
    return out;
}

Finder::Finder(std::function<std::vector<Findable>()> collect, std::function<void()> closed, QWidget* parent)
    : QWidget(parent), m_collect(std::move(collect)), m_closed(std::move(closed)), m_theme(gesso()),
      m_edit(new QLineEdit(this)) {
    Picture::Hands hands;
    hands.activate = [this](const QString& id) { pick(id.mid(rowPrefix.size()).toInt()); };
    m_list = new Picture(
        app::say("Found"), [this](QSizeF size) { return layout(size); }, std::move(hands), this);
    m_edit->setAccessibleName(app::say("Find a setting, a run or an action"));
    m_edit->setPlaceholderText(app::say("a setting, a run or an action"));
    m_edit->setFont(fontOf(Type::Value));
    m_edit->setTextMargins(6, 0, 6, 0);
    m_edit->installEventFilter(this);
    connect(m_edit, &QLineEdit::textChanged, this, [this] { filter(); });
    hide();
}

void Finder::setTheme(const Theme& theme) {
    m_theme = theme;
    m_list->setTheme(theme);
    update();
}

void Finder::open(const QString& text) {
    m_all = m_collect();
    m_edit->setText(text);
    filter();
    show();
    raise();
    m_edit->setFocus();
}

void Finder::leave() {
    hide();
    m_closed();
}

void Finder::filter() {
    m_found = matching(m_all, m_edit->text());
    mark(0);
}

void Finder::mark(int index) {
    m_marked = std::clamp(index, 0, std::max(0, static_cast<int>(m_found.size()) - 1));
    m_list->refresh();
    m_list->focusOn(rowPrefix + QString::number(m_marked));
}

void Finder::pick(int index) {
    if (index < 0 || index >= static_cast<int>(m_found.size())) return;
    const auto go = m_found[static_cast<std::size_t>(index)].go;
    leave();
    go();
}

Drawing Finder::layout(QSizeF size) const {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(0, 0), size), Ink::Paper);
    if (m_found.empty()) {
        sheet.text(10, 8, app::say("Nothing here has this name."), Type::Body, Ink::Muted);
        return sheet.take();
    }
    const int rows = std::max(1, static_cast<int>(size.height() / rowHeight));
    const int first = std::clamp(m_marked - rows + 1, 0, std::max(0, static_cast<int>(m_found.size()) - rows));
    for (int i = first; i < std::min(static_cast<int>(m_found.size()), first + rows); ++i) {
        const auto& f = m_found[static_cast<std::size_t>(i)];
        const QRectF r(0, (i - first) * rowHeight, size.width(), rowHeight);
        if (i == m_marked) sheet.rect(r.adjusted(1, 1, -1, -1), Ink::Ground, Ink::Ink, 1.5);
        sheet.text(10, r.top() + 6, f.kind, Type::Small, Ink::Muted, Align::Left, 76);
        sheet.text(92, r.top() + 5, f.name, Type::Body, Ink::Ink, Align::Left, size.width() - 280);
        sheet.text(size.width() - 10, r.top() + 6, f.note, Type::Small, Ink::Muted, Align::Right, 170);
        Hot h;
        h.id = rowPrefix + QString::number(i);
        h.name = f.kind + QLatin1Char(' ') + f.name;
        h.role = Role::Row;
        h.rect = r;
        sheet.hot(h);
    }
    return sheet.take();
}

void Finder::resizeEvent(QResizeEvent*) {
    m_edit->setGeometry(18, 48, width() - 36, 32);
    m_list->setGeometry(18, 90, width() - 36, height() - 108);
}

void Finder::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), m_theme.of(Ink::Paper));
    painter.setPen(QPen(m_theme.of(Ink::Ink), 1.5));
    painter.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
    painter.setFont(fontOf(Type::Title));
    painter.drawText(QRect(20, 12, width() - 40, 30), Qt::AlignLeft | Qt::AlignVCenter, app::say("Find"));
}

bool Finder::eventFilter(QObject* watched, QEvent* event) {
    if (watched != m_edit || event->type() != QEvent::KeyPress) return QWidget::eventFilter(watched, event);
    switch (static_cast<QKeyEvent*>(event)->key()) {
    case Qt::Key_Down:
        mark(m_marked + 1);
        return true;
    case Qt::Key_Up:
        mark(m_marked - 1);
        return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
        pick(m_marked);
        return true;
    case Qt::Key_Escape:
        leave();
        return true;
    default:
        return QWidget::eventFilter(watched, event);
    }
}

} // namespace impasto::app
