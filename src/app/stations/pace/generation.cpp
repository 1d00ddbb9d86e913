// SPDX-License-Identifier: GPL-3.0-or-later
// Frame generation: one frame through its stages, the base cap on the panel's range, and every kind and multiplier as a
// cell with its base and shown rate.
#include <cmath>
#include <impasto/wording/generation.h>

#include "stations/pace/pace.h"

namespace impasto::app {
namespace {

QString idOf(std::size_t offer) {
    return QStringLiteral("generation.%1").arg(offer);
}

double highestOf(const display::Panel& panel) {
    return panel.variable ? panel.variable->highest.value() : pace::modesOf(panel).back().value();
}

/// What the shown rate is to the panel: inside a variable range or above it, filling a fixed panel or not.
QString shownOnPanel(const display::Panel& panel, Fps base, int times) {
    const double shown = times * base.value(), highest = highestOf(panel);
    const bool over = shown > 1.001 * highest, fills = !over && shown > 0.999 * highest;
    return (over             ? say("more than the panel shows: %1 × %2 = %3")
            : panel.variable ? shown < panel.variable->lowest.value() ? say("below the range: %1 × %2 = %3")
                                                                      : say("inside the range: %1 × %2 = %3")
            : fills ? say("fills the panel: %1 × %2 = %3")
                             : say("uneven on the panel: %1 × %2 = %3"))
        .arg(qs(wording::wishFps(base)))
        .arg(times)
        .arg(qs(wording::wishFps(Fps(shown))));
}

/// The marker of the base cap, to be dragged.
void baseKnob(Sheet& sheet, const display::Panel& panel, const Scale& bases, double axis, Fps base, int times) {
    const double at = bases.px(std::clamp(base.value(), bases.fromValue, bases.toValue));
    sheet.line({at, axis - 24}, {at, axis}, Ink::Over, 2.6);
    sheet.circle({at, axis - 24}, 6, Ink::Over);
    const QString words = shownOnPanel(panel, base, times);
    const bool left = textWidth(words, Type::BodyBold) < at - 12 - bases.fromPx;
    sheet.text(left ? at - 12 : at + 12, axis - 34, words, Type::BodyBold, Ink::Over,
               left ? Align::Right : Align::Left);
    Hot knob;
    knob.id = QStringLiteral("generation.knob");
    knob.name = say("Base cap %1 fps").arg(qs(wording::wishFps(base)));
    knob.role = Role::Edge;
    knob.rect = QRectF(at - 10, axis - 34, 20, 20);
    knob.hint = say("Drag it, or Up and Down by 1 fps");
    sheet.hot(knob);
}

/// The rates a base cap may have, times the multiplier, on the panel.
void baseScale(Sheet& sheet, const View& view, const pace::GenerationOffer& offer, double top) {
    const auto panel = view.session.panel();
    const auto base = shownBase(view);
    if (!panel || pace::modesOf(panel).empty() || !base) return;
    const int m = offer.generation().multiplier;
    const double highest = highestOf(*panel);
    const Scale bases = paceBaseScale(view, sheet.size());
    const double left = bases.fromPx, right = bases.toPx, axis = top + 34;
    const Scale x{m * bases.fromValue, m * bases.toValue, left, right}; // of what is shown
    sheet.text(24, top + 14, say("Base cap"), Type::BodyBold);
    sheet.text(24, top + 31, say("× %1 = shown, fps").arg(m), Type::Small, Ink::Muted);
    if (panel->variable) {
        const double from = x.px(panel->variable->lowest.value()), to = x.px(highest);
        sheet.area(QPolygonF(QRectF(from, axis - 18, to - from, 18)), Ink::Disp, 0.28);
        sheet.text(from + 8, axis - 17, say("the panel follows every shown rate here"), Type::Small, Ink::Ink,
                   Align::Left, std::max(20.0, std::min(x.px(m * base->value()), to) - from - 90));
    }
    sheet.line({left, axis}, {right, axis}, Ink::Ink, 1.5);
    const auto filling = pace::fillingCap(panel, m);
    const QString fills = panel->variable && filling
                              ? say("fills a fixed %1 Hz panel: %2 × %3")
                                    .arg(qs(wording::wishFps(Fps(highest))), qs(wording::wishFps(*filling)))
                                    .arg(m)
                              : QString();
    const double labelFrom = x.px(highest) + 4 - textWidth(fills, Type::Small);
    for (const double rate : {30.0, 48.0, 60.0, 72.0, 96.0, 120.0, 144.0, 180.0, 240.0}) {
        if (x.px(rate) > labelFrom - 16) continue;
        sheet.line({x.px(rate), axis}, {x.px(rate), axis + 5}, Ink::Ink, 1.2);
        sheet.text(x.px(rate), axis + 6, QString::number(rate), Type::Small, Ink::Muted, Align::Centre);
    }
    baseKnob(sheet, *panel, bases, axis, *base, m);
    if (fills.isEmpty()) return;
    const double fill = x.px(highest);
    sheet.circle({fill, axis}, 4.5, Ink::Paper, Ink::Ink);
    sheet.text(fill + 4, axis + 8, fills, Type::Small, Ink::Ink, Align::Right);
}

/// Of an adaptive plan, in its place.
void adaptiveScale(Sheet& sheet, const pace::GenerationOffer& offer, double top) {
    sheet.text(24, top + 14, say("No base cap"), Type::BodyBold);
    sheet.text(150, top + 14,
               say("as many are invented as bring the shown rate near %1 fps, in whole multiples of the base")
                   .arg(qs(wording::wishFps(*offer.generation().target))),
               Type::Body, Ink::Muted, Align::Left, sheet.width() - 174);
    if (offer.shown.middle > 1.02 * offer.generation().target->value())
        sheet.text(150, top + 33, say("the base is fast enough without many"), Type::Small, Ink::Muted, Align::Left,
                   sheet.width() - 174);
}

/// Shown frames a rendered one: of adaptive generation on average.
int timesOf(const pace::GenerationOffer& offer) {
    if (!offer.generation().target) return offer.generation().multiplier;
    return std::max(1, static_cast<int>(std::lround(offer.shown.middle / offer.base.middle)));
}

/// Twelve frames as the panel gets them.
void twelve(Sheet& sheet, double x, double y, double w, int multiplier) {
    const double each = w / 12;
    for (int i = 0; i < 12; ++i)
        sheet.rect(QRectF(x + i * each, y, each - 1.4, 9), i % multiplier == 0 ? Ink::DispText : Ink::Gen);
}

void cell(Sheet& sheet, const View& view, const pace::GenerationOffer& offer, std::size_t index, QRectF r, bool shown) {
    const bool chosen = view.edits().pacing.cap && view.edits().pacing.cap->plan == offer.plan;
    sheet.rect(r, shown ? Ink::Paper : Ink::None, shown ? Ink::Ink : Ink::Line, shown ? 1.5 : 1.2);
    const double x = r.x() + 10, w = r.width() - 20;
    const double end = sheet.text(
        x, r.y() + 5, say("%1 → %2").arg(qs(wording::fps(offer.base.middle)), qs(wording::fps(offer.shown.middle))),
        Type::Heading);
    if (end + 90 < w) sheet.text(x + end + 4, r.y() + 8, say("fps"), Type::Small);
    if (offer.latencyMs)
        sheet.text(x + w, r.y() + 5, say("%1 ms").arg(std::lround(*offer.latencyMs)), Type::Heading, Ink::Ink,
                   Align::Right);
    twelve(sheet, x, r.y() + 27, w, timesOf(offer));
    const QString misses = qs(wording::generationMisses(view.w, *view.edits().goal.brief, offer));
    const double taken = misses.isEmpty() ? 0 : textWidth(misses, Type::Small) + 8;
    QString state = chosen ? say("chosen") : qs(wording::generationKeepsUp(view.w, offer));
    if (textWidth(state, Type::Small) > w - taken) state = qs(wording::generationBusy(view.w, offer));
    sheet.text(x, r.y() + 40, state, Type::Small, Ink::Ink, Align::Left, std::max(20.0, w - taken));
    if (!misses.isEmpty()) sheet.text(x + w, r.y() + 40, misses, Type::Small, Ink::Over, Align::Right);
    Hot h;
    h.id = idOf(index);
    h.name = say("%1, %2").arg(qs(wording::generationLine(view.w, offer)),
                               qs(wording::generationPlace(view.w, offer.generation())));
    h.rect = r;
    h.role = Role::Row;
    h.hint = say("Look at it; pressed again it is taken");
    sheet.hot(h);
}

/// A row a kind and place, a column a multiplier, the last for adaptive; gives their end.
double grid(Sheet& sheet, const View& view, const pace::GenerationPlan& plan, double top) {
    const double left = 132, right = sheet.width() - 24;
    const auto columns = pace::plansAKind;
    const double pitch = (right - left + 10) / static_cast<double>(columns);
    const double rows =
        std::max(1.0, std::ceil(static_cast<double>(plan.offers.size()) / static_cast<double>(columns)));
    const double height = std::min(66.0, (sheet.height() - top - 46) / rows);
    sheet.text(24, top, say("The plan"), Type::Heading);
    for (std::size_t c = 0; c < columns; ++c) {
        const double x = left + static_cast<double>(c) * pitch;
        const bool adaptive = c == pace::plannedMultipliers.size();
        const int m = adaptive ? 0 : pace::plannedMultipliers[c];
        const double w =
            sheet.text(x + 10, top + 1, adaptive ? say("adaptive") : QStringLiteral("×%1").arg(m), Type::BodyBold);
        const auto& aim = plan.offers[std::min(c, plan.offers.size() - 1)].generation().target;
        sheet.text(x + 18 + w, top + 2,
                   !adaptive ? say("%1 of %2 invented").arg(m - 1).arg(m)
                   : aim     ? say("to %1 fps").arg(qs(wording::wishFps(*aim)))
                             : QString(),
                   Type::Small, Ink::Muted, Align::Left, std::max(20.0, pitch - 30 - w));
    }
    for (std::size_t i = 0; i < plan.offers.size(); ++i) {
        const auto& offer = plan.offers[i];
        const double y = top + 24 + height * static_cast<double>(i / columns);
        if (i % columns == 0) {
            sheet.text(24, y + 8, qs(wording::generationKind(view.w, offer.generation().kind)), Type::BodyBold);
            sheet.text(24, y + 26, qs(wording::generationPlace(view.w, offer.generation())), Type::Small, Ink::Muted);
        }
        cell(sheet, view, offer, i,
             QRectF(left + static_cast<double>(i % columns) * pitch, y, pitch - 10, std::min(58.0, height - 6)),
             shownGeneration(view) == &offer);
    }
    sheet.text(24, top + 24 + height * rows + 2,
               plan.costs.measured
                   ? say("What inventing takes was measured on this GPU. Busy: the GPU that invents.")
                   : say("What inventing takes is usual, not measured here. Busy: the GPU that invents."),
               Type::Small, Ink::Muted, Align::Left, sheet.width() - 48);
    return top + 24 + height * rows + 22;
}

} // namespace

const pace::GenerationOffer* shownGeneration(const View& view) {
    const auto* plan = view.get<pace::GenerationPlan>();
    if (plan == nullptr || plan->offers.empty()) return nullptr;
    if (const auto& picked = view.state<PaceState>().generation; picked && *picked < plan->offers.size())
        return &plan->offers[*picked];
    if (const auto& cap = view.edits().pacing.cap; cap && cap->plan.generation) {
        for (const auto& offer : plan->offers)
            if (offer.plan == cap->plan) return &offer;
        const auto* own = view.get<results::OwnCap>();
        if (own != nullptr && own->invented && own->invented->plan == cap->plan) return &*own->invented;
        for (const auto& offer : plan->offers) // until it is computed
            if (offer.generation() == *cap->plan.generation) return &offer;
    }
    return &plan->offers[plan->best.value_or(0)];
}

std::optional<pace::CapPlan> shownInventing(const View& view) {
    const auto* offer = shownGeneration(view);
    if (offer == nullptr) return std::nullopt;
    const auto& cap = view.edits().pacing.cap;
    const bool chosen = !view.state<PaceState>().generation && cap && cap->plan.generation == offer->generation();
    auto plan = chosen ? cap->plan : offer->plan;
    if (const auto& dragged = view.state<PaceState>().draggedBase; dragged && plan.cap) plan.cap = Fps(*dragged);
    return plan;
}

std::optional<Fps> shownBase(const View& view) {
    const auto plan = shownInventing(view);
    return plan ? plan->cap : std::nullopt;
}

Scale paceBaseScale(const View& view, QSizeF size) {
    const auto panel = view.session.panel();
    const auto* offer = shownGeneration(view);
    const double times = offer == nullptr ? 1 : offer->generation().multiplier;
    const double highest = panel && !pace::modesOf(panel).empty() ? highestOf(*panel) : 60;
    return {24 / times, 1.04 * highest / times, 150, size.width() - 24};
}

Drawing layoutGeneration(const View& view, QSizeF size) {
    const auto* plan = view.get<pace::GenerationPlan>();
    const auto* offer = shownGeneration(view);
    if (plan == nullptr || offer == nullptr) {
        Sheet empty(size);
        const double taken = drawPaceFaces(empty, view);
        empty.heading(24, 12, say("Frame generation"), {}, taken);
        empty.wrapped(
            24, 60, size.width() - 60,
            say("What is left of the GPU for inventing frames follows from CPU and GPU work. This log has frame "
                "times alone: order one run with generation on to know."),
            Type::Body, Ink::Muted);
        return empty.take();
    }
    Sheet sheet(size);
    const double taken = drawPaceFaces(sheet, view);
    const auto base = shownBase(view);
    const QString times = qs(wording::generationTimes(view.w, offer->generation()));
    sheet.heading(24, 12,
                  base ? say("What %1 %2 does to these frames").arg(qs(wording::wishFps(*base)), times)
                       : say("What generation %1 does to these frames").arg(times),
                  (base ? say("replayed: base cap in the game, generation %1 on the %2 · N: the worst frame")
                        : say("replayed: generation %1 on the %2 · N: the worst frame"))
                      .arg(qs(wording::generationKind(view.w, offer->generation().kind)),
                           qs(wording::generationPlace(view.w, offer->generation()))),
                  taken);
    const auto scale = [&](double top) {
        if (offer->generation().target)
            adaptiveScale(sheet, *offer, top);
        else
            baseScale(sheet, view, *offer, top);
        return top + 62;
    };
    const bool frames = size.height() >= 540;
    const double end = grid(sheet, view, *plan, frames ? scale(drawFrames(sheet, view, 62) + 8) : 62);
    if (!frames && end + 80 < size.height()) scale(end + 14);
    return sheet.take();
}

Drawing layoutGenerationColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto& plan = *view.get<pace::GenerationPlan>();
    const auto& offer = *shownGeneration(view);
    const auto& brief = *view.edits().goal.brief;
    double y = sheet.wrapped(x, 16, w,
                             say("%1 %2, %3")
                                 .arg(qs(wording::generationKind(view.w, offer.generation().kind)),
                                      qs(wording::generationTimes(view.w, offer.generation())),
                                      qs(wording::generationPlace(view.w, offer.generation()))),
                             Type::Heading) +
               2;
    const auto range = [](const pace::Band& b) {
        return b.high - b.low < 0.05 * b.middle
                   ? say("%1 fps").arg(qs(wording::fps(b.middle)))
                   : say("%1 (%2–%3) fps")
                         .arg(qs(wording::fps(b.middle)), qs(wording::fps(b.low)), qs(wording::fps(b.high)));
    };
    const auto line = [&](const QString& name, const QString& figure) {
        sheet.row(x, y, w, name, figure, Type::BodyBold);
        y += 21;
    };
    if (const auto base = shownBase(view))
        y = drawTyped(sheet, x, y + 4, w, QStringLiteral("generation.base"), say("base cap, fps"),
                      qs(wording::wishFps(*base)));
    line(say("base rate, steers"), range(offer.base));
    line(say("shown rate"), range(offer.shown));
    line(say("base, slowest part"), say("%1 fps").arg(qs(wording::fps(offer.slowestPart))));
    if (offer.latencyMs)
        line(say("latency"),
             plan.latencyWithout
                 ? say("%1 → %2 ms").arg(qs(wording::ms(*plan.latencyWithout)), qs(wording::ms(*offer.latencyMs)))
                 : say("%1 ms").arg(qs(wording::ms(*offer.latencyMs))));
    line(say("GPU that invents, busy"), qs(wording::percent(offer.busy)));
    const bool chosen = view.edits().pacing.cap && view.edits().pacing.cap->plan == offer.plan;
    y += 8;
    if (!chosen) {
        sheet.button(QRectF(x, y, w, 30), QStringLiteral("generation.take"), say("Take this plan"));
        y += 40;
    }
    if (!brief.shown)
        y = sheet.wrapped(x, y, w,
                          say("The target counts rendered frames. To wish for a shown rate too, say it in the brief."),
                          Type::Note, Ink::Muted) +
            8;
    sheet.text(x, y, say("Before you take it"), Type::Heading);
    y += 24;
    for (const auto& caution : wording::generationCautions(view.w, brief, offer, plan.latencyWithout)) {
        if (y + 40 > size.height()) break;
        y = sheet.wrapped(x, y, w, qs(caution), Type::Body) + 5;
    }
    return sheet.take();
}

} // namespace impasto::app
