// SPDX-License-Identifier: GPL-3.0-or-later
// The levels of the opened setting, fanned out at its slab: milliseconds, memory and picture of each.
#include "stations/layers/stack.h"

#include <algorithm>
#include <cmath>

namespace impasto::app {
namespace {

constexpr double rowHeight = 22, headHeight = 30;

struct LevelRow {
    const game::Level* level = nullptr;
    std::optional<Difference> cost; // against the cheapest level
    std::optional<double> gib;      // GPU memory against the start level
    bool start = false, chosen = false;
};

std::optional<double> memoryOf(const View& view, const std::string& setting, const std::string& level) {
    const auto& memory = view.get<results::Costs>()->gpuMemory;
    if (!memory) return std::nullopt;
    const auto index = memory->indexOf({setting, level});
    return index ? std::optional(memory->estimate[*index] / 1024) : std::nullopt;
}

std::vector<LevelRow> rowsOf(const View& view, const choose::LaneCosts& lane, const game::Setting& setting) {
    const auto shown = choiceOf(view);
    const auto now = view.edits().settings.baseline.find(setting.id);
    std::vector<LevelRow> rows;
    double least = 0;
    for (auto it = setting.levels.rbegin(); it != setting.levels.rend(); ++it) {
        LevelRow row{&*it, differenceOf(view, lane, setting.id, it->name), memoryOf(view, setting.id, it->name)};
        row.start = now != view.edits().settings.baseline.end() && now->second == it->name;
        const auto taken = shown ? shown->values.find(setting.id) : game::Values::const_iterator();
        row.chosen = shown && taken != shown->values.end() ? taken->second == it->name : row.start;
        if (row.cost) least = std::min(least, row.cost->ms);
        rows.push_back(row);
    }
    for (auto& row : rows)
        if (row.cost) row.cost->ms -= least;
    return rows;
}

/// A level that cannot be set, as it was said at an order, to be allowed again.
void drawBarred(Sheet& sheet, const game::Setting& setting, const LevelRow& row, QRectF r) {
    const double y = r.top() + 2;
    const double w =
        sheet.text(r.right() - 10, y, say("cannot be set"), Type::Body, Ink::Muted, Align::Right, r.width() - 80);
    sheet.text(r.left() + 10, y, qs(row.level->name), Type::Body, Ink::Muted, Align::Left, r.width() - w - 30);
    Hot h;
    h.id = QStringLiteral("can.%1.%2").arg(qs(setting.id), qs(row.level->name));
    h.name = say("%1: %2 can be set after all").arg(qs(setting.label), qs(row.level->name));
    h.hint = h.name;
    h.rect = r;
    sheet.hot(h);
}

void drawRow(Sheet& sheet, const game::Setting& setting, const LevelRow& row, QRectF r, bool memory) {
    const double y = r.top() + 2, msRight = r.right() - (memory ? 92 : 52);
    if (row.chosen) sheet.rect(r.adjusted(3, 0, -3, 0), Ink::Ground, Ink::Ink, 1.2);
    const double w = sheet.text(msRight, y, row.cost ? qs(wording::ms(row.cost->ms)) : say("not measured"), Type::Body,
                                row.cost ? Ink::Ink : Ink::Muted, Align::Right, msRight - r.left() - 66);
    sheet.text(r.left() + 10, y, qs(row.level->name), Type::Body, Ink::Ink, Align::Left, msRight - r.left() - w - 18);
    if (memory && row.gib && !row.start)
        sheet.text(r.right() - 50, y, qs(fmt::format("{}{:.1f}", *row.gib < 0 ? "\u2212" : "+", std::abs(*row.gib))),
                   Type::Body, Ink::Muted, Align::Right);
    sheet.text(r.right() - 10, y, row.start ? say("now") : qs(wording::percent(row.level->picture)), Type::Body,
               Ink::Muted, Align::Right);
    Hot h;
    h.id = QStringLiteral("choose.%1.%2").arg(qs(setting.id), qs(row.level->name));
    h.name = say("%1: choose %2").arg(qs(setting.label), qs(row.level->name));
    h.rect = r;
    h.focusable = row.cost.has_value();
    sheet.hot(h);
}

/// Holds the setting at a level, whatever is proposed; or lets it go.
void drawLock(Sheet& sheet, const View& view, const game::Setting& setting, const std::vector<LevelRow>& rows,
              QRectF r) {
    const auto locked = view.edits().settings.locked.find(setting.id);
    const auto chosen = std::find_if(rows.begin(), rows.end(), [](const LevelRow& row) { return row.chosen; });
    if (chosen == rows.end()) return;
    const bool held = locked != view.edits().settings.locked.end();
    sheet.line({r.left() + 8, r.top() + 1}, {r.right() - 8, r.top() + 1}, Ink::Line, 1);
    Hot h;
    h.id = QStringLiteral("lock.") + qs(setting.id);
    h.name =
        held ? say("Locked at %1: unlock").arg(qs(locked->second)) : say("Lock at %1").arg(qs(chosen->level->name));
    h.hint = say("A locked setting keeps its level in every proposal");
    h.rect = r;
    sheet.text(r.left() + 10, r.top() + 3, h.name, Type::Body, held ? Ink::Ink : Ink::Muted, Align::Left,
               r.width() - 20);
    sheet.hot(h);
}

} // namespace

void drawFan(Sheet& sheet, const View& view, const Stack& stack, const FanPlace& place) {
    const auto* setting = view.session.game()->setting(view.state<LayersState>().openSetting.toStdString());
    const auto& lanes = view.get<results::Costs>()->lanes;
    const auto lane = std::find_if(lanes.begin(), lanes.end(), [&](const auto& l) { return l.lane == stack.lane; });
    if (setting == nullptr || lane == lanes.end()) return;
    const auto rows = rowsOf(view, *lane, *setting);
    const bool memory = std::any_of(rows.begin(), rows.end(),
                                    [](const LevelRow& row) { return row.gib && std::abs(*row.gib) >= 0.05; });
    const double height = headHeight + rowHeight * static_cast<double>(rows.size() + 1) + 6;
    const double left = place.left;
    const double lowest = std::max(place.within.top(), place.within.bottom() - height);
    double top = std::clamp(place.slab.center().y() - height / 2, place.within.top(), lowest);
    if (top < place.clearOf + 14 && top + height > place.clearOf - 14) top = std::min(place.clearOf + 14, lowest);
    const QRectF panel(left, top, fanWidth, height);
    // The slab is as thick as the shown level costs on what lies below it; the others lie in proportion.
    double shownMs = 0;
    for (const auto& row : rows)
        if (row.start && row.cost) shownMs = row.cost->ms;
    const double scale = shownMs > 0.01 ? place.slab.height() / shownMs : place.pxPerMs;
    for (std::size_t i = 0; i < rows.size(); ++i) {
        if (!rows[i].cost) continue;
        const double from = std::max(place.within.top(), place.slab.bottom() - rows[i].cost->ms * scale);
        const double to = top + headHeight + rowHeight * (static_cast<double>(i) + 0.5);
        const bool strong = rows[i].chosen || rows[i].start;
        sheet.line({place.slab.right() - 3, from}, {left, to}, strong ? Ink::Ink : Ink::Muted, strong ? 1.6 : 1.1, {},
                   Ink::Ground);
        sheet.circle({place.slab.right() - 3, from}, 2.4, strong ? Ink::Ink : Ink::Muted, Ink::Ground, 1);
    }
    sheet.rect(panel, Ink::Paper, Ink::Ink, 1.5);
    const double named = sheet.text(left + 10, top + 6, qs(setting->label), Type::BodyBold, Ink::Ink, Align::Left, 110);
    sheet.text(
        panel.right() - 10, top + 7,
        (memory ? say("%1 ms · GiB · picture") : say("%1 ms · picture")).arg(qs(wording::lane(view.w, stack.lane))),
        Type::Small, Ink::Muted, Align::Right, fanWidth - named - 28);
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const QRectF r(left, top + headHeight + rowHeight * static_cast<double>(i), fanWidth, rowHeight);
        if (view.edits().settings.cannot.contains({setting->id, rows[i].level->name}))
            drawBarred(sheet, *setting, rows[i], r);
        else
            drawRow(sheet, *setting, rows[i], r, memory);
    }
    drawLock(sheet, view, *setting, rows,
             QRectF(left, top + headHeight + rowHeight * static_cast<double>(rows.size()), fanWidth, rowHeight + 4));
}

} // namespace impasto::app
