// SPDX-License-Identifier: GPL-3.0-or-later
// The machine as one painted stroke a frame travels, and the game's settings with their start values.
#include "stations/bench/bench.h"
#include "stations/pages.h"

#include <cmath>
#include <impasto/base/text.h>

namespace impasto::app {
namespace {

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
        if (view.state<BenchState>().setting == s.id)
            sheet.rect(QRectF(x - 6, y - 3, width + 4, 41), Ink::Paper, Ink::Ink, 1.5);
        sheet.text(x, y, qs(s.label), Type::BodyBold, Ink::Ink, Align::Left, width);
        const std::size_t place =
            s.levelIndex(it == view.edits().settings.baseline.end() ? "" : it->second).value_or(0) + 1;
        const QString all = s.unordered ? say("one of %1 ways to run").arg(s.levels.size())
                                        : say("%1 of %2").arg(place).arg(s.levels.size());
        const double lw = sheet.text(x, y + 18, level, Type::Body, Ink::Ink, Align::Left, width - 60);
        sheet.text(x + lw + 8, y + 18, s.weight == 0 ? say("taste, not measured") : all, Type::Small, Ink::Muted,
                   Align::Left, width - lw - 8);
        Hot h;
        h.id = QStringLiteral("level.") + qs(s.id);
        h.name = say("%1: %2").arg(qs(s.label), level);
        h.role = Role::Slab;
        h.rect = QRectF(x - 4, y - 1, width, 37);
        h.hint = say("Up and Down change the baseline level; Enter says more of the setting");
        sheet.hot(h);
    }
}

/// As it is typed: "gate 15, yard 30".
QString partsText(const game::Route& route) {
    if (route.parts.size() == 1) return qs(fmt::format("{}, {}", route.name, shortestText(route.seconds())));
    QString out;
    for (const auto& part : route.parts)
        out += (out.isEmpty() ? QString() : QStringLiteral(", ")) +
               qs(fmt::format("{} {}", part.name, shortestText(part.seconds)));
    return out;
}

/// A game described here: its name, its route, and the settings that games usually have.
void usualSettings(Sheet& sheet, const View& view, const game::Game& game, double y) {
    const double x = 16, w = sheet.width() - 44;
    sheet.text(x, y, say("Usual settings"), Type::Heading);
    sheet.text(x, y + 21, say("add what the game has, remove what it does not"), Type::Note, Ink::Muted, Align::Left,
               w);
    y += 42;
    const auto line = [&](double at) { return QRectF(x, at, w, 18); };
    const auto& route = game.routes.front();
    benchValue(sheet, line(y), QStringLiteral("game.name"), say("Name of the game"), say("Game: %1").arg(qs(game.name)),
               qs(game.name));
    benchValue(sheet, line(y + 22), QStringLiteral("game.add"),
               say("Another setting, as name: lowest, ..., highest; as Renderer: one of old, new; or as Resolution: "
                   "1280x720, 1920x1080"),
               say("Add another setting"), say("Draw distance: near, middle, far"));
    benchValue(sheet, line(y + 44), QStringLiteral("game.route"),
               say("Route, as name, seconds; or its parts, as gate 15, yard 30"),
               say("Route: %1, %2 s").arg(qs(route.name)).arg(std::lround(route.seconds())), partsText(route));
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
                      say("Read from the system without root, or typed. Nothing is changed."));
        const double below = layoutWired(sheet, view, 70);
        sheet.button(QRectF(24, below, 230, 30), QStringLiteral("machine.read"), say("Read this machine"));
        sheet.button(QRectF(268, below, 230, 30), QStringLiteral("machine.new"), say("Describe another one"));
        settings(sheet, view, below + 48);
        return sheet.take();
    }
    sheet.heading(24, 12,
                  elided(say("The path of a frame through %1").arg(qs(m->name)), Type::Title, size.width() - 240),
                  m->readAt != 0 ? say("read %1 · painted: as it runs now · dashed: what it is rated for · underlined "
                                       "values can be corrected")
                                       .arg(dateTime(m->readAt))
                  : m->simulated ? say("simulated · underlined values can be corrected")
                                 : say("as you described it · underlined values can be corrected"));
    const double below = layoutWired(sheet, view, 62);
    if (view.state<BenchState>().checks)
        layoutChecks(sheet, view, below);
    else
        settings(sheet, view, playedIn(sheet, view, below) + 6);
    // Last, so that the keyboard comes to the values first, where Space stays the next step.
    sheet.button(QRectF(size.width() - 196, 8, 180, 28), QStringLiteral("machine.read"),
                 view.state<BenchState>().reading ? say("Reading ...")
                 : m->readAt != 0                 ? say("Read again")
                                                  : say("Read this machine"));
    return sheet.take();
}

namespace {

/// How far the start values are from such ones.
QString awayFrom(const View& view, const game::Values& values) {
    const auto& now = view.edits().settings.baseline;
    const auto other = std::count_if(values.begin(), values.end(), [&](const auto& value) {
        const auto it = now.find(value.first);
        return it == now.end() || it->second != value.second;
    });
    return other == 0 ? say("in use") : say("changes %1").arg(other);
}

/// Who records, and on which machine; gives the y below.
double waysToRecord(Sheet& sheet, const View& view) {
    const double x = 16, w = sheet.width() - 44;
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
    return y;
}

} // namespace

Drawing layoutBenchColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const auto* described = view.session.game();
    if (const auto* setting = described == nullptr ? nullptr : described->setting(view.state<BenchState>().setting)) {
        layoutSetting(sheet, view, *setting, !view.practiceGame);
        return sheet.take();
    }
    if (const auto* point = pointInView(view)) {
        layoutPoint(sheet, view, *point);
        return sheet.take();
    }
    const double x = 16, w = size.width() - 44;
    double y = waysToRecord(sheet, view);
    const auto* game = view.session.game();
    if (game != nullptr) {
        sheet.text(x, y, say("Start from"), Type::Heading);
        y += 24;
        const auto page = pageIn(view, QStringLiteral("presets"), game->presets.size(), size.height() - 124 - y, 34);
        for (std::size_t i = page.first; i < page.last; ++i) {
            const auto& preset = game->presets[i];
            sheet.button(QRectF(x, y, w, 28), QStringLiteral("preset.") + qs(preset.name),
                         say("Preset %1").arg(qs(preset.name)), awayFrom(view, preset.values));
            y += 34;
        }
        drawPager(sheet, x + w, y, page, say("%1 to %2 of %3"));
        y += page.whole() ? 0 : pagerHeight + 4;
        if (const auto* set = usualStart(view)) {
            sheet.button(QRectF(x, y, w, 28), QStringLiteral("startset"),
                         say("Usual start: %1").arg(qs(wording::style(view.w, view.edits().goal.brief->style))),
                         awayFrom(view, game::valuesOf(*set, *game, view.edits().settings.baseline)));
            y += 34;
        }
        y += 8;
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
