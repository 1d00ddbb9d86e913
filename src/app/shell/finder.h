// SPDX-License-Identifier: GPL-3.0-or-later
// Finds settings, runs and actions by a few letters of their names, over the window.
#pragma once

#include "pictures/picture.h"
#include "stations/station.h"

namespace impasto::app {

/// Those whose kind and name hold every word of the text, those that begin with it first; otherwise in their order.
std::vector<Findable> matching(const std::vector<Findable>& all, const QString& text);

class Finder : public QWidget {
  public:
    /// `closed` is told when it leaves the window to the others again.
    Finder(std::function<std::vector<Findable>()> collect, std::function<void()> closed, QWidget* parent);
    void setTheme(const Theme& theme);
    /// With a text to begin with.
    void open(const QString& text = {});
    [[nodiscard]] QLineEdit* edit() const { return m_edit; }
    [[nodiscard]] Picture* list() const { return m_list; }

  protected:
    void resizeEvent(QResizeEvent* event) override;
    void paintEvent(QPaintEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    Drawing layout(QSizeF size) const;
    void filter();
    void mark(int index);
    void pick(int index);
    void leave();

    std::function<std::vector<Findable>()> m_collect;
    std::function<void()> m_closed;
    Theme m_theme;
    std::vector<Findable> m_all, m_found;
    int m_marked = 0;
    QLineEdit* m_edit;
    Picture* m_list;
};

} // namespace impasto::app
