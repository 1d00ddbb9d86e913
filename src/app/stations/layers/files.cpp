// SPDX-License-Identifier: GPL-3.0-or-later
// Into the game: the values in the order of its menu, and what they change in its files before they are written.
#include "stations/layers/around.h"
#include "stations/pages.h"

namespace impasto::app {
namespace {

struct ValueRow {
    const game::Setting* setting = nullptr;
    std::string from, to;
    const config::Change* change = nullptr; // in a file
    bool placed = false;                    // its file has it already
};

std::vector<ValueRow> rowsOf(const View& view, const ToSet& wanted, const FilesLook* look) {
    std::vector<ValueRow> out;
    const auto& game = *view.session.game();
    for (const auto& setting : game.settings) {
        const auto to = wanted.values.find(setting.id);
        if (to == wanted.values.end()) continue;
        const auto from = view.edits().settings.baseline.find(setting.id);
        ValueRow row{&setting, from == view.edits().settings.baseline.end() ? std::string() : from->second, to->second,
                     nullptr, false};
        const auto* config = setting.place ? game.config(setting.place->config) : nullptr;
        if (config != nullptr && look != nullptr && look->plan) {
            row.placed = game::isFile(config->format);
            for (const auto& file : look->plan->files)
                for (const auto& change : file.changes)
                    if (file.config == config->id && change.key == setting.place->key) row.change = &change;
        }
        out.push_back(row);
    }
    return out;
}

const FilesLook* lookOf(const View& view, const ToSet& wanted) {
    const auto& files = view.state<AroundState>().files;
    return files && files->values == wanted.values ? files.get() : nullptr;
}

void drawValue(Sheet& sheet, const ValueRow& row, double left, double right, double y) {
    const bool changed = row.from != row.to;
    if (changed) sheet.rect(QRectF(left - 8, y + 3, 4, 14), Ink::Stroke);
    sheet.text(left, y, qs(row.setting->label), changed ? Type::BodyBold : Type::Body, Ink::Ink, Align::Left,
               0.3 * (right - left));
    const double middle = left + 0.32 * (right - left), file = left + 0.62 * (right - left);
    double at = middle;
    if (changed && !row.from.empty())
        at += sheet.text(at, y, qs(row.from) + QStringLiteral(" → "), Type::Body, Ink::Muted, Align::Left,
                         file - middle - 60);
    sheet.text(at, y, qs(row.to), changed ? Type::BodyBold : Type::Body, Ink::Ink, Align::Left, file - at - 10);
    const QString where =
        row.change != nullptr
            ? say("line %1: %2 → %3").arg(row.change->line).arg(qs(row.change->from), qs(row.change->to))
        : row.placed         ? say("stands in its file")
        : row.setting->place ? say("is handed over")
                             : say("in the game's menu");
    sheet.text(file, y, where, Type::Body, row.change != nullptr ? Ink::Ink : Ink::Muted, Align::Left, right - file);
}

} // namespace

Drawing layoutFiles(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto wanted = toSetOf(view);
    if (!wanted || view.session.game() == nullptr) {
        sheet.heading(24, 12, say("Into the game"), say("Values appear here with the first order or choice."),
                      facesWidth());
        drawFaces(sheet, view);
        return sheet.take();
    }
    sheet.heading(24, 12,
                  wanted->order
                      ? say("For this run: %1").arg(qs(wording::orderName(view.w, view.session, *wanted->order)))
                      : say("The choice, into the game"),
                  say("in the order of the game's menu · a stroke marks what differs from the baseline"), facesWidth());
    drawFaces(sheet, view);
    const double left = 34, right = size.width() - 16, pitch = 23;
    const auto rows = rowsOf(view, *wanted, lookOf(view, *wanted));
    const auto page = pageIn(view, QStringLiteral("into-game"), rows.size(), size.height() - 80 - 12, pitch);
    double y = 80;
    for (std::size_t i = page.first; i < page.last; ++i) {
        drawValue(sheet, rows[i], left, right, y);
        sheet.line({left - 8, y + 20.5}, {right, y + 20.5}, Ink::Grid, 1);
        y += pitch;
    }
    drawPager(sheet, right, y, page, say("%1 to %2 of %3"));
    return sheet.take();
}

Drawing layoutFilesColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto wanted = toSetOf(view);
    sheet.text(x, 16, say("In the menu"), Type::Heading);
    double y =
        sheet.wrapped(x, 40, w, say("Set the marked values in the game, or copy the list."), Type::Body, Ink::Muted) +
        6;
    sheet.button(QRectF(x, y, w, 28), QStringLiteral("values.copy"), say("Copy the list"), {}, false,
                 wanted.has_value());
    y += 48;
    if (!wanted || view.session.game() == nullptr) return sheet.take();
    sheet.text(x, y, say("In its files"), Type::Heading);
    y += 24;
    const auto* look = lookOf(view, *wanted);
    const auto& written = view.state<AroundState>().written;
    if (view.session.game()->configs.empty()) {
        sheet.wrapped(x, y, w,
                      say("The game's description does not say where its values live. Give it a [[config]], and each "
                          "setting a key: then they are written for you."),
                      Type::Body, Ink::Muted);
        return sheet.take();
    }
    if (look == nullptr) {
        sheet.text(x, y, say("being read"), Type::Body, Ink::Muted);
        return sheet.take();
    }
    if (look->fault) {
        const auto text = wording::error(view.w, *look->fault);
        y = sheet.wrapped(x, y, w, qs(text.all()), Type::Body, Ink::Over, 9) + 8;
        sheet.button(QRectF(x, y, w, 28), QStringLiteral("files.again"), say("Look again"));
        y += 44;
    } else if (look->plan) {
        y = sheet.wrapped(x, y, w, qs(wording::plan(view.w, *look->plan)), Type::Body, Ink::Ink, 5) + 6;
        for (const auto& file : look->plan->files) {
            const QString name = qs(file.file.filename().string());
            sheet.row(x, y, w, name,
                      file.changes.size() == 1 ? say("1 value") : say("%1 values").arg(file.changes.size()),
                      Type::BodyBold);
            y = sheet.wrapped(x, y + 18, w, qs(file.file.parent_path().string()), Type::Note, Ink::Muted, 2) + 6;
        }
        if (!look->plan->files.empty()) {
            y = sheet.wrapped(x, y + 2, w,
                              say("End the game first: many write their files when they end. What is there now is kept "
                                  "in a copy beside it."),
                              Type::Body, Ink::Muted, 5) +
                6;
            sheet.button(QRectF(x, y, w, 28), QStringLiteral("files.write"), say("Write them"));
            y += 40;
        }
        for (std::size_t i = 0; i < look->plan->byHand.size(); ++i) {
            const auto& hand = look->plan->byHand[i];
            sheet.text(x, y,
                       hand.format == game::ConfigFormat::Command ? say("For the command that starts it")
                                                                  : say("For its environment"),
                       Type::BodyBold);
            y = sheet.wrapped(x, y + 19, w, qs(hand.text), Type::Note, Ink::Ink, 4) + 4;
            sheet.button(QRectF(x, y, w, 28), QStringLiteral("handed.%1").arg(i), say("Copy it"));
            y += 40;
        }
    }
    if (!written.empty()) {
        sheet.text(x, y, say("Written"), Type::Heading);
        y += 22;
        for (const auto& file : written)
            y = sheet.wrapped(x, y, w, say("as it was: %1").arg(qs(file.copy.string())), Type::Note, Ink::Muted, 3) + 2;
        sheet.button(QRectF(x, y + 4, w, 28), QStringLiteral("files.back"), say("Take it back"));
    }
    return sheet.take();
}

} // namespace impasto::app
