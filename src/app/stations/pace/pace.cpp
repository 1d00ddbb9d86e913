// SPDX-License-Identifier: GPL-3.0-or-later
// Ten frames of a replay on their rows, and the cap against average and lows under them.
#include "stations/pace/pace.h"

#include <impasto/results/power.h>

namespace impasto::app {

PaceFace paceFace(const View& view) {
    if (const auto& face = view.state<PaceState>().face) return *face;
    const auto& cap = view.edits().pacing.cap;
    const bool invents = cap ? cap->plan.generation.has_value() : results::bestGeneration(*view.results) != nullptr;
    return invents ? PaceFace::Generation : PaceFace::Caps;
}

pace::CapPlan ownPlan(const View& view, std::optional<Fps> fps) {
    const auto& cap = view.edits().pacing.cap;
    const auto style = view.edits().goal.brief->style;
    auto plan = pace::planFor(fps, view.session.panel(), style, view.rules.limiterErrorMs);
    if (fps && cap) plan.limiter = cap->plan.limiter;
    return plan;
}

pace::CapPlan shownPlan(const View& view) {
    if (const auto& dragged = view.state<PaceState>().dragged; dragged && view.edits().goal.brief)
        return ownPlan(view, Fps(*dragged));
    if (paceFace(view) == PaceFace::Generation) return shownInventing(view).value_or(pace::CapPlan{});
    if (view.edits().pacing.cap) return view.edits().pacing.cap->plan;
    const auto* offer = results::shownOffer(view.session, *view.results);
    return offer == nullptr ? pace::CapPlan{} : offer->plan;
}

std::optional<Fps> shownCap(const View& view) {
    if (const auto& dragged = view.state<PaceState>().dragged) return Fps(*dragged);
    return shownPlan(view).pacedTo();
}

double drawPaceFaces(Sheet& sheet, const View& view) {
    const QString hint = say("G: the next one");
    const std::tuple<PaceFace, QString, QString> faces[] = {
        {PaceFace::Power, QStringLiteral("pace.face.power"), say("power")},
        {PaceFace::Generation, QStringLiteral("pace.face.generation"), say("generation")},
        {PaceFace::Caps, QStringLiteral("pace.face.caps"), say("caps")}};
    double left = sheet.width() - 20;
    for (const auto& [face, id, word] : faces) left = sheet.choice(left, 14, id, word, hint, paceFace(view) == face);
    return sheet.width() - 20 - left;
}

double drawPictures(Sheet& sheet, const QString& first, const QString& second, bool isFirst) {
    const QString hint = say("V: the other picture");
    const double left = sheet.choice(sheet.width() - 20, 38, QStringLiteral("pace.frames"), first, hint, isFirst);
    return sheet.choice(left, 38, QStringLiteral("pace.caps"), second, hint, !isFirst);
}

double drawTyped(Sheet& sheet, double x, double y, double w, const QString& id, const QString& name,
                 const QString& text) {
    sheet.text(x, y + 3, name, Type::Body, Ink::Muted, Align::Left, w - 84);
    sheet.text(x + w - 74, y, text.isEmpty() ? QStringLiteral("\u2013") : text, Type::Value,
               text.isEmpty() ? Ink::Muted : Ink::Ink, Align::Left, 70);
    sheet.line({x + w - 76, y + 21}, {x + w, y + 21}, Ink::Ink, 1.2);
    Hot h;
    h.id = id;
    h.name = name;
    h.role = Role::Value;
    h.rect = QRectF(x + w - 78, y - 2, 78, 25);
    h.edit = text;
    sheet.hot(h);
    return y + 30;
}

Drawing layoutPace(const View& view, QSizeF size) {
    if (view.get<results::Worn>() != nullptr && view.edits().goal.brief) return layoutWorn(view, size);
    if (!view.get<results::CapView>() || view.get<results::CapView>()->curve.empty() || !view.edits().goal.brief)
        return layoutEmpty(
            view, size, say("What a cap does to these frames"),
            results::idsOf<results::ReadChecks>(*view.results).empty()
                ? say("Runs with the chosen settings come first: every cap is computed from their frames, all "
                      "rules side by side.")
                : say("The choice was read off a counter: without its frames no cap can be tried on them. Drop a log "
                      "of it to see them."));
    if (paceFace(view) == PaceFace::Generation && view.get<pace::GenerationPlan>() != nullptr)
        return layoutGeneration(view, size);
    if (paceFace(view) == PaceFace::Power && view.get<results::PowerView>() != nullptr) return layoutPower(view, size);
    Sheet sheet(size);
    const auto cap = shownCap(view);
    const double taken = drawPaceFaces(sheet, view);
    const bool both = size.height() >= 500, frames = both || view.state<PaceState>().frames;
    double left = size.width() - 20;
    if (!both) left = drawPictures(sheet, say("frames"), say("curves"), frames);
    const auto& run = *view.session.facts->run(view.get<results::CapView>()->run);
    sheet.heading(24, 12,
                  cap ? say("What a cap of %1 fps does to these frames").arg(qs(wording::wishFps(*cap)))
                      : say("What these frames do without a cap"),
                  say("%1, replayed · Up and Down: another frame, N: the worst")
                      .arg(qs(wording::runTitle(view.w, view.session, run))),
                  taken, size.width() - 20 - left);
    const double end = frames ? drawFrames(sheet, view, both ? 68 : 92) : 0;
    if (both || !frames) drawCaps(sheet, view, both ? std::max(270.0, end + 30) : 100);
    return sheet.take();
}

} // namespace impasto::app
