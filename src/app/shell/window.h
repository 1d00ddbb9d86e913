// SPDX-License-Identifier: GPL-3.0-or-later
// The window: brief, path, easel, column, ribbon. It shows the studio's view and hands every press to it.
#pragma once

#include "pictures/picture.h"
#include "shell/finder.h"
#include "shell/studio.h"

#include <QtCore/QSettings>
#include <QtCore/QTimer>
#include <QtWidgets/QWidget>
#include <map>

namespace impasto::app {

class Window : public QWidget {
  public:
    Window(Studio& studio, const Theme& theme);

    void setTheme(const Theme& theme);
    [[nodiscard]] bool isDark() const { return m_theme.dark; }
    [[nodiscard]] Picture* easel() const { return m_easel; }
    [[nodiscard]] Picture* column() const { return m_column; }
    [[nodiscard]] Picture* briefBar() const { return m_brief; }
    [[nodiscard]] Picture* path() const { return m_path; }
    [[nodiscard]] Picture* ribbon() const { return m_ribbon; }
    [[nodiscard]] Finder* finder() const { return m_finder; }
    /// The easel, by the file's ending: .svg, .png or .tsv.
    void savePictureTo(const std::filesystem::path& file);
    void watchFolder(const QString& folder);
    /// Size, theme and the last folder as they were left, and kept in this file from now on.
    void remember(const std::filesystem::path& file);
    enum class Unsaved { Stay, Discard, Retry, Elsewhere };
    /// Asked before work is lost by closing or by opening another session. A message box, where nothing else is set.
    std::function<Unsaved(const QString& why)> askUnsaved;
    /// Where the session or a description is to be saved; empty: nowhere. A file dialog, where nothing else is set.
    std::function<QString()> askWhere;
    /// Whether so many logs at once are to be read. A message box, where nothing else is set.
    std::function<bool(std::size_t logs)> askMany;

  protected:
    void closeEvent(QCloseEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;

  private:
    Picture* make(const QString& name, std::function<Drawing(const View&, QSizeF)> layout, Picture::Hands hands = {});
    void refresh();
    void place();
    void addActions();
    void activate(const QString& id);
    void dragRibbon(const QString& id, QPointF at, DragPhase phase);
    Unsaved unsaved();
    bool mayLeave();
    void saveElsewhere();
    /// What is described of it, whole, to be opened or dropped elsewhere.
    void saveDescription(bool ofGame);
    void takeLogs(std::vector<std::filesystem::path> logs);
    void chooseLogs();
    void chooseReading();
    void chooseFolder();
    void chooseDescription();
    void openDescription(const std::filesystem::path& file);
    void shiftBudget(int by);
    void focusEasel();
    void showKeys();
    void escape();
    void toggleWhy();
    void openAsked();
    void closeOnceSaved();
    std::vector<Findable> findables();
    void copyPicture();
    [[nodiscard]] QString easelTable() const; // of what the station in view shows
    void savePicture();
    void copyFigure();
    void lookAtFolder();
    /// The folder that files were taken from or written to last.
    [[nodiscard]] QString lastFolder() const;
    void noteFolder(const QString& file);

    Studio& m_studio;
    Theme m_theme;
    Picture *m_brief, *m_path, *m_easel, *m_column, *m_ribbon, *m_message, *m_standing, *m_keys;
    Finder* m_finder;
    std::unique_ptr<QSettings> m_memory;                          // none: nothing is remembered
    QTimer m_liveTimer, m_shiftTimer, m_watchTimer, m_closeTimer; // the last: closes once all is saved
    StationId m_shown;
    int m_restingTicks = 0;    // of the timer that closes
    bool m_columnOpen = false; // over the easel, where the window is too narrow for both
    double m_ribbonFrom = 0;
    QString m_watchedFolder;
    std::map<QString, std::pair<qint64, qint64>> m_watched; // its logs: size and time of the last change
};

} // namespace impasto::app
