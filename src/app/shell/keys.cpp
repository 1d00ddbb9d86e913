// SPDX-License-Identifier: GPL-3.0-or-later
#include "shell/keys.h"

namespace impasto::app {

Drawing layoutKeys(const View&, QSizeF size) {
    Sheet sheet(size);
    sheet.rect(QRectF(QPointF(1, 1), size - QSizeF(2, 2)), Ink::Paper, Ink::Ink, 1.5);
    sheet.text(28, 20, say("Every key"), Type::Title);
    struct Key {
        const char *key, *what;
    };
    static constexpr Key keys[] = {{"Space", "the primary action, from a picture"},
                                   {"Shift+Return", "the primary action, from anywhere"},
                                   {"Ctrl+1 … 8", "the stations"},
                                   {"Tab, arrows", "from shape to shape"},
                                   {"Enter", "presses, opens levels, edits a value"},
                                   {"Up, Down", "a level, a value, the budget line"},
                                   {"[  ]", "the budget by 1 fps"},
                                   {"N", "the next hitch; in Pace the worst frame"},
                                   {"C", "another run behind the chosen one"},
                                   {"Z  0", "zoom to the selection; whole run"},
                                   {"T", "the selected span does not count"},
                                   {"V  L", "another picture of the run; logarithmic"},
                                   {"K", "the next reading under the trace"},
                                   {"M", "begin and end of a run that is followed"},
                                   {"R", "record, where that comes next"},
                                   {"F1", "why, for the focused figure"},
                                   {"Esc", "cancels a recording, a drag, an editor"},
                                   {"Ctrl+Z, Ctrl+Shift+Z", "undo, redo"},
                                   {"Ctrl+O, Ctrl+N", "read a log; describe a game"},
                                   {"Ctrl+Alt+O", "look at a log before it is read"},
                                   {"Ctrl+Shift+O", "open a game or a machine"},
                                   {"Ctrl+Shift+N", "new session"},
                                   {"Ctrl+F", "finds settings, runs, practice, actions"},
                                   {"Ctrl+C, Ctrl+Shift+C", "copy the picture; the focused figure"},
                                   {"Ctrl+S", "save the picture: SVG, PNG, figures"},
                                   {"Ctrl+T", "gesso or umber"},
                                   {"?", "this sheet"}};
    const double half = size.width() / 2;
    double y = 62;
    int i = 0;
    const int rows = 13;
    for (const auto& key : keys) {
        const double x = i < rows ? 28 : half + 12;
        if (i == rows) y = 62;
        sheet.text(x, y, say(key.key), Type::BodyBold, Ink::Ink, Align::Left, 150);
        sheet.text(x + 150, y, say(key.what), Type::Body, Ink::Muted, Align::Left, half - 190);
        y += 26;
        ++i;
    }
    sheet.button(QRectF(28, size.height() - 50, 120, 30), QStringLiteral("keys.close"), say("Close"),
                 QStringLiteral("Esc"));
    return sheet.take();
}

} // namespace impasto::app
