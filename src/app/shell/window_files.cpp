// SPDX-License-Identifier: GPL-3.0-or-later
// What the window gives away and takes in: pictures, figures, logs, descriptions and a watched folder.
#include "shell/window.h"

#include "pictures/copy.h"
#include "stations/runs/runs.h"

#include <QtCore/QBuffer>
#include <QtCore/QDir>
#include <QtCore/QMimeData>
#include <QtCore/QRegularExpression>
#include <QtGui/QClipboard>
#include <QtGui/QDragEnterEvent>
#include <QtGui/QDropEvent>
#include <QtWidgets/QApplication>
#include <QtWidgets/QFileDialog>
#include <QtWidgets/QMessageBox>
#include <impasto/base/file.h>

namespace impasto::app {
namespace {

std::filesystem::path pathOf(const QString& file) {
    return std::filesystem::path(file.toStdString());
}

/// How a log in a folder stands now: one that is written again under its name differs.
std::map<QString, std::pair<qint64, qint64>> logsIn(const QString& folder) {
    std::map<QString, std::pair<qint64, qint64>> out;
    for (const auto& info : QDir(folder).entryInfoList(
             {QStringLiteral("*.csv"), QStringLiteral("*.tsv"), QStringLiteral("*.txt"), QStringLiteral("*.log"),
              QStringLiteral("*.gz"), QStringLiteral("*.zst"), QStringLiteral("*.json"), QStringLiteral("*.jsonl")},
             QDir::Files, QDir::Time | QDir::Reversed))
        out[info.fileName()] = {info.size(), info.lastModified().toMSecsSinceEpoch()};
    return out;
}

} // namespace

QString Window::lastFolder() const {
    return m_memory ? m_memory->value(QStringLiteral("folder")).toString() : QString();
}

void Window::noteFolder(const QString& file) {
    if (m_memory && !file.isEmpty()) m_memory->setValue(QStringLiteral("folder"), QFileInfo(file).absolutePath());
}

QString Window::easelTable() const {
    const auto& station = stationOf(m_studio.view().station);
    const QString own = station.table == nullptr ? QString() : station.table(m_studio.view());
    return own.isEmpty() ? tableOf(m_easel->drawing()) : own;
}

void Window::copyPicture() {
    auto* picture = dynamic_cast<Picture*>(focusWidget());
    if (picture == nullptr) picture = m_easel;
    QGuiApplication::clipboard()->setMimeData(
        copyOf(picture == m_easel ? easelTable() : tableOf(picture->drawing()), picture->grab().toImage(),
               svgOf(picture->drawing(), m_theme, QSizeF(picture->size()), picture->accessibleName())));
    m_studio.say(say("Copied as PNG, as SVG and as tab-separated figures: %1.").arg(picture->accessibleName()));
}

void Window::savePicture() {
    const QString file = QFileDialog::getSaveFileName(this, say("Save the picture"),
                                                      QDir(lastFolder()).filePath(QStringLiteral("impasto.svg")),
                                                      say("Lines and text (*.svg);;Pixels (*.png);;Figures (*.tsv)"));
    noteFolder(file);
    if (!file.isEmpty()) savePictureTo(pathOf(file));
}

void Window::savePictureTo(const std::filesystem::path& file) {
    QByteArray bytes;
    if (file.extension() == ".png") {
        QBuffer buffer(&bytes);
        m_easel->grab().save(&buffer, "PNG");
    } else if (file.extension() == ".tsv") {
        bytes = easelTable().toUtf8();
    } else {
        bytes = svgOf(m_easel->drawing(), m_theme, QSizeF(m_easel->size()), m_easel->accessibleName());
    }
    const auto saved = writeFileAtomically(file, {bytes.constData(), static_cast<std::size_t>(bytes.size())});
    m_studio.say(saved ? say("Saved %1.").arg(qs(file.string()))
                       : qs(wording::error(m_studio.view().w, saved.error()).all()));
}

void Window::saveElsewhere() {
    const QString file =
        askWhere
            ? askWhere()
            // One that is there is added to, not replaced.
            : QFileDialog::getSaveFileName(this, say("A logbook for this session"),
                                           QDir(lastFolder()).filePath(QStringLiteral("saved.impasto")),
                                           say("Logbooks (*.impasto)"), nullptr, QFileDialog::DontConfirmOverwrite);
    noteFolder(file);
    if (!file.isEmpty()) m_studio.saveElsewhere(pathOf(file));
}

void Window::saveDescription(bool ofGame) {
    const auto& session = m_studio.view().session;
    const auto* machine = session.machine();
    const auto* game = session.game();
    const std::uint64_t mark = ofGame ? (game == nullptr ? 0 : game->mark) : (machine == nullptr ? 0 : machine->mark);
    const std::string* text = m_studio.open() == nullptr ? nullptr : m_studio.open()->originals.find(mark);
    if (text == nullptr)
        return m_studio.say(ofGame ? say("No game is described yet: Bench does it.")
                                   : say("No machine is described yet: Bench reads this one, or takes what you type."));
    QString name = qs(ofGame ? game->name : machine->name).toLower();
    name.replace(QRegularExpression(QStringLiteral("[^\\w]+")), QStringLiteral("-"));
    const QString file =
        askWhere ? askWhere()
                 : QFileDialog::getSaveFileName(
                       this, ofGame ? say("The game's description") : say("The machine's description"),
                       QDir(lastFolder()).filePath(name + QStringLiteral(".toml")), say("Descriptions (*.toml)"));
    noteFolder(file);
    if (file.isEmpty()) return;
    const auto saved = writeFileAtomically(pathOf(file), *text);
    m_studio.say(saved ? say("Saved %1. Dropped on a window, it is opened again.").arg(file)
                       : qs(wording::error(m_studio.view().w, saved.error()).all()));
}

void Window::copyFigure() {
    const auto* picture = dynamic_cast<Picture*>(focusWidget());
    const Hot* hot = picture == nullptr ? nullptr : picture->focusedHot();
    if (hot == nullptr) return m_studio.say(say("No figure has the focus. Tab and the arrows move it."));
    QGuiApplication::clipboard()->setText(hot->name);
    m_studio.say(say("Copied: %1.").arg(hot->name));
}

void Window::chooseLogs() {
    const QStringList files = QFileDialog::getOpenFileNames(
        this, say("Frame logs"), lastFolder(),
        say("Frame logs (*.csv *.tsv *.txt *.log *.json *.jsonl *.gz *.zst);;All files (*)"));
    std::vector<std::filesystem::path> paths;
    for (const auto& file : files) paths.push_back(pathOf(file));
    if (!files.empty()) noteFolder(files.front());
    takeLogs(std::move(paths));
}

void Window::takeLogs(std::vector<std::filesystem::path> logs) {
    constexpr std::size_t manyLogs = 20;
    if (logs.size() > manyLogs) {
        const bool watching = m_watchTimer.isActive();
        m_watchTimer.stop(); // it would ask again meanwhile
        const bool all =
            askMany
                ? askMany(logs.size())
                : QMessageBox::question(this, QStringLiteral("Impasto"),
                                        say("%1 logs at once. Read them all into this session?").arg(logs.size())) ==
                      QMessageBox::Yes;
        if (watching) m_watchTimer.start();
        if (!all) return m_studio.say(say("%1 logs were not read.").arg(logs.size()));
    }
    if (!logs.empty()) m_studio.importLogs(std::move(logs));
}

void Window::openDescription(const std::filesystem::path& file) {
    if (const auto done = m_studio.openDescription(file); !done)
        m_studio.say(qs(wording::error(m_studio.view().w, done.error()).all()));
}

void Window::chooseDescription() {
    const QString file =
        QFileDialog::getOpenFileName(this, say("A game or a machine"), lastFolder(), say("Descriptions (*.toml)"));
    noteFolder(file);
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
    takeLogs(std::move(logs));
    event->acceptProposedAction();
}

void Window::chooseReading() {
    const QString file = QFileDialog::getOpenFileName(this, say("Frame log"), lastFolder());
    noteFolder(file);
    if (!file.isEmpty()) openReading(m_studio, pathOf(file));
}

void Window::chooseFolder() {
    const QString folder =
        QFileDialog::getExistingDirectory(this, say("The folder your tool writes logs to"), lastFolder());
    if (!folder.isEmpty()) watchFolder(folder);
}

void Window::watchFolder(const QString& folder) {
    m_watchedFolder = folder;
    m_watched = logsIn(folder);
    m_watchTimer.start();
    m_studio.say(say("Watching %1. The next log that is written there answers the order.").arg(folder));
}

void Window::lookAtFolder() {
    auto now = logsIn(m_watchedFolder);
    std::vector<std::filesystem::path> fresh;
    for (const auto& [name, state] : now) {
        const auto before = m_watched.find(name);
        if (before == m_watched.end() || before->second != state)
            fresh.push_back(pathOf(m_watchedFolder + QLatin1Char('/') + name));
    }
    // The one that is being written is shown as it grows; several at once are copies of finished ones.
    const bool following = m_studio.view().follow.active || m_studio.view().importing.logs > 0;
    m_watched = std::move(now);
    if (fresh.empty() || following) return;
    if (fresh.size() == 1)
        m_studio.follow(fresh.front());
    else
        takeLogs(std::move(fresh));
}

} // namespace impasto::app
