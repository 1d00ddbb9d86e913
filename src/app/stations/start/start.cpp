// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/start/start.h"

namespace impasto::app {
namespace {

struct Way {
    const char *title, *text, *hint, *id, *label, *note;
};

constexpr Way ways[] = {
    {"Practise on a simulated game",
     "A game and a machine of our own. You walk the whole path and see every picture with real figures of the "
     "simulation.",
     "No game needed", "start.practice", "Start practising", "about 8 min"},
    {"Read a frame log",
     "A column of frame times or of time stamps, as CSV or TSV of any tool. What was guessed is shown.",
     "Or drop it anywhere on the window", "start.log", "Choose a log", "Ctrl+O"},
    {"Tune a game of mine",
     "Pick its settings from the usual ones. You set the values and record; Impasto says which, and why.",
     "A run of a minute for every level", "start.game", "Describe my game", "Ctrl+N"}};

/// The coming picture as dashed outlines with leaders.
void ghost(Sheet& sheet, double top, double bottom) {
    const double left = 58, right = sheet.width() - 16;
    const Scale ms{0, 20, bottom, top + 22};
    for (int v = 0; v <= 20; v += bottom - top < 160 ? 10 : 5) {
        sheet.line({left, ms.px(v)}, {right, ms.px(v)}, Ink::Grid, 1);
        sheet.text(left - 6, ms.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(left - 6, top - 6, say("ms"), Type::Small, Ink::Muted, Align::Right);
    const double column = std::min(170.0, (right - left) * 0.22), cpu = left + 20, gpu = cpu + column + 48;
    const auto stack = [&](double x, std::initializer_list<double> edges) {
        double below = 0;
        for (const double edge : edges) {
            sheet.rect(QRectF(x, ms.px(edge), column, ms.px(below) - ms.px(edge)), Ink::None, Ink::Off, 1.2, {5, 4});
            below = edge;
        }
    };
    stack(cpu, {5.4, 9, 10.9, 12.1, 13});
    stack(gpu, {5.1, 9.7, 12.8, 15.2, 17, 18.7});
    const double handle = gpu + column + 58;
    sheet.line({left, ms.px(16.7)}, {handle, ms.px(16.7)}, Ink::Over, 2.6, {}, Ink::Ground);
    sheet.circle({handle, ms.px(16.7)}, 7, Ink::Over);
    sheet.hatch(QRectF(gpu - 16, ms.px(18.7), 10, ms.px(16.7) - ms.px(18.7)), Ink::Over, 6);
    const double words = handle + 16;
    const auto leader = [&](double value, const QString& text, Ink ink, double shift) {
        sheet.circle({gpu + column, ms.px(value)}, 1.8, Ink::Ink);
        sheet.line({gpu + column, ms.px(value)}, {words - 6, ms.px(value) + shift}, Ink::Muted, 1);
        sheet.text(words, ms.px(value) + shift - 9, text, Type::Body, ink, Align::Left, right - words);
    };
    leader(18.7, say("over the budget, and by how much"), Ink::Ink, -8);
    sheet.text(words, ms.px(16.7) - 9 + 6, say("the budget, 1000 / target, to be dragged"), Type::Body, Ink::Over,
               Align::Left, right - words);
    leader(11.2, say("one slab per setting, thick as its milliseconds"), Ink::Ink, 0);
    leader(2.4, say("what the frame costs with all of them low"), Ink::Ink, 0);
    sheet.text(cpu, bottom + 4, say("CPU"), Type::BodyBold);
    sheet.text(gpu, bottom + 4, say("GPU"), Type::BodyBold);
}

} // namespace

Drawing layoutStart(const View&, QSizeF size) {
    Sheet sheet(size);
    sheet.heading(
        24, 12, say("Nothing has been measured yet"),
        say("Three ways to start. All of them lead to the picture below: where the milliseconds of a frame go."));
    const double gap = 20, width = (size.width() - 48 - 2 * gap) / 3;
    double lowest = 0;
    for (int i = 0; i < 3; ++i) {
        const double x = 24 + i * (width + gap);
        const Way& way = ways[i];
        sheet.line({x, 78}, {x + width, 78}, Ink::Ink, 2);
        sheet.text(x, 86, say(way.title), Type::Heading, Ink::Ink, Align::Left, width);
        double y = sheet.wrapped(x, 108, width, say(way.text), Type::Body);
        y = std::max(y, 180.0);
        sheet.text(x, y + 4, say(way.hint), Type::Body, Ink::Muted, Align::Left, width);
        sheet.button(QRectF(x, y + 28, width, 30), QLatin1String(way.id), say(way.label), say(way.note));
        lowest = std::max(lowest, y + 58);
    }
    sheet.text(24, lowest + 18, say("What will appear here"), Type::Heading);
    ghost(sheet, lowest + 52, size.height() - 34);
    return sheet.take();
}

Drawing layoutStartColumn(const View&, QSizeF size) {
    Sheet sheet(size);
    struct Row {
        const char *stations, *text;
    };
    static constexpr Row rows[] = {{"1 \u00b7 2", "Describe the machine, say what is wanted"},
                                   {"3", "Record the same route four times"},
                                   {"4", "Find what limits every part"},
                                   {"5", "Learn what each level costs, choose"},
                                   {"6", "Choose a cap from your own frames"},
                                   {"7 \u00b7 8", "Prove it and save it"}};
    sheet.text(16, 16, say("What comes next"), Type::Heading);
    sheet.text(16, 37, say("eight stations, each says what to do next"), Type::Body, Ink::Muted);
    double y = 62;
    for (const auto& row : rows) {
        sheet.text(16, y, QString::fromUtf8(row.stations), Type::Body, Ink::Muted);
        y = sheet.wrapped(58, y, size.width() - 84, say(row.text), Type::Body) + 6;
        sheet.line({16, y - 3}, {size.width() - 28, y - 3}, Ink::Line, 1);
    }
    y += 24;
    sheet.text(16, y, say("What Impasto does not do"), Type::Heading);
    y += 24;
    for (const char* text :
         {"It sends nothing from this machine.", "It changes no file of a game.", "It sets no clock, voltage or fan.",
          "It throws no run away. What is left out is kept, with the reason."})
        y = sheet.wrapped(16, y, size.width() - 44, say(text), Type::Body) + 6;
    sheet.text(16, y + 16, say("? shows the keyboard shortcuts"), Type::Body, Ink::Muted);
    return sheet.take();
}

} // namespace impasto::app
