// SPDX-License-Identifier: GPL-3.0-or-later
// Every school's cap with what it gives, and the one in question, predicted and proven.
#include <cmath>
#include <impasto/results/power.h>
#include <impasto/wording/bounds.h>

#include "stations/pace/pace.h"
#include "stations/pages.h"

namespace impasto::app {
namespace {

/// Predicted and, where the cap was run, proven; gives their end.
double predictionLines(Sheet& sheet, const View& view, const pace::CapOffer& offer, double x, double y, double w) {
    const auto& p = offer.foretold ? *offer.foretold : offer.prediction;
    const auto paced = offer.plan.pacedTo();
    const QString at = paced ? say("At %1").arg(qs(wording::wishFps(*paced))) : say("Without a cap");
    sheet.text(x, y + 8, offer.measured ? say("%1, predicted and proven").arg(at) : say("%1, predicted").arg(at),
               Type::Heading);
    y += 32;
    const auto line = [&](const QString& name, const QString& figure, bool off = false) {
        if (y + 20 > sheet.height()) return;
        sheet.row(x, y, w, name, figure, Type::BodyBold, off ? Ink::Over : Ink::Ink);
        y += 21;
    };
    const std::pair<pace::Figure, QString> rows[] = {{pace::Figure::Average, say("average")},
                                                     {pace::Figure::OnePercentLow, say("1% low")},
                                                     {pace::Figure::TenthPercentLow, say("0.1% low")},
                                                     {pace::Figure::SlowestSecond, say("slowest second")},
                                                     {pace::Figure::OnTime, say("on time, worst part")}};
    const auto asked = [&] { // goals, as they are expected or proven
        for (const auto bound : run::allBounds) {
            const auto &wanted = view.edits().goal.brief->bounds[bound], &is = offer.bounds[bound];
            if (!wanted) continue;
            line(qs(wording::boundAsked(view.w, bound, *wanted)),
                 is ? qs(wording::boundFigure(view.w, bound, *is)) : say("not known"),
                 is && run::missOf(bound, *wanted, *is) > 0);
        }
    };
    for (const auto& [figure, name] : rows) {
        if (figure == pace::Figure::TenthPercentLow) asked();
        QString text = qs(wording::capBand(view.w, figure, p.of(figure)));
        bool off = false;
        if (offer.measured) {
            const double is = offer.measured->of(figure);
            off = is < p.of(figure).low - 1e-9 || is > p.of(figure).high + 1e-9;
            text += QStringLiteral(" → ") + qs(wording::capFigure(view.w, figure, is)).remove(QStringLiteral(" fps"));
        }
        line(name, text, off);
    }
    line(say("latency, CPU start to panel"),
         p.latencyMs ? say("%1 ms").arg(qs(wording::ms(*p.latencyMs))) : say("not known"));
    line(say("GPU busy"), p.gpuBusy ? qs(wording::percent(*p.gpuBusy)) : say("not known"));
    return y;
}

} // namespace

Drawing layoutPaceColumn(const View& view, QSizeF size) {
    if (view.get<results::Worn>() != nullptr && view.edits().goal.brief) return layoutWornColumn(view, size);
    if (paceFace(view) == PaceFace::Generation && shownGeneration(view) != nullptr)
        return layoutGenerationColumn(view, size);
    if (paceFace(view) == PaceFace::Power && view.get<results::PowerView>() != nullptr)
        return layoutPowerColumn(view, size);
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    sheet.text(x, 16, say("Cap rules, on your own frames"), Type::Heading);
    if (!view.get<results::CapView>()) {
        sheet.wrapped(x, 40, w,
                      say("Best lows, headroom, slowest seconds, even, inside the variable range, no cap: each rule "
                          "will show its cap here and what it does to the lows."),
                      Type::Body, Ink::Muted);
        return sheet.take();
    }
    sheet.text(
        x, 37,
        say("replayed, %1").arg(qs(wording::lowRule(view.w, view.get<results::CapView>()->replay.brief.lowRule))),
        Type::Body, Ink::Muted);
    double y = 62;
    std::vector<const pace::CapOffer*> all;
    if (const auto* own = view.get<results::OwnCap>(); own != nullptr && own->offer) all.push_back(&*own->offer);
    for (const auto& offer : view.get<results::CapView>()->offers) all.push_back(&offer);
    const auto& best = view.get<results::CapView>()->offers.front();
    const auto lines = [&](const pace::CapOffer& offer) {
        if (offer.conflict) return qs(wording::capConflict(view.w, *offer.conflict));
        const auto loses = wording::capLoses(view.w, *view.edits().goal.brief, offer, best);
        return qs(loses.empty() ? wording::capPrediction(view.w, offer.prediction) : loses);
    };
    const auto page = pageIn(view, QStringLiteral("caps"), all.size(), size.height() - y - 4, 57);
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& offer = *all[i];
        const bool chosen = view.edits().pacing.cap && view.edits().pacing.cap->school == offer.school;
        const QRectF r(x - 4, y, w + 8, 52);
        sheet.rect(r, chosen ? Ink::Paper : Ink::None, chosen ? Ink::Ink : Ink::Line, chosen ? 1.5 : 1.2);
        sheet.text(x + 40, y + 14,
                   offer.plan.pacedTo() ? QString::number(std::round(offer.plan.pacedTo()->value()))
                                        : QStringLiteral("–"),
                   Type::CapFigure, chosen ? Ink::Over : Ink::Ink, Align::Right);
        sheet.text(x + 52, y + 3, qs(wording::capRule(view.w, offer.school)), Type::BodyBold,
                   offer.applies ? Ink::Ink : Ink::Muted, Align::Left, w - 56);
        sheet.text(x + 52, y + 19,
                   offer.applies ? qs(wording::capPlanBeside(view.w, offer.plan, view.session.panel()))
                                 : qs(wording::capRuleMeaning(view.w, offer.school, view.rules)),
                   Type::Small, Ink::Muted, Align::Left, w - 56);
        const QString loses = lines(offer);
        sheet.text(x + 52, y + 34, offer.applies ? loses : say("not applicable here"), Type::Small,
                   offer.conflict ? Ink::Over : Ink::Ink, Align::Left, w - 56);
        Hot h;
        h.id = QStringLiteral("cap.") + qs(std::string(pace::keyOf(offer.school)));
        h.name = say("Cap: %1").arg(qs(wording::capRule(view.w, offer.school)));
        h.rect = r;
        h.focusable = offer.applies;
        sheet.hot(h);
        y += 57;
    }
    drawPager(sheet, x + w, y, page, say("%1 to %2 of %3"));
    if (!page.whole()) y += pagerHeight;
    const auto* now = results::shownOffer(view.session, *view.results);
    if (now == nullptr || y + 110 > size.height()) return sheet.take();
    y = predictionLines(sheet, view, *now, x, y, w);
    const QString stale = qs(wording::stale(view.w, results::standingOf(*view.results).cap));
    if (!stale.isEmpty() && y + 20 < size.height()) sheet.text(x, y + 2, stale, Type::BodyBold, Ink::Over);
    return sheet.take();
}

} // namespace impasto::app
