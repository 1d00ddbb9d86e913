// SPDX-License-Identifier: GPL-3.0-or-later
// The slabs as data, and the column beside Layers: levels of the opened setting, what to scrape off next, the choice.
#include "stations/layers/stack.h"

#include <cmath>

namespace impasto::app {
namespace {

/// Difference of a level from the start level on a lane in its worst part, with its half width; 0 for the start level.
struct Difference {
    double ms = 0;
    std::optional<double> halfWidth;
};
std::optional<Difference> differenceOf(const View& view, const choose::LaneCosts& lane, const std::string& setting,
                                       const std::string& level) {
    const auto it = view.edits().baseline.find(setting);
    if (it != view.edits().baseline.end() && it->second == level) return Difference{};
    const auto index = lane.fit.indexOf({setting, level});
    if (!index) return std::nullopt;
    return Difference{lane.worstFactor * lane.fit.estimate[*index], lane.worstFactor * lane.fit.halfWidth(*index)};
}

} // namespace

std::vector<Stack> stacksOf(const View& view, const std::optional<game::Values>& values) {
    std::vector<Stack> out;
    const auto* game = view.session.game();
    if (!view.results->costs || game == nullptr) return out;
    const game::Values& shown = values ? *values : view.edits().baseline;
    for (const auto& lane : view.results->costs->lanes) {
        Stack stack{lane.lane, {}, lane.worstFactor * lane.fit.estimate[0], 10};
        for (const auto& setting : game->settings) {
            const auto now = shown.find(setting.id);
            if (now == shown.end()) continue;
            std::optional<Difference> least;
            for (const auto& level : setting.levels)
                if (const auto d = differenceOf(view, lane, setting.id, level.name); d && (!least || d->ms < least->ms))
                    least = d;
            const auto here = differenceOf(view, lane, setting.id, now->second);
            if (!here || !least) continue;
            if (values) stack.totalMs += here->ms;
            const double ms = here->ms - least->ms;
            // What the runs cannot tell from nothing stays in the fixed rest.
            if (ms > std::max(0.02, least->halfWidth.value_or(0)))
                stack.layers.push_back({setting.id, qs(setting.label), qs(now->second), ms, least->halfWidth});
        }
        std::stable_sort(stack.layers.begin(), stack.layers.end(),
                         [](const Layer& a, const Layer& b) { return a.ms > b.ms; });
        double fixed = stack.totalMs;
        for (const auto& layer : stack.layers) fixed -= layer.ms;
        stack.layers.insert(stack.layers.begin(), Layer{{}, say("Game and scene"), {}, std::max(0.0, fixed), {}});
        out.push_back(std::move(stack));
    }
    return out;
}

std::optional<ShownChoice> choiceOf(const View& view) {
    if (view.preview) {
        if (!view.preview->proposal) return std::nullopt;
        return ShownChoice{view.preview->proposal->values, view.preview->proposal->lanes, false};
    }
    const auto ground = view.results->ground(view.session);
    if (view.edits().choice && ground) {
        const auto lanes = choose::outcomeOf(*ground, view.edits().choice->values, view.target());
        if (lanes) return ShownChoice{view.edits().choice->values, *lanes, true};
        return std::nullopt;
    }
    if (!view.results->proposal) return std::nullopt;
    return ShownChoice{view.results->proposal->values, view.results->proposal->lanes, false};
}

namespace {

/// One step down of a setting on the lane that has most to save.
struct Scrape {
    const game::Setting* setting;
    std::string from, to;
    double ms;
    std::optional<double> halfWidth;
    double picture; // lost
};

std::vector<Scrape> scrapes(const View& view, const choose::LaneCosts& lane) {
    std::vector<Scrape> out;
    for (const auto& setting : view.session.game()->settings) {
        const auto now = view.edits().baseline.find(setting.id);
        const auto index = now == view.edits().baseline.end() ? std::nullopt : setting.levelIndex(now->second);
        if (!index || *index == 0) continue;
        const auto& next = setting.levels[*index - 1];
        const auto d = differenceOf(view, lane, setting.id, next.name);
        if (d && d->ms < -0.05)
            out.push_back({&setting, now->second, next.name, d->ms, d->halfWidth,
                           setting.weight * (setting.levels[*index].picture - next.picture)});
    }
    std::sort(out.begin(), out.end(),
              [](const Scrape& a, const Scrape& b) { return a.ms / (a.picture + 0.02) < b.ms / (b.picture + 0.02); });
    return out;
}

QString loses(double picture) {
    return picture < 0.08 ? say("loses little") : picture < 0.3 ? say("loses some") : say("loses much");
}

double levelsCard(Sheet& sheet, const View& view, const game::Setting& setting, const choose::LaneCosts& lane, double y,
                  double x, double w) {
    const double height = 32 + 20 * static_cast<double>(setting.levels.size());
    sheet.rect(QRectF(x - 4, y, w + 8, height), Ink::Paper, Ink::Ink, 1.5);
    sheet.text(x + 8, y + 6, qs(setting.label), Type::BodyBold, Ink::Ink, Align::Left, w * 0.6);
    sheet.text(x + w - 6, y + 6, qs(view.w.lane(lane.lane)) + say(" ms · picture"), Type::Small, Ink::Muted,
               Align::Right);
    double most = 0.01, least = 0;
    for (const auto& level : setting.levels)
        if (const auto d = differenceOf(view, lane, setting.id, level.name)) least = std::min(least, d->ms);
    for (const auto& level : setting.levels)
        if (const auto d = differenceOf(view, lane, setting.id, level.name)) most = std::max(most, d->ms - least);
    const auto shown = choiceOf(view);
    const auto now = view.edits().baseline.find(setting.id);
    double line = y + 27;
    for (std::size_t i = setting.levels.size(); i-- > 0;) {
        const auto& level = setting.levels[i];
        const auto d = differenceOf(view, lane, setting.id, level.name);
        const bool chosen = shown && shown->values.at(setting.id) == level.name;
        if (chosen) sheet.rect(QRectF(x + 3, line, w - 6, 19), Ink::None, Ink::Ink, 1.2);
        sheet.text(x + 8, line, qs(level.name), Type::Body, Ink::Ink, Align::Left, w * 0.26);
        const double bar = x + w * 0.3, room = w * 0.3;
        if (d)
            sheet.slab(QRectF(bar, line + 4, std::max(1.0, room * (d->ms - least) / most), 11),
                       lane.lane == run::Lane::Cpu   ? Ink::Cpu2
                       : lane.lane == run::Lane::Gpu ? Ink::Gpu2
                                                     : Ink::DispText,
                       static_cast<unsigned>(i));
        sheet.text(x + w * 0.79, line, d ? qs(report::ms(d->ms - least)) : say("not measured"), Type::Body,
                   d ? Ink::Ink : Ink::Muted, Align::Right);
        const bool start = now != view.edits().baseline.end() && now->second == level.name;
        sheet.text(x + w - 6, line, start ? say("now") : qs(report::percent(level.picture)), Type::Body, Ink::Muted,
                   Align::Right);
        Hot h;
        h.id = QStringLiteral("choose.%1.%2").arg(qs(setting.id), qs(level.name));
        h.name = say("%1: choose %2").arg(qs(setting.label), qs(level.name));
        h.rect = QRectF(x + 3, line, w - 6, 19);
        h.focusable = d.has_value();
        sheet.hot(h);
        line += 20;
    }
    return y + height + 8;
}

double choiceSection(Sheet& sheet, const View& view, double y, double x, double w) {
    const bool accepted = view.edits().choice.has_value() && !view.preview;
    sheet.text(x, y,
               view.preview ? say("At %1 fps").arg(qs(report::wishFps(view.preview->target)))
               : accepted   ? say("The choice")
                            : say("The exact choice so far"),
               Type::Heading);
    y += 23;
    const auto& proposal = view.preview ? view.preview->proposal : view.results->proposal;
    if (view.preview && view.preview->error)
        return sheet.wrapped(x, y, w, qs(view.w.error(*view.preview->error).what), Type::Body, Ink::Over) + 8;
    if (!proposal) {
        const auto& error = view.results->proposalError;
        return sheet.wrapped(x, y, w,
                             error ? qs(view.w.error(*error).what + " " + view.w.error(*error).advice)
                                   : say("After the cost runs it will stand here."),
                             Type::Body, Ink::Muted) +
               8;
    }
    choose::Proposal shown = *proposal;
    if (accepted) shown.values = view.edits().choice->values;
    y = sheet.wrapped(x, y, w, qs(view.w.choice(view.session, shown)), Type::Body, Ink::Ink, 4);
    const bool same = !accepted || shown.values == proposal->values;
    const double picture = game::pictureValue(*view.session.game(), shown.values);
    y = sheet.wrapped(x, y + 3, w,
                      (same ? qs(view.w.proven(*proposal)) : say("Changed by hand: not the best for these costs.")) +
                          say(" Keeps %1 of the picture.").arg(qs(report::percent(picture))),
                      Type::Body, Ink::Ink, 3);
    const QString stale = qs(view.w.stale(view.results->choiceStale));
    if (!stale.isEmpty()) y = sheet.wrapped(x, y + 3, w, stale, Type::BodyBold, Ink::Over);
    y += 10;
    if (!view.preview) {
        const bool take = !accepted || !same || !view.results->choiceStale.empty();
        sheet.button(QRectF(x, y, w / 2 - 4, 30), QStringLiteral("choice.take"),
                     accepted ? say("Take the best") : say("Take it"), {}, false, take);
        sheet.button(QRectF(x + w / 2 + 4, y, w / 2 - 4, 30), QStringLiteral("why.choice"), say("Why this one"));
        y += 42;
    }
    return y;
}

} // namespace

Drawing layoutLayersColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    if (!view.results->costs || view.results->costs->lanes.empty() || view.session.game() == nullptr) {
        sheet.text(x, 16, say("Next to scrape off"), Type::Heading);
        sheet.wrapped(x, 40, w, say("Costs come from runs that change one level at a time."), Type::Body, Ink::Muted);
        return sheet.take();
    }
    const auto& lanes = view.results->costs->lanes;
    const double budget = budgetOf(view.target()).value();
    const auto& lane = *std::max_element(lanes.begin(), lanes.end(), [&](const auto& a, const auto& b) {
        const auto load = [&](const choose::LaneCosts& l) {
            return l.worstFactor * l.fit.estimate[0] / (view.edits().shares.of(l.lane) * budget);
        };
        return load(a) < load(b);
    });
    sheet.text(x, 16, say("Next to scrape off the %1").arg(qs(view.w.lane(lane.lane))), Type::Heading, Ink::Ink,
               Align::Left, w);
    sheet.text(x, 37,
               view.openSetting.isEmpty() ? say("most milliseconds for the least picture")
                                          : say("opened: ms of each level, share of picture"),
               Type::Body, Ink::Muted, Align::Left, w);
    double y = 62;
    const auto* opened =
        view.openSetting.isEmpty() ? nullptr : view.session.game()->setting(view.openSetting.toStdString());
    const double bottom = size.height();
    if (opened != nullptr) y = levelsCard(sheet, view, *opened, lane, y, x, w);
    int shown = 0;
    const int most = bottom < 500 ? (opened != nullptr ? 0 : 2) : opened != nullptr ? 2 : 4;
    for (const auto& s : scrapes(view, lane)) {
        if (shown == most) break;
        if (opened == s.setting) continue;
        ++shown;
        const QRectF r(x - 4, y, w + 8, 42);
        sheet.rect(r, Ink::Paper, Ink::Line, 1.2);
        sheet.rect(QRectF(x - 4, y, 5, 42), lane.lane == run::Lane::Cpu   ? Ink::Cpu
                                            : lane.lane == run::Lane::Gpu ? Ink::Gpu
                                                                          : Ink::DispText);
        const double fw = sheet.text(x + w - 2, y + 4, qs(report::signedPlusMinus(s.ms, s.halfWidth, 2)) + say(" ms"),
                                     Type::BodyBold, Ink::Ink, Align::Right);
        sheet.text(x + 10, y + 4, qs(s.setting->label), Type::BodyBold, Ink::Ink, Align::Left, w - fw - 20);
        sheet.text(x + w - 2, y + 22, loses(s.picture), Type::Body, Ink::Muted, Align::Right);
        sheet.text(x + 10, y + 22, qs(s.from) + QStringLiteral(" → ") + qs(s.to), Type::Body, Ink::Muted, Align::Left,
                   w - 110);
        Hot h;
        h.id = QStringLiteral("open.") + qs(s.setting->id);
        h.name = say("Open the levels of %1").arg(qs(s.setting->label));
        h.rect = r;
        sheet.hot(h);
        y += 48;
    }
    y = choiceSection(sheet, view, y + 12, x, w);
    if (!view.results->costs->toMeasure.empty() && y + 60 < bottom) {
        sheet.text(x, y + 6, say("Not measured yet"), Type::Heading);
        sheet.wrapped(x, y + 28, w,
                      say("%1 level(s), about %2 of play.")
                          .arg(view.results->costs->toMeasure.size())
                          .arg(qs(report::minutes(view.step.minutes))),
                      Type::Body, Ink::Muted);
    } else if (view.results->check && y + 80 < bottom) {
        const auto& check = *view.results->check;
        sheet.text(x, y + 6, say("The choice when run"), Type::Heading);
        y += 28;
        for (const auto& lane2 : check.measured) {
            sheet.text(x, y, say("%1 in %2").arg(qs(view.w.lane(lane2.lane)), qs(view.w.part(lane2.worstPart))),
                       Type::Body, Ink::Muted, Align::Left, w * 0.55);
            sheet.text(x + w, y, say("%1 of %2 ms").arg(qs(report::ms(lane2.meanMs)), qs(report::ms(lane2.usableMs))),
                       Type::BodyBold, lane2.meanMs > lane2.usableMs ? Ink::Over : Ink::Ink, Align::Right);
            y += 20;
        }
    }
    return sheet.take();
}

} // namespace impasto::app
