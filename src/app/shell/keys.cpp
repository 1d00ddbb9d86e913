// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/keys.h"

#include "shell/studio.h"

#include <QtCore/Qt>

namespace impasto::app {

const std::vector<Key>& shellKeys() {
    static const std::vector<Key> keys{
        {Qt::Key_R, "R", "record, where that comes next",
         [](Studio& s) {
             if (s.view().step.runs > 0) s.primary();
         }},
        {Qt::Key_N, "N", "the next hitch", [](Studio& s) { s.nextHitch(); }},
        {Qt::Key_C, "C", "overlays another run", [](Studio& s) { s.compareWith(); }},
        {Qt::Key_Z, "Z", "zoom to the selection", [](Studio& s) { s.select(s.view().span, true); }},
        {Qt::Key_0, "0", "the whole run", [](Studio& s) { s.select({}, false); }},
        {Qt::Key_M, "M", "start and end of a run that is followed", [](Studio& s) { s.markFollowed(); }}};
    return keys;
}

Drawing layoutKeys(const View&, QSizeF size) {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(1, 1), size - QSizeF(2, 2)), Ink::Paper, Ink::Ink, 1.5);
    sheet.text(28, 20, say("Keyboard shortcuts"), Type::Title);
    struct Row {
        QString key, what;
    };
    std::vector<Row> rows{{say("Space"), say("the primary action, from a picture")},
                          {say("Shift+Return"), say("the primary action, from anywhere")},
                          {say("Ctrl+1 \u2026 %1").arg(stations().size()), say("the stations")},
                          {say("Tab, arrows"), say("from shape to shape")},
                          {say("Enter"), say("presses, opens levels, edits a value")},
                          {say("Up, Down"), say("a level, a value, the budget line")},
                          {say("[  ]"), say("the budget by 1 fps")}};
    for (const auto& key : shellKeys()) rows.push_back({say(key.name), say(key.what)});
    for (const auto& station : stations())
        for (const auto& key : station.keys)
            rows.push_back({say(key.name), say("%1 (%2)").arg(say(key.what), say(station.name))});
    for (const auto& row :
         std::initializer_list<Row>{{say("F1"), say("why, for the figure in focus")},
                                    {say("Esc"), say("cancels a recording, a drag, an editor")},
                                    {say("Ctrl+Z, Ctrl+Shift+Z"), say("undo, redo")},
                                    {say("Ctrl+O, Ctrl+N"), say("read a log; describe a game")},
                                    {say("Ctrl+Alt+O"), say("check how a log is read")},
                                    {say("Ctrl+Shift+O"), say("open a game or a machine")},
                                    {say("Ctrl+Shift+N"), say("new session")},
                                    {say("Ctrl+F"), say("finds settings, runs, sessions, actions")},
                                    {say("Ctrl+C, Ctrl+Shift+C"), say("copy the picture; the figure in focus")},
                                    {say("Ctrl+S"), say("save the picture: SVG, PNG, figures")},
                                    {say("Ctrl+Shift+S"), say("save the session in another logbook")},
                                    {say("Ctrl+Alt+S, Ctrl+Alt+G"), say("save the machine; the game")},
                                    {say("Ctrl+T"), say("light or dark")},
                                    {say("?"), say("this list")}})
        rows.push_back(row);
    const double half = size.width() / 2;
    const std::size_t perColumn = (rows.size() + 1) / 2;
    const double pitch = std::min(26.0, (size.height() - 62 - 56) / static_cast<double>(perColumn));
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const double x = i < perColumn ? 28 : half + 12, y = 62 + pitch * static_cast<double>(i % perColumn);
        sheet.text(x, y, rows[i].key, Type::BodyBold, Ink::Ink, Align::Left, 150);
        sheet.text(x + 150, y, rows[i].what, Type::Body, Ink::Muted, Align::Left, half - 190);
    }
    sheet.button(QRectF(28, size.height() - 46, 120, 30), QStringLiteral("keys.close"), say("Close"), say("Esc"));
    return sheet.take();
}

} // namespace impasto::app
