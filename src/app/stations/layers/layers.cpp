// SPDX-License-Identifier: GPL-3.0-or-later
// Where the milliseconds go: a column a lane, a slab a setting, the budget across them as a taut line.
#include "stations/layers/around.h"
#include "stations/layers/stack.h"
#include "stations/layers/walks.h"

#include <cmath>
#include <impasto/wording/walk.h>
#include <map>

namespace impasto::app {
namespace {

struct Frame {
    double left, right, top, bottom;
    double columnWidth, gap;
    double choiceX, memoryX; // of the narrow columns; memoryX beyond right: none
};

Frame frameOf(const View& view, QSizeF size) {
    const bool lanes = view.get<results::Costs>() && view.get<results::Costs>()->lanes.size() > 1;
    const double left = 58, right = size.width() - 16, room = right - left;
    Frame f{left, right, size.height() < 500 ? 96.0 : 118.0, size.height() - 52 - waysHeight(view, size), 0, 0, 0, 0};
    f.gap = 0.03 * room;
    f.columnWidth = std::min(380.0, (lanes ? 0.27 : 0.36) * room);
    f.choiceX = left + 6 + (lanes ? 2 : 1) * (f.columnWidth + f.gap) + 14;
    f.memoryX = std::min(right - 166, f.choiceX + 320); // on a wide easel it stays beside the others
    return f;
}

double memoryTopOf(const Frame& f) {
    return f.top + 0.42 * (f.bottom - f.top);
}

double topOf(const View& view, const std::vector<Stack>& stacks) {
    double most = 1.1 * budgetOf(view.target()).value();
    for (const auto& stack : stacks) most = std::max(most, 1.1 * stack.totalMs);
    return std::ceil(most / 2) * 2;
}

QString slabId(const Stack& stack, const Layer& layer) {
    return QStringLiteral("slab.%1.%2").arg(qs(std::string(run::keyOf(stack.lane))), qs(layer.setting));
}

/// Where the words of a slab stand: in its middle, or where the budget line and its own words cross that, in the larger
/// part beside them; nowhere inside a thin one.
std::optional<double> labelCentre(QRectF r, double budgetPx) {
    const double middle = r.center().y();
    if (r.height() >= 19 && (middle > budgetPx + 12 || middle < budgetPx - 32)) return middle;
    const double above = budgetPx - 23 - r.top(), below = r.bottom() - budgetPx - 3;
    if (std::max(above, below) < 19 || above < 0 || below < 0) return std::nullopt;
    return above > below ? r.top() + above / 2 : r.bottom() - below / 2;
}

void drawSlab(Sheet& sheet, const View& view, const Stack& stack, const Layer& layer, QRectF r, std::size_t index,
              const Scale& ms) {
    const bool gpu = stack.lane == run::Lane::Gpu, even = index % 2 == 0;
    const Ink ink = gpu ? (even ? Ink::Gpu : Ink::Gpu2) : (even ? Ink::Cpu : Ink::Cpu2);
    if (layer.usual)
        sheet.rect(r.adjusted(0.8, 1.4, -0.8, -1.4), Ink::Ground, ink, 1.4, {4, 3});
    else
        sheet.slab(r.adjusted(0, 0.8, 0, -0.8), ink, static_cast<unsigned>(31 * index + (gpu ? 7 : 0)), true);
    const Ink words = layer.usual ? Ink::Ink : Ink::OnSlab;
    if (const auto centre = labelCentre(r, ms.px(budgetOf(view.target()).value()))) {
        const double y = *centre - 9;
        const QString figure = (layer.level.isEmpty() ? say("fixed")
                                : layer.atMost        ? say("at most")
                                : layer.usual         ? say("usually")
                                                      : layer.level) +
                               QLatin1Char(' ') + qs(wording::ms(layer.atMost.value_or(layer.ms)));
        const double w = sheet.text(r.right() - 26, y, figure, Type::BodyBold, words, Align::Right, r.width() * 0.6);
        const QString arrow = layer.step < 0 ? QStringLiteral("↓ ") : layer.step > 0 ? QStringLiteral("↑ ") : QString();
        sheet.text(r.left() + 10, y, arrow + layer.label, layer.step == 0 ? Type::Body : Type::BodyBold, words,
                   Align::Left, r.width() - w - 44);
    }
    if (layer.step != 0) sheet.rect(r.adjusted(-3, 0, 3, 0), Ink::None, Ink::Ink, 2.5);
    if (layer.halfWidth && r.height() >= 12) { // of neighbours beside each other, else they run into one
        const double half = ms.px(0) - ms.px(*layer.halfWidth), at = r.right() - (even ? 7 : 17);
        if (half > 1)
            sheet.interval({at, std::max(ms.px(ms.toValue), r.top() - half)}, {at, std::min(r.top() + half, ms.px(0))},
                           6, Ink::Ink, 1.2, Ink::Ground);
    }
    if (layer.setting.empty()) return;
    Hot h;
    h.id = slabId(stack, layer);
    h.name = say("%1 %2, %3 ms on the %4")
                 .arg(layer.label, layer.level, qs(wording::ms(layer.ms)), qs(wording::lane(view.w, stack.lane)));
    h.role = Role::Slab;
    h.rect = r;
    h.onSlab = r.height() >= 12;
    h.hint = say("Enter opens its levels; Up and Down change the choice");
    sheet.hot(h);
    if (view.state<LayersState>().openSetting == qs(layer.setting))
        sheet.rect(r.adjusted(2.5, 2.5, -2.5, -2.5), Ink::None, Ink::OnSlab, 2);
}

/// Labels of thin slabs, 18 px apart, with dot and elbow leader; from the top slab down at the right of the last
/// column, piled up over the others. outsideLabels gives where they lie.
struct Outside {
    double x, right;
    std::optional<double> over; // piled up from here
    double lowest = 1e9;        // for the others: what lies below stays free
};

QRectF outsideLabels(Sheet& sheet, const std::vector<std::pair<QRectF, const Layer*>>& thin, const Outside& place) {
    QRectF taken;
    double last = place.over.value_or(-1e9);
    for (const auto& [r, layer] : thin) {
        const double beside = r.center().y() - 9 - 9 * static_cast<double>(thin.size() - 1);
        const double y =
            place.over ? last - 18
                       : std::max(std::min(beside, place.lowest - 18 * static_cast<double>(thin.size())), last + 18);
        last = y;
        const double from = place.over ? r.left() + 14 : r.right() + 1;
        sheet.circle({from, r.center().y()}, 1.8, Ink::Ink);
        sheet.curve(QPolygonF({QPointF(from, r.center().y()), QPointF(place.over ? from : place.x - 14, y + 9),
                               QPointF(place.x - 4, y + 9)}),
                    Ink::Muted, 1);
        const double w = sheet.text(place.right, y,
                                    (layer->atMost ? say("at most %1") : QStringLiteral("%1"))
                                        .arg(qs(wording::ms(layer->atMost.value_or(layer->ms)))),
                                    Type::Note, Ink::Ink, Align::Right, 0, Ink::Ground);
        sheet.text(place.x, y,
                   layer->label + (layer->level.isEmpty() ? QString() : QStringLiteral(", ") + layer->level),
                   Type::Note, Ink::Ink, Align::Left, place.right - place.x - w - 10, Ink::Ground);
        taken |= QRectF(place.x, y, place.right - place.x, 17);
    }
    return taken;
}

/// Where it says what a column is over by: above it, and above the words of the budget line.
double overTop(const Stack& stack, const Scale& ms, double budget) {
    const double top = ms.px(stack.totalMs) - 20, line = ms.px(budget);
    return line - top < 40 ? line - 41 : top;
}

/// Gives where labels outside the column lie.
QRectF drawStack(Sheet& sheet, const View& view, const Stack& stack, double x, const Frame& f, const Scale& ms,
                 Outside place) {
    double below = 0;
    std::vector<std::pair<QRectF, const Layer*>> thin;
    for (std::size_t i = 0; i < stack.layers.size(); ++i) {
        const auto& layer = stack.layers[i];
        const QRectF r(x, ms.px(below + layer.ms), f.columnWidth, ms.px(below) - ms.px(below + layer.ms));
        drawSlab(sheet, view, stack, layer, r, i, ms);
        if (!labelCentre(r, ms.px(budgetOf(view.target()).value())) && r.height() > 1) thin.push_back({r, &layer});
        below += layer.ms;
    }
    // Above the column there is room up to the budget line, which has its own words.
    const double line = ms.px(budgetOf(view.target()).value());
    const double room = !place.over          ? std::min(f.bottom, place.lowest) - f.top
                        : *place.over > line ? *place.over - line - 3
                                             : *place.over - f.top - 10;
    std::reverse(thin.begin(), thin.end());
    if (place.over) std::reverse(thin.begin(), thin.end());
    thin.resize(std::min(thin.size(), static_cast<std::size_t>(std::max(0.0, room / 18))));
    const QRectF taken = outsideLabels(sheet, thin, place);
    const double budget = budgetOf(view.target()).value();
    const double usable = results::safeShareOf(view.session, *view.results, stack.lane) * budget;
    const double over = stack.totalMs - budget;
    if (over > 0)
        sheet.hatch(QRectF(x - 14, ms.px(stack.totalMs), 10, ms.px(budget) - ms.px(stack.totalMs)), Ink::Over, 6);
    const double w = sheet.text(x + f.columnWidth, f.bottom + 6,
                                say("%1 ms").arg(qs(wording::plusMinus(stack.totalMs, stack.halfWidth, 2))),
                                Type::BodyBold, Ink::Ink, Align::Right);
    sheet.text(x, f.bottom + 6, qs(wording::lane(view.w, stack.lane)), Type::Heading, Ink::Ink, Align::Left,
               f.columnWidth - w - 8);
    const double save = stack.totalMs - usable;
    const QString words = save > 0 ? say("limit %1 · %2 over").arg(qs(wording::ms(usable)), qs(wording::ms(save)))
                                   : say("limit %1 · %2 room").arg(qs(wording::ms(usable)), qs(wording::ms(-save)));
    sheet.text(x, f.bottom + 26, words, Type::Body, save > 0 ? Ink::Over : Ink::Muted, Align::Left,
               f.columnWidth + f.gap);
    if (over > 0.005)
        sheet.text(x, overTop(stack, ms, budget), QStringLiteral("+%1 ms").arg(qs(wording::ms(over))), Type::BodyBold,
                   Ink::Over, Align::Left, 0, Ink::Ground);
    return taken;
}

/// What each lane may use, as notches in the gap between the columns; in words where the first column leaves room.
void drawUsable(Sheet& sheet, const View& view, const std::vector<Stack>& stacks, const Frame& f, const Scale& ms,
                QRectF taken) {
    const double gapLeft = f.left + 6 + f.columnWidth, middle = gapLeft + f.gap / 2;
    for (std::size_t i = 0; i < stacks.size(); ++i) {
        const double usable =
            results::safeShareOf(view.session, *view.results, stacks[i].lane) * budgetOf(view.target()).value();
        const double y = ms.px(usable);
        const double from = i == 0 ? gapLeft + 1 : middle + 1, to = i == 0 ? middle - 1 : gapLeft + f.gap - 1;
        sheet.line({from, y}, {to, y}, Ink::Ink, 2);
        const QRectF words(from - 85, y - (i == 0 ? 4 : 9), 80, 16);
        const bool free = words.bottom() + 3 < ms.px(stacks.front().totalMs) && !words.intersects(taken);
        taken = taken.united(words); // limits that lie together have one figure; both stand under their columns
        if (stacks.size() > 1 && free)
            sheet.text(words.right(), words.top(), say("limit %1").arg(qs(wording::ms(usable))), Type::Small, Ink::Ink,
                       Align::Right, 0, Ink::Ground);
    }
}

/// The levels of the opened setting, from its thickest slab.
void drawOpened(Sheet& sheet, const View& view, const std::vector<Stack>& stacks, const Frame& f, const Scale& ms) {
    if (view.state<LayersState>().openSetting.isEmpty()) return;
    const double pxPerMs = ms.px(0) - ms.px(1);
    std::size_t best = stacks.size() - 1;
    double thickest = 0, below = stacks.back().totalMs;
    for (std::size_t i = 0; i < stacks.size(); ++i) {
        double at = 0;
        for (const auto& layer : stacks[i].layers) {
            if (qs(layer.setting) == view.state<LayersState>().openSetting && layer.ms > thickest) {
                best = i;
                thickest = layer.ms;
                below = at;
            }
            at += layer.ms;
        }
    }
    const double x = f.left + 6 + static_cast<double>(best) * (f.columnWidth + f.gap);
    const QRectF slab(x, ms.px(below + thickest), f.columnWidth, thickest * pxPerMs);
    // Beside the last column they leave the choice in sight.
    const double left = std::min(best + 1 == stacks.size() ? f.choiceX + 36 : slab.right() + 40, f.right - fanWidth);
    drawFan(sheet, view, stacks[best],
            {slab, pxPerMs, left, ms.px(budgetOf(view.target()).value()),
             QRectF(f.left, f.top, f.right - f.left, f.bottom - f.top)});
}

/// The choice as a narrow dashed stack beside the lane it thins most; its words keep out of the labels that lie there.
void drawChoice(Sheet& sheet, const View& view, const std::vector<Stack>& stacks, const Frame& f, const Scale& ms,
                QRectF labels) {
    const auto shown = choiceOf(view);
    if (!shown) return;
    const auto worst = std::max_element(shown->lanes.begin(), shown->lanes.end(), [](const auto& a, const auto& b) {
        return a.meanMs / a.usableMs < b.meanMs / b.usableMs;
    });
    const auto tops = [&](const std::vector<Stack>& all) {
        std::map<std::string, std::pair<double, double>> out; // top and thickness of each setting's slab
        for (const auto& stack : all) {
            if (stack.lane != worst->lane) continue;
            double below = 0;
            for (const auto& layer : stack.layers) {
                below += layer.ms;
                out[layer.setting] = {below, layer.ms};
            }
        }
        return out;
    };
    const auto after = tops(stacksOf(view, shown->values)), before = tops(stacks);
    for (const auto& [setting, slab] : after)
        sheet.rect(QRectF(f.choiceX, ms.px(slab.first), 30, ms.px(slab.first - slab.second) - ms.px(slab.first)),
                   Ink::None, Ink::Ink, 1.2, {4, 3});
    // Threads from the slabs that it thins, in the column to the left.
    const double columnRight = f.choiceX - 14 - f.gap;
    if (worst->lane == view.get<results::Costs>()->lanes.back().lane && view.state<LayersState>().openSetting.isEmpty())
        for (const auto& [setting, slab] : before) {
            const auto thin = after.find(setting);
            const double left = thin == after.end() ? 0 : thin->second.second;
            if (setting.empty() || thin == after.end() || slab.second - left < 0.1) continue;
            sheet.line({columnRight + 2, ms.px(slab.first)}, {f.choiceX, ms.px(thin->second.first)}, Ink::Muted, 1);
            sheet.line({columnRight + 2, ms.px(slab.first - slab.second)},
                       {f.choiceX, ms.px(thin->second.first - left)}, Ink::Muted, 1);
        }
    const double x = f.choiceX + 15, top = ms.px(worst->meanMs);
    sheet.interval({x, ms.px(worst->meanMs + worst->marginMs)}, {x, ms.px(worst->meanMs - worst->marginMs)}, 8,
                   Ink::Ink, 2, Ink::Ground);
    sheet.text(x, f.bottom + 6, say("choice"), Type::Body, Ink::Ink, Align::Centre);
    if (!view.state<LayersState>().openSetting.isEmpty()) return; // the fan lies there
    const double words = f.choiceX + 40;
    double y = std::max(f.top + 4, top - 8);
    if (labels.isValid() && y + 52 > labels.top() && y < labels.bottom())
        y = labels.top() - 56 > f.top - 20 ? labels.top() - 56 : labels.bottom() + 4;
    sheet.text(words, y, shown->accepted ? say("chosen") : say("proposed"), Type::BodyBold, Ink::Ink, Align::Left, 90,
               Ink::Ground);
    sheet.text(words, y + 18, qs(wording::plusMinus(worst->meanMs, worst->marginMs, 2)), Type::BodyBold, Ink::Ink,
               Align::Left, 0, Ink::Ground);
    sheet.text(words, y + 35, say("%1 ms").arg(qs(wording::lane(view.w, worst->lane))), Type::Small, Ink::Muted,
               Align::Left, 90, Ink::Ground);
}

void drawMemory(Sheet& sheet, const View& view, const Frame& f) {
    const auto* machine = view.session.machine();
    const auto& costs = *view.get<results::Costs>();
    if (machine == nullptr || (!costs.gpuMemory && !costs.systemMemoryMib)) return;
    const double top = memoryTopOf(f);
    sheet.line({f.memoryX - 16, top - 16}, {f.memoryX - 16, f.bottom}, Ink::Line, 1);
    const auto column = [&](double x, double used, double most, Mebibytes size, const QString& name) {
        const Scale mib{0, 1.18 * std::max(size.value(), used), f.bottom, top};
        sheet.slab(QRectF(x, mib.px(used - most), 30, f.bottom - mib.px(used - most)), Ink::Mem, 5);
        if (most > 0) sheet.slab(QRectF(x, mib.px(used), 30, mib.px(used - most) - mib.px(used) - 1.6), Ink::Mem2, 6);
        if (size.value() > 0) {
            sheet.line({x - 4, mib.px(size.value())}, {x + 34, mib.px(size.value())}, Ink::Ink, 2);
            sheet.text(x + 38, mib.px(size.value()) - 9, qs(wording::gib(size.value())), Type::Small, Ink::Muted);
        } else { // what the machine has is not known: it limits nothing
            sheet.text(x, mib.px(used) - 18, say("size not set"), Type::Small, Ink::Muted, Align::Left, 84);
        }
        if (mib.px(used - most) - mib.px(used) > 14) {
            double y = mib.px(used - most / 2) - 8;
            if (const double edge = mib.px(size.value()) - 9; size.value() > 0 && std::abs(y - edge) < 17)
                y = edge + 17;
            sheet.text(x + 38, y, say("%1 less").arg(qs(wording::gib(most))), Type::Small, Ink::Muted, Align::Left, 52);
        }
        sheet.text(x, f.bottom + 6, name, Type::BodyBold, Ink::Ink, Align::Left, 84);
        sheet.text(x, f.bottom + 26, say("%1 GiB").arg(qs(wording::gib(used))), Type::Body, Ink::Muted, Align::Left,
                   92);
    };
    if (costs.gpuMemory) {
        // What the setting that holds most of it would give back.
        const auto& levels = *costs.gpuMemory;
        double most = 0;
        for (std::size_t i = 0; i < levels.columns.size(); ++i) most = std::max(most, -levels.estimate[i + 1]);
        column(f.memoryX, levels.estimate[0], std::min(most, levels.estimate[0]), machine->gpuMemory,
               say("GPU memory"));
    }
    if (costs.systemMemoryMib) column(f.memoryX + 88, *costs.systemMemoryMib, 0, machine->systemMemory, say("system"));
}

void drawBudget(Sheet& sheet, const View& view, const std::vector<Stack>& stacks, const Frame& f, const Scale& ms) {
    const double budget = budgetOf(view.target()).value(), end = f.choiceX + 66;
    const double y = ms.px(budget);
    sheet.line({f.left, y}, {end, y}, Ink::Over, 2.6, {}, Ink::Ground);
    sheet.circle({end, y}, 8, Ink::Over);
    const QString words =
        say("budget %1 ms, %2 fps").arg(QString::number(budget, 'f', 2), qs(wording::wishFps(view.target())));
    // Where the first column reaches above the line the words stand on a tag.
    if (!stacks.empty() && stacks.front().totalMs > budget)
        sheet.rect(QRectF(f.left, y - 23, textWidth(words, Type::BodyBold) + 12, 20), Ink::Ground);
    sheet.text(f.left, y - 22, words, Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Ground);
    Hot h;
    h.id = QStringLiteral("budget");
    h.name = say("Budget line, %1 fps").arg(qs(wording::wishFps(view.target())));
    h.role = Role::Line;
    h.rect = QRectF(f.left, y - 9, end + 10 - f.left, 18);
    h.ring = QRectF(end - 8, y - 8, 16, 16);
    h.hint = say("Drag, or [ and ], to try another rate");
    sheet.hot(h);
}

} // namespace

Scale layersScale(const View& view, QSizeF size) {
    const Frame f = frameOf(view, size);
    return {0, topOf(view, stacksOf(view)), f.bottom, f.top};
}

Drawing layoutLayers(const View& view, QSizeF size) {
    const auto stacks = stacksOf(view);
    if (stacks.empty())
        return layoutEmpty(
            view, size, say("Where the milliseconds go"),
            say("A slab for every setting will appear here, as thick as the milliseconds it adds to a frame, "
                "against the budget line."));
    Sheet sheet(size);
    // Every lane stands in its own heaviest part.
    QString parts;
    for (const auto& lane : view.get<results::Costs>()->lanes) {
        const QString part = qs(wording::part(view.w, lane.worstPart));
        if (parts.isEmpty())
            parts = part;
        else if (parts != part)
            parts = say("CPU in %1, GPU in %2").arg(parts, part);
    }
    const auto& costs = *view.get<results::Costs>();
    const auto* walking = stepOf(view);
    const QString known = costs.runs == 1 ? say("after the first run") : say("after %1 runs").arg(costs.runs);
    const bool usual = std::any_of(stacks.begin(), stacks.end(), [](const Stack& stack) {
        return std::any_of(stack.layers.begin(), stack.layers.end(), [](const Layer& l) { return l.usual; });
    });
    sheet.heading(
        24, 12, say("Where the milliseconds go, %1").arg(known),
        (costs.hidden ? say("frame times only · ") : QString()) +
            (costs.ground.chooser && !costs.ground.chooser->allowed().rulesKept
                 ? say("locks go against the game's rules, and are kept · ")
                 : QString()) +
            (costs.ground.inventedMs > 0
                 ? say("%1 ms of the GPU kept for invented frames · ").arg(qs(wording::ms(costs.ground.inventedMs)))
                 : QString()) +
            (walking != nullptr ? say("the walk so far: %1 · ").arg(qs(wording::walk(view.w, walking->walk)))
                                : QString()) +
            (usual ? say("heaviest part: %1 · bars: 95% · dashed: not run yet, as thick as usual").arg(parts)
                   : say("heaviest part: %1 · bars: 95% · drag the line, or [ and ], to try another rate").arg(parts)),
        facesWidth());
    const Frame f = frameOf(view, size);
    const Scale ms{0, topOf(view, stacks), f.bottom, f.top};
    const double step = niceStep(ms.toValue, f.bottom - f.top < 320 ? 4 : 5);
    for (double v = 0; v <= ms.toValue + 1e-9; v += step) {
        sheet.line({f.left, ms.px(v)}, {f.choiceX + 60, ms.px(v)}, Ink::Grid, 1);
        sheet.text(f.left - 6, ms.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(f.left - 6, f.top - 26, say("ms"), Type::Small, Ink::Muted, Align::Right);
    QRectF taken, beside;
    for (std::size_t i = 0; i < stacks.size(); ++i) {
        const double x = f.left + 6 + static_cast<double>(i) * (f.columnWidth + f.gap);
        const bool last = i + 1 == stacks.size();
        // Thin slabs of the first column are labelled above it, of the last one at its right.
        const Outside right{f.choiceX + 84, std::min(f.right, f.choiceX + 264), {}, memoryTopOf(f) - 26};
        const double budget = budgetOf(view.target()).value();
        double pile = stacks[i].totalMs > budget ? overTop(stacks[i], ms, budget) - 4 : ms.px(stacks[i].totalMs) - 6;
        const double usable = last ? 0 : results::safeShareOf(view.session, *view.results, stacks[i + 1].lane) * budget;
        if (!last && std::abs(ms.px(usable) - (pile - 9)) < 60) pile = std::min(pile, ms.px(usable) - 10);
        const Outside above{x + 34, x + f.columnWidth - 6, pile};
        const QRectF labels = drawStack(sheet, view, stacks[i], x, f, ms, last ? right : above);
        (last ? beside : taken) = labels;
    }
    drawChoice(sheet, view, stacks, f, ms, beside);
    if (view.state<LayersState>().openSetting.isEmpty())
        drawMemory(sheet, view, f); // else the fan lies there, and tells the memory
    drawUsable(sheet, view, stacks, f, ms, taken);
    drawBudget(sheet, view, stacks, f, ms);
    drawOpened(sheet, view, stacks, f, ms);
    drawWays(sheet, view);
    drawFaces(sheet, view);
    return sheet.take();
}

} // namespace impasto::app
