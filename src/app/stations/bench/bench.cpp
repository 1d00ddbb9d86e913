// SPDX-License-Identifier: GPL-3.0-or-later
// The machine as one painted stroke a frame travels, and the game's settings with their start values.
#include "stations/bench/bench.h"
#include "stations/pages.h"

#include <cmath>
#include <impasto/base/text.h>

namespace impasto::app {
namespace {

using machine::Machine;

void value(Sheet& sheet, double x, double y, double width, const QString& id, const QString& name, const QString& text,
           const QString& edit, Type type = Type::Body) {
    const double w = sheet.text(x, y, text, type, Ink::Ink, Align::Left, width);
    sheet.line({x, y + lineOf(type) - 1}, {x + w, y + lineOf(type) - 1}, Ink::Off, 1);
    Hot h;
    h.id = id;
    h.name = name;
    h.role = Role::Value;
    h.rect = QRectF(x, y, std::max(w, 24.0), lineOf(type));
    h.edit = edit;
    h.hint = say("Click or Enter to correct it");
    sheet.hot(h);
}

struct Block {
    const char* title;
    Ink ink;
    QString now;
};

/// The stroke; gives the y below it.
double stroke(Sheet& sheet, const Machine* m, double top) {
    const auto gibText = [](Mebibytes v) { return say("%1 GiB").arg(qs(wording::gib(v.value()))); };
    const Block blocks[] = {
        {"Memory", Ink::Mem, m == nullptr ? QString() : gibText(m->systemMemory)},
        {"CPU", Ink::Cpu,
         m == nullptr   ? QString()
         : m->cores > 0 ? say("%1 cores").arg(m->cores)
                        : QString()},
        {"GPU", Ink::Gpu, m == nullptr ? QString() : gibText(m->gpuMemory)},
        {"Panel", Ink::Disp, m == nullptr ? QString() : say("%1 Hz").arg(qs(shortestText(m->panel.refresh.value())))}};
    const double left = 24, right = sheet.width() - 16, gap = 36, width = (right - left - 3 * gap) / 4;
    const double height = sheet.height() < 500 ? 70 : 110;
    for (int i = 0; i < 4; ++i) {
        const double x = left + i * (width + gap);
        const QRectF r(x, top, width, height);
        if (i < 3)
            sheet.rect(QRectF(r.right(), top + 14, gap, height - 28), m == nullptr ? Ink::None : Ink::Band2,
                       m == nullptr ? Ink::Off : Ink::None, 1.2, {5, 4});
        if (m == nullptr)
            sheet.rect(r, Ink::None, Ink::Off, 1.2, {5, 4});
        else
            sheet.slab(r, blocks[i].ink == Ink::Disp ? Ink::DispText : blocks[i].ink, static_cast<unsigned>(i + 1));
        sheet.text(r.center().x(), r.center().y() - 10, blocks[i].now, Type::Figure,
                   m == nullptr ? Ink::Muted : Ink::OnSlab, Align::Centre, width - 10);
        sheet.text(x, top + height + 8, say(blocks[i].title), Type::Heading);
    }
    if (m == nullptr) return top + height + 32;
    const double y = top + height + 34;
    const auto at = [&](int i) { return left + i * (width + gap); };
    value(sheet, at(0), y, width, QStringLiteral("machine.system"), say("System memory, GiB"), gibText(m->systemMemory),
          qs(shortestText(m->systemMemory.value() / 1024)));
    value(sheet, at(1), y, width, QStringLiteral("machine.cpu"), say("CPU name"), qs(m->cpu), qs(m->cpu));
    value(sheet, at(2), y, width * 0.62, QStringLiteral("machine.gpu"), say("GPU name"), qs(m->gpu), qs(m->gpu));
    value(sheet, at(2) + width * 0.66, y, width * 0.34, QStringLiteral("machine.vram"), say("GPU memory, GiB"),
          gibText(m->gpuMemory), qs(shortestText(m->gpuMemory.value() / 1024)));
    value(sheet, at(3), y, width, QStringLiteral("machine.native"), say("Native resolution"),
          qs(wording::resolution(m->panel.native)), qs(display::keyText(m->panel.native)));
    const auto& range = m->panel.variable;
    value(sheet, at(3), y + 18, width * 0.36, QStringLiteral("machine.refresh"), say("Highest refresh, Hz"),
          say("%1 Hz").arg(qs(shortestText(m->panel.refresh.value()))), qs(shortestText(m->panel.refresh.value())));
    const QString window = range ? qs(fmt::format("{}\u2013{} Hz", range->lowest.value(), range->highest.value()))
                           : m->panel.headset ? say("headset")
                                              : say("fixed");
    value(sheet, at(3) + width * 0.4, y + 18, width * 0.6, QStringLiteral("machine.range"),
          say("Variable refresh range, Hz, or fixed"), window,
          range ? qs(fmt::format("{}-{}", range->lowest.value(), range->highest.value())) : say("fixed"));
    return y + 44;
}

void settings(Sheet& sheet, const View& view, double top) {
    const auto* game = view.session.game();
    const double left = 24, right = sheet.width() - 16;
    sheet.line({left, top}, {right, top}, Ink::Line, 1);
    if (game == nullptr) {
        sheet.text(left, top + 12, say("No game yet"), Type::Heading);
        sheet.text(left, top + 34, say("Its settings will appear here, each with the level it has now."), Type::Body,
                   Ink::Muted, Align::Left, right - left);
        sheet.button(QRectF(left, top + 60, 230, 30), QStringLiteral("start.game"), say("Describe my game"),
                     say("Ctrl+N"));
        return;
    }
    const double pitch = 40, first = top + 42;
    const auto settingCount = game->settings.size();
    const auto fit = static_cast<std::size_t>(std::max(1.0, (sheet.height() - first - 8) / pitch)),
               most = static_cast<std::size_t>(std::max(2.0, (right - left) / 150));
    const std::size_t columns =
        std::min(most, std::max<std::size_t>(settingCount > 6 ? 3 : 2, (settingCount + fit - 1) / fit));
    const auto page = pageOf(view, QStringLiteral("settings"), settingCount, fit * columns);
    const double w = sheet.text(left, top + 12, qs(game->name), Type::Heading, Ink::Ink, Align::Left, 300);
    sheet.text(left + w + 12, top + 14,
               say("baseline settings, from which every level is measured · Up and Down change a level"), Type::Body,
               Ink::Muted, Align::Left, right - left - w - 12 - (page.whole() ? 0 : 220));
    drawPager(sheet, right, top + 10, page, say("settings %1 to %2 of %3"));
    const std::size_t rows = (page.last - page.first + columns - 1) / columns;
    const double width = (right - left) / static_cast<double>(columns) - 14;
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& s = game->settings[i];
        const double x = left + static_cast<double>((i - page.first) / rows) * (width + 14),
                     y = first + static_cast<double>((i - page.first) % rows) * pitch;
        const auto it = view.edits().settings.baseline.find(s.id);
        const QString level = it == view.edits().settings.baseline.end() ? QString() : qs(it->second);
        sheet.text(x, y, qs(s.label), Type::BodyBold, Ink::Ink, Align::Left, width);
        const std::size_t place =
            s.levelIndex(it == view.edits().settings.baseline.end() ? "" : it->second).value_or(0) + 1;
        const QString all = say("%1 of %2").arg(place).arg(s.levels.size());
        const double lw = sheet.text(x, y + 18, level, Type::Body, Ink::Ink, Align::Left, width - 60);
        sheet.text(x + lw + 8, y + 18, s.weight == 0 ? say("taste, not measured") : all, Type::Small, Ink::Muted,
                   Align::Left, width - lw - 8);
        Hot h;
        h.id = QStringLiteral("level.") + qs(s.id);
        h.name = say("%1: %2").arg(qs(s.label), level);
        h.role = Role::Slab;
        h.rect = QRectF(x - 4, y - 1, width, 37);
        h.hint = say("Up and Down change the baseline level");
        sheet.hot(h);
    }
}

/// A game described here: its name, its route, and the settings that games usually have.
void usualSettings(Sheet& sheet, const View& view, const game::Game& game, double y) {
    const double x = 16, w = sheet.width() - 44;
    sheet.text(x, y, say("Usual settings"), Type::Heading);
    sheet.text(x, y + 21, say("add what the game has, remove what it does not"), Type::Note, Ink::Muted, Align::Left,
               w);
    y += 42;
    value(sheet, x, y, w, QStringLiteral("game.name"), say("Name of the game"), say("Game: %1").arg(qs(game.name)),
          qs(game.name));
    value(sheet, x, y + 22, w, QStringLiteral("game.add"), say("Another setting, as name: lowest, ..., highest"),
          say("Add another setting"), say("Draw distance: near, middle, far"));
    value(sheet, x, y + 44, w, QStringLiteral("game.route"), say("Route, as name, seconds"),
          say("Route: %1, %2 s").arg(qs(game.routes.front().name)).arg(std::lround(game.routes.front().seconds())),
          qs(fmt::format("{}, {:.0f}", game.routes.front().name, game.routes.front().seconds())));
    y += 70;
    const auto& all = view.state<BenchState>().usualSettings;
    const auto page = pageIn(view, QStringLiteral("usual"), all.size(), sheet.height() - y - 4, 18);
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& usual = all[i];
        const bool has = game.setting(usual.id) != nullptr;
        sheet.rect(QRectF(x, y + 4, 9, 9), has ? Ink::Muted : Ink::None, Ink::Muted, 1.2);
        sheet.text(x + 18, y, qs(usual.label), Type::Body, Ink::Ink, Align::Left, w - 70);
        sheet.text(x + w, y + 1, has ? say("remove") : say("add"), Type::Small, Ink::Muted, Align::Right);
        Hot h;
        h.id = QStringLiteral("usual.") + qs(usual.id);
        h.name = (has ? say("Remove %1") : say("Add %1")).arg(qs(usual.label));
        h.rect = QRectF(x - 2, y, w + 4, 18);
        sheet.hot(h);
        y += 18;
    }
    drawPager(sheet, x + w, y + 4, page, say("%1 to %2 of %3"));
}

} // namespace

Drawing layoutBench(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto* m = view.session.machine();
    if (m == nullptr) {
        sheet.heading(24, 12, say("The path of a frame through your machine"),
                      say("Nothing is read from the system; these are the values you entered."));
        const double below = stroke(sheet, nullptr, 70);
        sheet.button(QRectF(24, below, 230, 30), QStringLiteral("machine.new"), say("Describe the machine"));
        settings(sheet, view, below + 48);
        return sheet.take();
    }
    sheet.heading(24, 12, say("The path of a frame through %1").arg(qs(m->name)),
                  say("as you described it · underlined values can be corrected"));
    settings(sheet, view, stroke(sheet, m, 70) + 8);
    return sheet.take();
}

Drawing layoutBenchColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    double y = 16;
    sheet.text(x, y, say("How runs are made"), Type::Heading);
    y += 26;
    const bool simulated = view.edits().subject.rig == document::RigKind::Simulated;
    const bool can = view.canSimulate;
    const auto way = [&](const QString& id, const QString& title, const QString& text, bool chosen, bool enabled) {
        const double end = y + 30 + 18 * (textWidth(text, Type::Note) > w - 24 ? 2 : 1);
        sheet.rect(QRectF(x - 4, y, w + 8, end - y), chosen ? Ink::Paper : Ink::None, chosen ? Ink::Ink : Ink::Line,
                   chosen ? 1.5 : 1.2);
        const double mark =
            chosen ? sheet.text(x + w - 8, y + 6, say("chosen"), Type::Small, Ink::Muted, Align::Right) : 0;
        sheet.text(x + 8, y + 6, title, Type::BodyBold, enabled ? Ink::Ink : Ink::Muted, Align::Left, w - mark - 26);
        sheet.wrapped(x + 8, y + 25, w - 20, text, Type::Note, Ink::Muted, 2);
        Hot h;
        h.id = id;
        h.name = title;
        h.rect = QRectF(x - 4, y, w + 8, end - y);
        h.focusable = enabled;
        sheet.hot(h);
        y = end + 10;
    };
    way(QStringLiteral("rig.simulated"), say("Simulator"),
        can ? say("this program plays the route by itself") : say("needs a practice machine and a practice game"),
        simulated, can);
    way(QStringLiteral("rig.hand"), say("By hand, with frame logs"),
        say("you play; Impasto says what to set and reads your log"), !simulated, true);
    sheet.button(QRectF(x, y, w, 28), QStringLiteral("practice.find"), say("Practice machines and games"),
                 say("Ctrl+F"));
    y += 46;
    const auto* game = view.session.game();
    if (game != nullptr) {
        sheet.text(x, y, say("Start from"), Type::Heading);
        y += 24;
        const auto page = pageIn(view, QStringLiteral("presets"), game->presets.size(), size.height() - 90 - y, 34);
        for (std::size_t i = page.first; i < page.last; ++i) {
            const auto& preset = game->presets[i];
            const bool now = preset.values == view.edits().settings.baseline;
            sheet.button(QRectF(x, y, w, 28), QStringLiteral("preset.") + qs(preset.name),
                         say("Preset %1").arg(qs(preset.name)), now ? say("in use") : QString());
            y += 34;
        }
        drawPager(sheet, x + w, y, page, say("%1 to %2 of %3"));
        y += page.whole() ? 8 : pagerHeight + 4;
    }
    const bool mine = game != nullptr && !view.practiceGame;
    if (mine) {
        usualSettings(sheet, view, *game, y);
    } else if (y + 70 < size.height()) {
        sheet.text(x, y, say("Cautions"), Type::Heading);
        sheet.wrapped(
            x, y + 22, w,
            say("Figures are valid for the state they were measured in: mains or battery, fans, power mode. For heat, "
                "electricity and overclocking follow the maker's guidance; Impasto changes nothing."),
            Type::Note, Ink::Muted, std::max(1, static_cast<int>((size.height() - y - 30) / 16)));
    }
    return sheet.take();
}

} // namespace impasto::app
