// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/window.h"

#include "shell/bars.h"
#include "shell/keys.h"
#include "stations/bench/bench.h"
#include "stations/why.h"

#include <QtCore/QRandomGenerator>
#include <QtGui/QAction>
#include <QtGui/QKeyEvent>
#include <QtWidgets/QApplication>
#include <QtWidgets/QMessageBox>
#include <QtWidgets/QPushButton>
#include <cmath>

namespace impasto::app {
namespace {

constexpr int briefHeight = 60, standingHeight = 28, pathWidth = 148, columnWidth = 292, messageHeight = 44;
constexpr int wideEnough = 1180; // for easel and column side by side

} // namespace

Window::Window(Studio& studio, const Theme& theme) : m_studio(studio), m_theme(theme) {
    setWindowTitle(QStringLiteral("Impasto"));
    setAcceptDrops(true);
    Picture::Hands easel;
    easel.activate = [this](const QString& id) { activate(id); };
    easel.edited = [this](const QString& id, const QString& text) { m_studio.edited(id, text); };
    easel.step = [this](const QString& id, int steps) { m_studio.stepped(id, steps); };
    easel.drag = [this](const QString& id, QPointF at, DragPhase phase) {
        m_studio.dragged(id, at, phase, QSizeF(m_easel->size()));
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
    m_standing = make(say("State"), layoutStanding, {easel.activate, {}, {}, {}, {}});
    m_keys = make(say("Keyboard shortcuts"), layoutKeys, {[this](const QString&) { showKeys(); }, {}, {}, {}, {}});
    m_keys->hide();
    m_finder = new Finder([this] { return findables(); }, [this] { focusEasel(); }, this);
    addActions();
    m_studio.onView([this] { refresh(); });
    m_studio.mayLeave = [this] { return mayLeave(); };
    m_liveTimer.setInterval(50);
    connect(&m_liveTimer, &QTimer::timeout, this, [this] { m_studio.liveTick(); });
    m_watchTimer.setInterval(500);
    m_closeTimer.setInterval(20);
    connect(&m_closeTimer, &QTimer::timeout, this, [this] { closeOnceSaved(); });
    connect(&m_watchTimer, &QTimer::timeout, this, [this] { lookAtFolder(); });
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
    for (Picture* p : {m_brief, m_path, m_easel, m_column, m_ribbon, m_message, m_standing, m_keys}) p->setTheme(theme);
    m_finder->setTheme(theme);
    update();
}

void Window::place() {
    const int w = width(), h = height();
    const int ribbonHeight = 128;
    const int message = m_studio.view().message.isEmpty() ? 0 : messageHeight;
    const int standing = m_studio.view().notSaved.isEmpty() ? 0 : standingHeight;
    const int top = standing + briefHeight, bottom = h - ribbonHeight - message;
    const bool wide = w >= wideEnough;
    m_studio.setNarrow(!wide);
    m_standing->setGeometry(0, 0, w, standingHeight);
    m_standing->setVisible(standing > 0);
    m_brief->setGeometry(0, standing, w, briefHeight);
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
    for (Picture* p : {m_brief, m_path, m_easel, m_column, m_ribbon, m_message, m_standing}) p->refresh();
    if (view.live.active && !m_liveTimer.isActive()) m_liveTimer.start();
    if (!view.live.active) m_liveTimer.stop();
    if (m_shown != view.station) {
        m_shown = view.station;
        m_columnOpen = false;
        focusEasel();
    }
    if (!view.ask.isEmpty()) openAsked();
    const QString name = qs(view.session.name());
    setWindowTitle(name.isEmpty() ? QStringLiteral("Impasto") : name + QStringLiteral(" – Impasto"));
}

void Window::resizeEvent(QResizeEvent*) {
    place();
}

void Window::remember(const std::filesystem::path& file) {
    m_memory = std::make_unique<QSettings>(qs(file.string()), QSettings::IniFormat);
    const QSize size = m_memory->value(QStringLiteral("size")).toSize();
    if (size.isValid()) resize(size.expandedTo(QSize(640, 480)));
    if (m_memory->contains(QStringLiteral("dark")))
        setTheme(m_memory->value(QStringLiteral("dark")).toBool() ? umber() : gesso());
}

void Window::closeEvent(QCloseEvent* event) {
    if (m_memory) m_memory->setValue(QStringLiteral("size"), size());
    m_closeTimer.stop();
    m_restingTicks = 0;
    if (m_studio.losesWork()) {
        const Unsaved answer = unsaved();
        if (answer == Unsaved::Retry || answer == Unsaved::Elsewhere) m_closeTimer.start();
        return event->setAccepted(answer == Unsaved::Discard);
    }
    // What is on its way to the logbook arrives first, or it is said that it does not.
    if (m_studio.isSaving()) m_closeTimer.start();
    event->setAccepted(!m_studio.isSaving());
}

void Window::closeOnceSaved() {
    // Another logbook may be being opened; and what the writer says of its last change arrives after it rests.
    const bool rests = !m_studio.isSaving() && (!m_studio.losesWork() || m_studio.idle());
    m_restingTicks = rests ? m_restingTicks + 1 : 0;
    if (m_restingTicks < 3) return;
    m_closeTimer.stop();
    if (!m_studio.losesWork()) close(); // else the bar says why it stays
}

void Window::openAsked() {
    const QString field = m_studio.view().ask;
    m_studio.asked();
    if (m_easel->drawing().hot(field) != nullptr) {
        m_easel->setFocus(Qt::TabFocusReason);
        return m_easel->focusOn(field);
    }
    if (m_studio.view().narrow && !m_columnOpen) toggleWhy();
    m_column->setFocus(Qt::TabFocusReason);
    m_column->focusOn(field);
    m_column->openEditor(field);
}

/// What is done about work that is not saved; done here, but for discarding it.
Window::Unsaved Window::unsaved() {
    const QString why = m_studio.view().notSaved;
    Unsaved answer = Unsaved::Stay;
    if (askUnsaved) {
        answer = askUnsaved(why);
    } else {
        QMessageBox box(QMessageBox::Warning, QStringLiteral("Impasto"), why, QMessageBox::Cancel, this);
        box.setInformativeText(say("What was done since then is in this window alone."));
        const QAbstractButton* retry =
            m_studio.view().savingFails ? box.addButton(say("Try again"), QMessageBox::AcceptRole) : nullptr;
        const QAbstractButton* elsewhere = box.addButton(say("Save elsewhere \u2026"), QMessageBox::AcceptRole);
        const QAbstractButton* discard = box.addButton(say("Discard it"), QMessageBox::DestructiveRole);
        box.exec();
        const auto* pressed = box.clickedButton();
        answer = pressed == nullptr     ? Unsaved::Stay
                 : pressed == retry     ? Unsaved::Retry
                 : pressed == elsewhere ? Unsaved::Elsewhere
                 : pressed == discard   ? Unsaved::Discard
                                        : Unsaved::Stay;
    }
    if (answer == Unsaved::Retry) m_studio.retrySaving();
    if (answer == Unsaved::Elsewhere) saveElsewhere();
    return answer;
}

bool Window::mayLeave() {
    return unsaved() == Unsaved::Discard;
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
    add(say("Check how a frame log is read"), QKeySequence(QStringLiteral("Ctrl+Alt+O")), [this] { chooseReading(); });
    add(say("Describe a game"), QKeySequence(QStringLiteral("Ctrl+N")), [this] { describeGame(m_studio); });
    add(say("Open a game or machine description"), QKeySequence(QStringLiteral("Ctrl+Shift+O")),
        [this] { chooseDescription(); });
    add(say("Practise on a random machine and game"), {},
        [this] { m_studio.drawPractice(QRandomGenerator::global()->bounded(1000000U)); });
    add(say("New session"), QKeySequence(QStringLiteral("Ctrl+Shift+N")),
        [this] { activate(QStringLiteral("session.new")); });
    add(say("Why"), QKeySequence(QStringLiteral("F1")), [this] { toggleWhy(); });
    add(say("Find a setting, a run, a session or an action"), QKeySequence(QStringLiteral("Ctrl+F")),
        [this] { m_finder->open(); });
    add(say("Copy the picture and its figures"), QKeySequence::Copy, [this] { copyPicture(); });
    add(say("Save the picture as SVG, PNG or figures"), QKeySequence(QStringLiteral("Ctrl+S")),
        [this] { savePicture(); });
    add(say("Save the session in another logbook"), QKeySequence(QStringLiteral("Ctrl+Shift+S")),
        [this] { saveElsewhere(); });
    add(say("Save the machine's description"), QKeySequence(QStringLiteral("Ctrl+Alt+S")),
        [this] { saveDescription(false); });
    add(say("Save the game's description"), QKeySequence(QStringLiteral("Ctrl+Alt+G")),
        [this] { saveDescription(true); });
    add(say("Copy the figure in focus"), QKeySequence(QStringLiteral("Ctrl+Shift+C")), [this] { copyFigure(); });
    add(say("Light or dark"), QKeySequence(QStringLiteral("Ctrl+T")), [this] {
        setTheme(m_theme.dark ? gesso() : umber());
        if (m_memory) m_memory->setValue(QStringLiteral("dark"), m_theme.dark);
    });
    int number = 0;
    for (const auto& station : stations())
        add(say(station.name), QKeySequence(QStringLiteral("Ctrl+%1").arg(++number)), [this, id = station.id] {
            m_studio.go(id);
            focusEasel();
        });
}

std::vector<Findable> Window::findables() {
    std::vector<Findable> out;
    for (const auto& station : stations())
        if (station.find != nullptr) station.find(m_studio, out);
    for (auto& found : out)
        if (!found.focus.isEmpty())
            found.go = [this, go = found.go, focus = found.focus] {
                go();
                m_easel->focusOn(focus);
            };
    for (auto* action : actions())
        out.push_back({say("action"), action->text(), action->shortcut().toString(), [action] { action->trigger(); }});
    return out;
}

void Window::activate(const QString& id) {
    // What opens another window, or speaks of this one; all else is the studio's.
    const std::map<QString, std::function<void()>> own{
        {QStringLiteral("start.log"), [this] { chooseLogs(); }},
        {QStringLiteral("order.log"), [this] { chooseLogs(); }},
        {QStringLiteral("order.watch"), [this] { chooseFolder(); }},
        {QStringLiteral("column.open"), [this] { toggleWhy(); }},
        {QStringLiteral("save.retry"), [this] { m_studio.retrySaving(); }},
        {QStringLiteral("save.elsewhere"), [this] { saveElsewhere(); }},
        {QStringLiteral("practice.find"), [this] { m_finder->open(say("practice")); }},
        {QStringLiteral("sessions.find"), [this] { m_finder->open(say("session")); }}};
    if (const auto it = own.find(id); it != own.end()) return it->second();
    m_studio.activate(id);
    const bool edits = m_easel->editor() != nullptr || m_column->editor() != nullptr;
    // What was pressed may be gone; the keys stay with the easel.
    if ((id == QStringLiteral("primary") || id == QStringLiteral("run.hide")) && !edits) focusEasel();
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
    if (!view.edits().goal.brief) return;
    m_studio.budgetPreview(Fps(std::round(view.target().value()) + by));
    m_shiftTimer.start();
}

void Window::keyPressEvent(QKeyEvent* event) {
    const auto press = [&](const std::vector<Key>& keys) {
        const auto it = std::find_if(keys.begin(), keys.end(), [event](const Key& k) { return k.key == event->key(); });
        if (it == keys.end()) return false;
        it->press(m_studio);
        return true;
    };
    switch (event->key()) {
    case Qt::Key_Space:
        return activate(QStringLiteral("primary"));
    case Qt::Key_BracketLeft:
        return shiftBudget(-1);
    case Qt::Key_BracketRight:
        return shiftBudget(1);
    case Qt::Key_Question:
        return showKeys();
    case Qt::Key_Escape:
        return escape();
    default:
        break;
    }
    // A station's own keys come before those that are the same everywhere.
    if (press(stationOf(m_studio.view().station).keys) || press(shellKeys())) return;
    for (const auto& station : stations())
        if (press(station.keys)) return;
    QWidget::keyPressEvent(event);
}

void Window::escape() {
    const View& view = m_studio.view();
    if (m_keys->isVisible()) return showKeys();
    if (view.live.active) return m_studio.cancelRecording();
    if (view.preview) {
        m_shiftTimer.stop();
        return m_studio.dropBudget();
    }
    if (!view.whyTopic.isEmpty()) return m_studio.why({});
    for (const auto& station : stations())
        if (station.escape != nullptr && station.escape(m_studio)) return;
    if (view.importing.logs > 0) return m_studio.cancelImport();
    if (m_columnOpen) {
        m_columnOpen = false;
        return refresh();
    }
    if (!view.message.isEmpty()) return m_studio.say({});
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
    // What is in focus speaks for itself where it has a reason: "cap.even", "slab.gpu.shadows".
    const QString id = m_column->hasFocus() ? m_column->focusedId() : m_easel->focusedId();
    const QString head = id.section(QLatin1Char('.'), 0, 0), rest = id.section(QLatin1Char('.'), 1);
    QString topic = QLatin1String(stationOf(view.station).topic);
    if (head == QStringLiteral("slab")) topic = QStringLiteral("cost.") + rest.section(QLatin1Char('.'), 1);
    if (head == QStringLiteral("open")) topic = QStringLiteral("cost.") + rest;
    if (hasReason(id)) topic = id;
    if (head == QStringLiteral("why")) topic = rest;
    m_columnOpen = width() < wideEnough;
    m_studio.why(topic);
}

} // namespace impasto::app
