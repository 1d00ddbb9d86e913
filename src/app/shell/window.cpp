// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/window.h"

#include "pictures/copy.h"
#include "shell/bars.h"
#include "shell/keys.h"

#include <QtCore/QBuffer>
#include <QtCore/QDir>
#include <QtCore/QFileSystemWatcher>
#include <QtCore/QMimeData>
#include <QtCore/QRandomGenerator>
#include <QtGui/QAction>
#include <QtGui/QClipboard>
#include <QtGui/QDragEnterEvent>
#include <QtGui/QDropEvent>
#include <QtGui/QKeyEvent>
#include <QtWidgets/QApplication>
#include <QtWidgets/QFileDialog>
#include <impasto/base/file.h>

namespace impasto::app {
namespace {

constexpr int briefHeight = 60, pathWidth = 148, columnWidth = 292, messageHeight = 44;
constexpr int wideEnough = 1180; // for easel and column side by side

std::filesystem::path pathOf(const QString& file) {
    return std::filesystem::path(file.toStdString());
}

} // namespace

Window::Window(Studio& studio, const Theme& theme) : m_studio(studio), m_theme(theme) {
    setWindowTitle(QStringLiteral("Impasto"));
    setAcceptDrops(true);
    Picture::Hands easel;
    easel.activate = [this](const QString& id) { activate(id); };
    easel.edited = [this](const QString& id, const QString& text) { m_studio.edited(id, text); };
    easel.step = [this](const QString& id, int steps) { m_studio.stepped(id, steps); };
    easel.drag = [this](const QString& id, QPointF at, DragPhase phase) {
        if (id == QStringLiteral("budget")) dragBudget(at, phase);
        if (id.startsWith(QStringLiteral("trim."))) dragTrim(id, at, phase);
    };
    Picture::Hands ribbon;
    ribbon.activate = easel.activate;
    ribbon.drag = [this](const QString& id, QPointF at, DragPhase phase) { dragRibbon(id, at, phase); };
    m_brief = make(say("Brief"), layoutBriefBar, {easel.activate, {}, {}, {}, {}});
    m_path = make(say("Path"), layoutPath, {easel.activate, {}, {}, {}, {}});
    m_easel = make(say("Easel"), layoutEasel, easel);
    m_column = make(say("Beside the easel"), layoutColumn, {easel.activate, {}, easel.step, easel.edited, {}});
    m_ribbon = make(say("Ribbon"), layoutRibbon, ribbon);
    m_message = make(say("Message"), layoutMessage, {easel.activate, {}, {}, {}, {}});
    m_keys = make(say("Every key"), layoutKeys, {[this](const QString&) { showKeys(); }, {}, {}, {}, {}});
    m_keys->hide();
    m_finder = new Finder([this] { return findables(); }, [this] { focusEasel(); }, this);
    addActions();
    m_studio.onView([this] { refresh(); });
    m_liveTimer.setInterval(50);
    connect(&m_liveTimer, &QTimer::timeout, this, [this] { m_studio.liveTick(); });
    // [ and ] are one step of undo once the keys have rested.
    m_shiftTimer.setSingleShot(true);
    m_shiftTimer.setInterval(700);
    connect(&m_shiftTimer, &QTimer::timeout, this, [this] { m_studio.keepBudget(); });
    setTheme(theme);
    resize(1280, 800);
    refresh();
    focusEasel();
}

Picture* Window::make(const QString& name, std::function<Drawing(const View&, QSizeF)> layout, Picture::Hands hands) {
    return new Picture(
        name, [this, layout = std::move(layout)](QSizeF size) { return layout(m_studio.view(), size); },
        std::move(hands), this);
}

void Window::setTheme(const Theme& theme) {
    m_theme = theme;
    QApplication::setPalette(paletteOf(theme));
    for (Picture* p : {m_brief, m_path, m_easel, m_column, m_ribbon, m_message, m_keys}) p->setTheme(theme);
    m_finder->setTheme(theme);
    update();
}

void Window::place() {
    const int w = width(), h = height();
    const int ribbonHeight = 128;
    const int message = m_studio.view().message.isEmpty() ? 0 : messageHeight;
    const int top = briefHeight, bottom = h - ribbonHeight - message;
    const bool wide = w >= wideEnough;
    m_brief->setGeometry(0, 0, w, briefHeight);
    m_path->setGeometry(0, top, pathWidth, bottom - top);
    m_easel->setGeometry(pathWidth, top, w - pathWidth - (wide ? columnWidth : 0), bottom - top);
    m_column->setGeometry(w - columnWidth, top, columnWidth, bottom - top);
    m_column->setVisible(wide || m_columnOpen);
    if (!wide) m_column->raise();
    m_message->setGeometry(0, bottom, w, messageHeight);
    m_message->setVisible(message > 0);
    m_ribbon->setGeometry(0, h - ribbonHeight, w, ribbonHeight);
    const int kw = std::min(860, w - 60), kh = std::min(472, h - 60);
    m_keys->setGeometry((w - kw) / 2, (h - kh) / 2, kw, kh);
    m_keys->raise();
    const int fw = std::min(620, w - 60), fh = std::min(480, h - 60);
    m_finder->setGeometry((w - fw) / 2, (h - fh) / 2, fw, fh);
    m_finder->raise();
}

void Window::refresh() {
    const View& view = m_studio.view();
    place();
    for (Picture* p : {m_brief, m_path, m_easel, m_column, m_ribbon, m_message}) p->refresh();
    if (view.live.active && !m_liveTimer.isActive()) m_liveTimer.start();
    if (!view.live.active) m_liveTimer.stop();
    if (m_shown != view.station) {
        m_shown = view.station;
        m_columnOpen = false;
        focusEasel();
    }
    const QString name = qs(view.session.name());
    setWindowTitle(name.isEmpty() ? QStringLiteral("Impasto") : name + QStringLiteral(" – Impasto"));
}

void Window::resizeEvent(QResizeEvent*) {
    place();
}

void Window::focusEasel() {
    m_easel->setFocus(Qt::OtherFocusReason);
}

void Window::addActions() {
    const auto add = [this](const QString& text, const QKeySequence& keys, std::function<void()> call) {
        auto* action = new QAction(text, this);
        action->setShortcut(keys);
        connect(action, &QAction::triggered, this, std::move(call));
        addAction(action);
        return action;
    };
    add(say("Undo"), QKeySequence::Undo, [this] { m_studio.undo(); });
    add(say("Redo"), QKeySequence(QStringLiteral("Ctrl+Shift+Z")), [this] { m_studio.redo(); });
    add(say("Primary action"), QKeySequence(QStringLiteral("Shift+Return")),
        [this] { activate(QStringLiteral("primary")); });
    add(say("Read a frame log"), QKeySequence(QStringLiteral("Ctrl+O")), [this] { chooseLogs(); });
    add(say("Look at a frame log before it is read"), QKeySequence(QStringLiteral("Ctrl+Alt+O")), [this] {
        const QString file = QFileDialog::getOpenFileName(this, say("Frame log"));
        if (!file.isEmpty()) m_studio.openReading(pathOf(file));
    });
    add(say("Describe a game"), QKeySequence(QStringLiteral("Ctrl+N")), [this] { m_studio.describeGame(); });
    add(say("Open a game or machine description"), QKeySequence(QStringLiteral("Ctrl+Shift+O")),
        [this] { chooseDescription(); });
    add(say("Practise on a machine and a game drawn at random"), {},
        [this] { m_studio.drawPractice(QRandomGenerator::global()->bounded(1000000U)); });
    add(say("New session"), QKeySequence(QStringLiteral("Ctrl+Shift+N")),
        [this] { activate(QStringLiteral("session.new")); });
    add(say("Why"), QKeySequence(QStringLiteral("F1")), [this] { toggleWhy(); });
    add(say("Find a setting, a run or an action"), QKeySequence(QStringLiteral("Ctrl+F")),
        [this] { m_finder->open(); });
    add(say("Copy the picture and its figures"), QKeySequence::Copy, [this] { copyPicture(); });
    add(say("Save the picture as SVG, PNG or figures"), QKeySequence(QStringLiteral("Ctrl+S")),
        [this] { savePicture(); });
    add(say("Copy the figure in focus"), QKeySequence(QStringLiteral("Ctrl+Shift+C")), [this] { copyFigure(); });
    add(say("Gesso or umber"), QKeySequence(QStringLiteral("Ctrl+T")),
        [this] { setTheme(m_theme.dark ? gesso() : umber()); });
    for (int i = 0; i < stationCount; ++i)
        add(stationName(static_cast<Station>(i)), QKeySequence(QStringLiteral("Ctrl+%1").arg(i + 1)), [this, i] {
            m_studio.go(static_cast<Station>(i));
            focusEasel();
        });
}

std::vector<Findable> Window::findables() {
    const View& view = m_studio.view();
    std::vector<Findable> out;
    if (const auto* game = view.session.game())
        for (const auto& setting : game->settings) {
            const auto level = view.edits().baseline.find(setting.id);
            const QString id = qs(setting.id);
            out.push_back({say("setting"), qs(setting.label),
                           level == view.edits().baseline.end() ? QString() : qs(level->second), [this, id] {
                               const bool measured = !m_studio.view().results->costRuns.empty();
                               m_studio.go(measured ? Station::Layers : Station::Bench);
                               if (measured) m_studio.activate(QStringLiteral("open.") + id);
                               m_easel->focusOn(QStringLiteral("level.") + id);
                           }});
        }
    for (const auto& run : view.session.facts->runs) {
        if (view.edits().hidden.contains(run.id)) continue;
        const auto* figures = view.results->figures(run.id);
        const QString id = QStringLiteral("run.") + qs(run.id.hex());
        out.push_back({say("run"), qs(view.w.runTitle(view.session, run)),
                       figures == nullptr ? QString() : qs(report::fps(figures->summary.average.value())) + say(" fps"),
                       [this, id] {
                           m_studio.go(Station::Runs);
                           m_studio.activate(id);
                           m_easel->focusOn(id);
                       }});
    }
    for (const auto& practice : view.practice)
        out.push_back({say("practice"), (practice.isMachine ? say("Machine: %1") : say("Game: %1")).arg(practice.name),
                       practice.note, [this, file = practice.file] { m_studio.openPractice(file); }});
    for (auto* action : actions())
        out.push_back({say("action"), action->text(), action->shortcut().toString(), [action] { action->trigger(); }});
    return out;
}

void Window::copyPicture() {
    auto* picture = dynamic_cast<Picture*>(focusWidget());
    if (picture == nullptr) picture = m_easel;
    QGuiApplication::clipboard()->setMimeData(
        copyOf(picture->drawing(), picture->grab().toImage(),
               svgOf(picture->drawing(), m_theme, QSizeF(picture->size()), picture->accessibleName())));
    m_studio.say(say("Copied as PNG, as SVG and as tab-separated figures: %1.").arg(picture->accessibleName()));
}

void Window::savePicture() {
    const QString file = QFileDialog::getSaveFileName(this, say("Save the picture"), QStringLiteral("impasto.svg"),
                                                      say("Lines and text (*.svg);;Pixels (*.png);;Figures (*.tsv)"));
    if (!file.isEmpty()) savePictureTo(pathOf(file));
}

void Window::savePictureTo(const std::filesystem::path& file) {
    QByteArray bytes;
    if (file.extension() == ".png") {
        QBuffer buffer(&bytes);
        m_easel->grab().save(&buffer, "PNG");
    } else if (file.extension() == ".tsv") {
        bytes = tableOf(m_easel->drawing()).toUtf8();
    } else {
        bytes = svgOf(m_easel->drawing(), m_theme, QSizeF(m_easel->size()), m_easel->accessibleName());
    }
    const auto saved = writeFileAtomically(file, {bytes.constData(), static_cast<std::size_t>(bytes.size())});
    m_studio.say(saved ? say("Saved %1.").arg(qs(file.string())) : qs(m_studio.view().w.error(saved.error()).all()));
}

void Window::copyFigure() {
    const auto* picture = dynamic_cast<Picture*>(focusWidget());
    const Hot* hot = picture == nullptr ? nullptr : picture->focusedHot();
    if (hot == nullptr) return m_studio.say(say("No figure has the focus. Tab and the arrows move it."));
    QGuiApplication::clipboard()->setText(hot->name);
    m_studio.say(say("Copied: %1.").arg(hot->name));
}

void Window::activate(const QString& id) {
    if (id == QStringLiteral("start.log") || id == QStringLiteral("order.log")) return chooseLogs();
    if (id == QStringLiteral("order.watch")) {
        const QString folder = QFileDialog::getExistingDirectory(this, say("The folder your tool writes logs to"));
        if (!folder.isEmpty()) watchFolder(folder);
        return;
    }
    if (id == QStringLiteral("practice.find")) return m_finder->open(say("practi"));
    m_studio.activate(id);
    const bool edits = m_easel->editor() != nullptr || m_column->editor() != nullptr;
    if (id == QStringLiteral("primary") && !edits) focusEasel();
}

void Window::dragTrim(const QString& id, QPointF at, DragPhase phase) {
    const auto time = runsTime(m_studio.view(), QSizeF(m_easel->size()));
    if (phase == DragPhase::Cancel || !time) return m_studio.dropTrimEdge();
    if (phase == DragPhase::Begin) return;
    const double ms = std::clamp(time->value(at.x()), time->fromValue, time->toValue);
    m_studio.dragTrim(id.section(QLatin1Char('.'), 1, 1).toUInt(), id.endsWith(QStringLiteral("begin")), ms,
                      phase == DragPhase::End);
}

void Window::dragBudget(QPointF at, DragPhase phase) {
    if (phase == DragPhase::Cancel) return m_studio.dropBudget();
    if (phase == DragPhase::End) return m_studio.keepBudget();
    if (phase == DragPhase::Begin) return;
    const double budget = layersScale(m_studio.view(), QSizeF(m_easel->size())).value(at.y());
    if (budget > 0.8) m_studio.budgetPreview(Fps(std::round(1000 / budget)));
}

void Window::dragRibbon(const QString& id, QPointF at, DragPhase phase) {
    const auto time = ribbonTime(m_studio.view(), QSizeF(m_ribbon->size()));
    if (id != QStringLiteral("ribbon.plot") || !time) return;
    const double ms = std::clamp(time->value(at.x()), time->fromValue, time->toValue);
    if (phase == DragPhase::Begin) m_ribbonFrom = ms;
    if (phase == DragPhase::Cancel) return m_studio.select({}, false);
    if (phase == DragPhase::Begin) return;
    const double from = std::min(m_ribbonFrom, ms), to = std::max(m_ribbonFrom, ms);
    if (to - from < 50) return m_studio.select({}, false);
    m_studio.select(TimeSpan{from, to}, m_studio.view().zoomed);
}

void Window::shiftBudget(int by) {
    const View& view = m_studio.view();
    if (!view.edits().brief) return;
    m_studio.budgetPreview(Fps(std::round(view.target().value()) + by));
    m_shiftTimer.start();
}

void Window::keyPressEvent(QKeyEvent* event) {
    const View& view = m_studio.view();
    switch (event->key()) {
    case Qt::Key_Space:
        return activate(QStringLiteral("primary"));
    case Qt::Key_R:
        if (view.step.runs > 0) activate(QStringLiteral("primary"));
        return;
    case Qt::Key_N:
        return m_studio.nextHitch();
    case Qt::Key_C:
        return m_studio.compareWith();
    case Qt::Key_Z:
        return m_studio.select(view.span, true);
    case Qt::Key_T:
        return m_studio.trim();
    case Qt::Key_M:
        return m_studio.markFollowed();
    case Qt::Key_V:
        return m_studio.nextPicture();
    case Qt::Key_L:
        return m_studio.toggleLogScale();
    case Qt::Key_K:
        return m_studio.nextTrack();
    case Qt::Key_0:
        return m_studio.select({}, false);
    case Qt::Key_BracketLeft:
        return shiftBudget(-1);
    case Qt::Key_BracketRight:
        return shiftBudget(1);
    case Qt::Key_Question:
        return showKeys();
    case Qt::Key_Escape:
        if (m_keys->isVisible()) return showKeys();
        if (view.live.active) return m_studio.cancelRecording();
        if (view.preview) {
            m_shiftTimer.stop();
            return m_studio.dropBudget();
        }
        if (!view.whyTopic.isEmpty()) return m_studio.why({});
        if (view.reading) return m_studio.activate(QStringLiteral("reading.leave"));
        if (view.importing.logs > 0) return m_studio.cancelImport();
        if (!view.openSetting.isEmpty()) return m_studio.activate(QStringLiteral("open."));
        if (!view.message.isEmpty()) return m_studio.say({});
        return;
    default:
        QWidget::keyPressEvent(event);
    }
}

void Window::showKeys() {
    m_keys->setVisible(!m_keys->isVisible());
    m_keys->refresh();
    if (m_keys->isVisible())
        m_keys->setFocus(Qt::TabFocusReason);
    else
        focusEasel();
}

void Window::toggleWhy() {
    const View& view = m_studio.view();
    if (width() < wideEnough && !m_columnOpen) {
        m_columnOpen = true;
        return refresh();
    }
    if (!view.whyTopic.isEmpty()) return m_studio.why({});
    const QString id = m_column->hasFocus() ? m_column->focusedId() : m_easel->focusedId();
    QString topic = QStringLiteral("average");
    if (id.startsWith(QStringLiteral("slab.")))
        topic = QStringLiteral("cost.") + id.section(QLatin1Char('.'), 2);
    else if (id.startsWith(QStringLiteral("open.")))
        topic = QStringLiteral("cost.") + id.section(QLatin1Char('.'), 1);
    else if (id.startsWith(QStringLiteral("cap.")))
        topic = id;
    else if (id.startsWith(QStringLiteral("why.")))
        topic = id.section(QLatin1Char('.'), 1);
    else if (view.station == Station::Layers)
        topic = QStringLiteral("choice");
    else if (view.station == Station::Pace)
        topic = QStringLiteral("cap");
    else if (view.station == Station::Proof)
        topic = QStringLiteral("low");
    m_columnOpen = width() < wideEnough;
    m_studio.why(topic);
}

void Window::chooseLogs() {
    const QStringList files = QFileDialog::getOpenFileNames(
        this, say("Frame logs"), {},
        say("Frame logs (*.csv *.tsv *.txt *.log *.json *.jsonl *.gz *.zst);;All files (*)"));
    std::vector<std::filesystem::path> paths;
    for (const auto& file : files) paths.push_back(pathOf(file));
    if (!paths.empty()) m_studio.importLogs(std::move(paths));
}

void Window::openDescription(const std::filesystem::path& file) {
    if (const auto done = m_studio.openDescription(file); !done)
        m_studio.say(qs(m_studio.view().w.error(done.error()).all()));
}

void Window::chooseDescription() {
    const QString file =
        QFileDialog::getOpenFileName(this, say("A game or a machine"), {}, say("Descriptions (*.toml)"));
    if (!file.isEmpty()) openDescription(pathOf(file));
}

void Window::dragEnterEvent(QDragEnterEvent* event) {
    if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void Window::dropEvent(QDropEvent* event) {
    std::vector<std::filesystem::path> logs;
    for (const auto& url : event->mimeData()->urls()) {
        if (!url.isLocalFile()) continue;
        const QString file = url.toLocalFile();
        if (file.endsWith(QStringLiteral(".toml"), Qt::CaseInsensitive))
            openDescription(pathOf(file));
        else
            logs.push_back(pathOf(file));
    }
    if (!logs.empty()) m_studio.importLogs(std::move(logs));
    event->acceptProposedAction();
}

void Window::watchFolder(const QString& folder) {
    delete m_watcher;
    m_watcher = new QFileSystemWatcher({folder}, this);
    m_watched = QDir(folder).entryList(QDir::Files);
    connect(m_watcher, &QFileSystemWatcher::directoryChanged, this, &Window::watchedFolderChanged);
    m_studio.say(say("Watching %1. The next log that appears there answers the order.").arg(folder));
}

void Window::watchedFolderChanged(const QString& folder) {
    std::vector<std::filesystem::path> fresh;
    for (const auto& name : QDir(folder).entryList(
             {QStringLiteral("*.csv"), QStringLiteral("*.tsv"), QStringLiteral("*.txt"), QStringLiteral("*.log"),
              QStringLiteral("*.gz"), QStringLiteral("*.zst"), QStringLiteral("*.json"), QStringLiteral("*.jsonl")},
             QDir::Files, QDir::Time | QDir::Reversed)) {
        if (m_watched.contains(name)) continue;
        m_watched.append(name);
        fresh.push_back(pathOf(folder + QLatin1Char('/') + name));
    }
    // The one that is being written is shown as it grows; several at once are copies of finished ones.
    if (fresh.size() == 1 && !m_studio.view().follow.active)
        m_studio.follow(fresh.front());
    else if (!fresh.empty())
        m_studio.importLogs(std::move(fresh));
}

} // namespace impasto::app
