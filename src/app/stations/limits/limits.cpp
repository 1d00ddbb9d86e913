// SPDX-License-Identifier: GPL-3.0-or-later
// The route left to right; above each part its lanes against the budget, under it the verdict with its evidence.
#include "stations/limits/limits.h"
#include "stations/pages.h"

#include <cmath>

namespace impasto::app {
namespace {

using limits::PartVerdict;

constexpr double ladderHeight = 204;

struct Bar {
    QString name;
    run::Lane lane;
    Ink even, odd;
    const limits::LaneFigures* figures;
    bool brake;
};

bool worn(const View& view) {
    const auto panel = view.session.panel();
    return panel && panel->headset;
}

/// Both where the log tells both; in a headset, which paces the frames, the one that it tells; else the frame.
std::vector<Bar> barsOf(const View& view, const PartVerdict& v) {
    if (worn(view) && v.gpu && !v.cpu) return {{say("GPU"), run::Lane::Gpu, Ink::Gpu, Ink::Gpu2, &*v.gpu, false}};
    if (worn(view) && v.cpu && !v.gpu) return {{say("CPU"), run::Lane::Cpu, Ink::Cpu, Ink::Cpu2, &*v.cpu, false}};
    if (v.cpu && v.gpu)
        return {{say("CPU"), run::Lane::Cpu, Ink::Cpu, Ink::Cpu2, &*v.cpu, v.brake == limits::Brake::Cpu},
                {say("GPU"), run::Lane::Gpu, Ink::Gpu, Ink::Gpu2, &*v.gpu, v.brake == limits::Brake::Gpu}};
    return {{say("frame"), run::Lane::Frame, Ink::Band2, Ink::Band2, &v.frame, false}};
}

/// What stands on the budget line.
QString budgetWords(const View& view) {
    return say("%1 fps, %2 ms")
        .arg(qs(wording::wishFps(view.target())), QString::number(budgetOf(view.target()).value(), 'f', 2));
}
/// `left`: of the line.
QRectF budgetPlace(const View& view, double left, double y) {
    return {left + 8, y - 21, textWidth(budgetWords(view), Type::BodyBold), 20};
}

/// `taken`: by what stands over the bar.
void drawBar(Sheet& sheet, const Bar& bar, const PartVerdict& v, QRectF column, const Scale& ms, double budget,
             unsigned seed, QRectF taken) {
    const double top = ms.px(bar.figures->meanMs);
    const QRectF r(column.left(), top, column.width(), ms.px(0) - top);
    const bool plain = bar.lane == run::Lane::Frame;
    if (plain)
        sheet.rect(r, bar.even, Ink::Ink, 1.2);
    else
        sheet.slab(r, bar.brake ? bar.even : bar.odd, seed);
    if (bar.brake) sheet.rect(r, Ink::None, Ink::Ink, 2);
    const Ink ink = plain ? Ink::Ink : Ink::OnSlab;
    const QString mean = say("%1 ms").arg(qs(wording::ms(bar.figures->meanMs)));
    const double nameWidth = textWidth(bar.name, Type::BodyBold);
    const bool beside = nameWidth + textWidth(mean, Type::BodyBold) + 26 < r.width(); // else the figure stands above
    const QRectF named(r.left() + 8, r.bottom() - (beside ? 42 : 62), r.width() - 12, 20);
    if (bar.brake && r.height() > (beside ? 46 : 66) && !named.intersects(taken))
        sheet.text(r.left() + 8, r.bottom() - (beside ? 42 : 62), say("the bottleneck"), Type::BodyBold, ink,
                   Align::Left, r.width() - 12);
    sheet.text(r.left() + 8, r.bottom() - 22, bar.name, Type::BodyBold, ink, Align::Left, r.width() - 12);
    if (beside)
        sheet.text(r.right() - 8, r.bottom() - 22, mean, Type::BodyBold, ink, Align::Right);
    else if (r.height() > 46)
        sheet.text(r.left() + 8, r.bottom() - 42, mean, Type::BodyBold, ink, Align::Left, r.width() - 12);
    const double x = r.center().x();
    sheet.interval({x, ms.px(bar.figures->highMs)}, {x, ms.px(bar.figures->lowMs)}, 10, Ink::Ink, 1.2, Ink::Ground);
    if (bar.figures->meanMs > budget && ms.px(budget) - top > 3) {
        sheet.hatch(QRectF(r.right() + 3, top, 9, ms.px(budget) - top), Ink::Over, 6);
        sheet.text(r.right() + 16, std::min(top - 2, ms.px(budget) - 21),
                   QStringLiteral("+%1").arg(qs(wording::ms(bar.figures->meanMs - budget))), Type::BodyBold, Ink::Over,
                   Align::Left, 0, Ink::Ground);
    }
    Hot h;
    h.id = QStringLiteral("limit.") + qs(v.part) + QStringLiteral(".") + qs(std::string(run::keyOf(bar.lane)));
    h.name =
        say("%1 in %2: %3 ms")
            .arg(bar.name, v.part.empty() ? say("the whole run") : qs(v.part), qs(wording::ms(bar.figures->meanMs)));
    h.role = Role::Slab;
    h.rect = r;
    h.onSlab = !plain;
    sheet.hot(h);
}

/// Of a worn panel: the share of each lane's work inside the budget, and of frames that were shown twice; gives the y
/// below.
double wornLines(Sheet& sheet, const View& view, const std::vector<PartVerdict>& verdicts, double x, double y,
                 double w) {
    sheet.text(x, y, say("Frames on time"), Type::Heading, Ink::Ink, Align::Left, w * 0.6);
    sheet.text(x + w * 0.72, y + 2, say("CPU"), Type::Small, Ink::Muted, Align::Right);
    sheet.text(x + w, y + 2, say("GPU"), Type::Small, Ink::Muted, Align::Right);
    y += 24;
    const auto share = [](const std::optional<limits::LaneFigures>& lane) {
        return lane && lane->onTimeShare ? qs(wording::percent(*lane->onTimeShare)) : say("not told");
    };
    for (const auto& v : verdicts) {
        if (y + 60 > sheet.height()) break;
        sheet.text(x, y, qs(wording::part(view.w, v.part)), Type::Body, Ink::Ink, Align::Left, w * 0.46);
        sheet.text(x + w * 0.72, y, share(v.cpu), Type::Body, Ink::Ink, Align::Right);
        sheet.text(x + w, y, share(v.gpu), Type::Body, Ink::Ink, Align::Right);
        y += 20;
    }
    double half = 0;
    std::size_t runs = 0;
    for (const auto& id : results::idsOf<results::BaselineRuns>(*view.results))
        if (const auto* figures = view.of<results::RunFigures>(id);
            figures != nullptr && figures->summary.halfRateShare) {
            half += *figures->summary.halfRateShare;
            ++runs;
        }
    if (runs > 0)
        sheet.row(x, y, w, say("shown at half rate"), qs(wording::percent(half / static_cast<double>(runs))),
                  Type::BodyBold);
    return y + 32;
}

/// What another machine or state would do to the heaviest part; gives the y below.
double whatIf(Sheet& sheet, const View& view, double x, double y, double w) {
    const auto* limits = view.get<results::Limits>();
    if (limits == nullptr || limits->whatIfs.empty()) return y;
    std::size_t at = 0;
    for (std::size_t i = 0; i < limits->parts.size(); ++i)
        if (limits->parts[i].periodMs > limits->parts[at].periodMs) at = i;
    const double by = limits::fasterBy[view.state<LimitsState>().faster % limits::fasterBy.size()];
    std::vector<limits::WhatIf> all;
    for (const auto& each : limits->whatIfs[at])
        if (each.by == 0 || each.by == by || each.change == limits::Change::PowerHigher) all.push_back(each);
    if (all.empty() || y + 44 + 20 * static_cast<double>(all.size()) > sheet.height()) return y;
    const double head = sheet.text(x, y, say("What if"), Type::Heading);
    const double left = sheet.choice(x + w, y - 1, QStringLiteral("limits.faster"),
                                     say("%1 faster").arg(qs(wording::percent(by))), say("F: the next share"), true);
    sheet.text(x + head + 8, y + 2, qs(wording::part(view.w, limits->parts[at].part)), Type::Body, Ink::Muted,
               Align::Left, left - x - head - 8);
    y += 26;
    for (const auto& each : all) {
        const auto name = qs(wording::changeName(view.w, each));
        const double half = (each.high.value() - each.low.value()) / 2;
        sheet.row(x, y, w,
                  each.then == limits->parts[at].brake ? name
                  : each.then == limits::Brake::Cpu    ? say("%1, then the CPU").arg(name)
                                                       : say("%1, then the GPU").arg(name),
                  say("%1 fps").arg(qs(wording::plusMinus(each.rate.value(), half, 1))), Type::Body);
        y += 20;
    }
    return y + 14;
}

/// What deciding runs said, and those that would say more; gives the y below.
double decidingRuns(Sheet& sheet, const View& view, const std::vector<PartVerdict>& verdicts, double x, double y,
                    double w) {
    const auto offered = path::offeredTests(view.session, *view.results);
    const bool any =
        std::any_of(verdicts.begin(), verdicts.end(), [](const PartVerdict& v) { return !v.tested.empty(); });
    if (offered.empty() && !any) return y;
    sheet.text(x, y, say("Deciding runs"), Type::Heading);
    y += 24;
    std::map<limits::DecidingTest, std::vector<std::pair<QString, const limits::Tested*>>> told;
    for (const auto& v : verdicts)
        for (const auto& t : v.tested) told[t.test].emplace_back(qs(wording::part(view.w, v.part)), &t);
    for (const auto& [test, lines] : told) {
        if (y + 40 > sheet.height()) return y;
        sheet.text(x, y, say("%1, fps").arg(qs(wording::testName(view.w, test))), Type::BodyBold, Ink::Ink, Align::Left,
                   w);
        y += 19;
        for (const auto& [part, t] : lines) {
            if (y + 20 > sheet.height()) return y;
            const double name = sheet.text(x, y, part, Type::Note, Ink::Muted, Align::Left, w * 0.34);
            y = sheet.wrapped(x + name + 8, y, w - name - 8, qs(wording::testedLine(view.w, *t)), Type::Note, Ink::Ink,
                              2) +
                2;
        }
        y += 6;
    }
    const double minutes =
        view.session.route() == nullptr ? 1 : std::max(1.0, std::ceil(view.session.route()->seconds() / 60));
    for (std::size_t i = 0; i < std::min<std::size_t>(3, offered.size()) && y + 30 < sheet.height(); ++i, y += 34)
        sheet.button(QRectF(x, y, w, 28), QStringLiteral("decide.") + qs(std::string(limits::keyOf(offered[i]))),
                     say("Record: %1").arg(qs(wording::testName(view.w, offered[i]))),
                     say("%1 min").arg(std::lround(minutes)), false, !view.live.active);
    return y + 14;
}

/// What limits a part, in words: the verdict, its evidence, what stands behind it, and the run that would decide.
void verdictWords(Sheet& sheet, const View& view, const PartVerdict& v, double x, double y, double words, double foot) {
    y = sheet.wrapped(x, y, words, qs(wording::bottleneck(view.w, v)), Type::Heading, Ink::Ink, 2);
    y = sheet.wrapped(x, y + 2, words, qs(wording::bottleneckEvidence(view.w, v, view.target())), Type::Body, Ink::Ink,
                      static_cast<int>((foot - y - 6) / 18));
    const auto lines = [&](int wanted, double line) {
        return std::clamp(static_cast<int>((foot - y - 10) / line), 0, wanted);
    };
    if (!v.suspicions.empty() && lines(3, 18) > 0) {
        const auto& behind = v.suspicions.front();
        const std::string said = wording::causeLine(view.w, behind) + " " + wording::facts(view.w, behind.evidence);
        y = sheet.wrapped(x, y + 4, words, qs(said), behind.sure >= 0.6 ? Type::BodyBold : Type::Body, Ink::Ink,
                          lines(4, 18));
    }
    const auto decided = [&](const limits::Tested& t) {
        return t.test == v.test() && t.answer != limits::Answer::Unclear;
    };
    if (lines(9, 16) > 1 && std::none_of(v.tested.begin(), v.tested.end(), decided))
        sheet.wrapped(x, y + 6, words, qs(wording::bottleneckTest(view.w, v)), Type::Note, Ink::Muted, lines(9, 16));
}

} // namespace

Drawing layoutLimits(const View& view, QSizeF size) {
    const auto& verdicts = results::verdictsOf(*view.results);
    if (verdicts.empty())
        return layoutEmpty(view, size, say("What limits each part of the route"),
                           say("CPU and GPU work of every part will appear here against the budget, with the "
                               "bottleneck in words and the test that would confirm it."));
    Sheet sheet(size);
    const double budget = budgetOf(view.target()).value();
    const std::size_t made = results::idsOf<results::BaselineRuns>(*view.results).size();
    sheet.heading(
        24, 12, say("What limits each part of the route"),
        say("CPU and GPU work against %1 ms · %2 · bars: 5% to 95% of the frames")
            .arg(QString::number(budget, 'f', 2), made == 1 ? say("one run") : say("mean of %1 runs").arg(made)));
    const bool low = size.height() < 560;
    if (low && view.get<results::Ladders>() != nullptr) {
        const bool instead = view.state<LimitsState>().ladder;
        sheet.choice(size.width() - 16, 14, QStringLiteral("limits.turn"), instead ? say("parts") : say("ladder"),
                     say("The parts, or the resolution ladder (V)"), false);
        if (instead && layoutLadder(sheet, view, 74)) return sheet.take();
    }
    const bool laddered = !low && layoutLadder(sheet, view, size.height() - ladderHeight);
    const double foot = laddered ? size.height() - ladderHeight - 8 : size.height(); // of the parts
    if (laddered) sheet.line({24, foot - 2}, {size.width() - 16, foot - 2}, Ink::Line, 1);
    const double left = 58, right = size.width() - 16, top = 104,
                 bottom = std::max(top + 90, foot - (laddered || size.height() < 500 ? 190 : 232));
    double most = 1.15 * budget;
    for (const auto& v : verdicts)
        for (const auto& bar : barsOf(view, v)) most = std::max(most, 1.06 * bar.figures->highMs);
    const Scale ms{0, most, bottom, top};
    const double step = niceStep(most, bottom - top < 140 ? 3 : 5);
    for (double v = 0; v <= most; v += step) {
        sheet.line({left, ms.px(v)}, {right, ms.px(v)}, Ink::Grid, 1);
        sheet.text(left - 6, ms.px(v) - 8, QString::number(v), Type::Small, Ink::Muted, Align::Right);
    }
    sheet.text(left - 6, top - 24, say("ms"), Type::Small, Ink::Muted, Align::Right);
    const auto page = pageOf(view, QStringLiteral("parts"), verdicts.size(),
                             static_cast<std::size_t>(std::clamp((right - left) / 165, 1.0, 6.0)));
    drawPager(sheet, right, 40, page, say("parts %1 to %2 of %3"));
    const double width = (right - left) / static_cast<double>(page.last - page.first);
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& v = verdicts[i];
        const double x = left + static_cast<double>(i - page.first) * width;
        if (i > page.first) sheet.line({x, top - 24}, {x, foot - 16}, Ink::Line, 1.2);
        const QString rate = say("%1 s · %2 fps").arg(std::lround(v.seconds)).arg(qs(wording::fps(v.rate.value())));
        const double rateWidth = textWidth(rate, Type::Body);
        sheet.text(x + 10, top - 26, qs(wording::part(view.w, v.part)), Type::Heading, Ink::Ink, Align::Left,
                   width - rateWidth - 26);
        sheet.text(x + width - 8, top - 25, rate, Type::Body, Ink::Muted, Align::Right);
        const auto bars = barsOf(view, v);
        const double barGap = 10, room = width - 20 - 34 - barGap * static_cast<double>(bars.size() - 1),
                     each = std::min(150.0, room / static_cast<double>(bars.size()));
        for (std::size_t k = 0; k < bars.size(); ++k)
            drawBar(sheet, bars[k], v,
                    QRectF(x + 12 + static_cast<double>(k) * (each + barGap), top, each, bottom - top), ms, budget,
                    static_cast<unsigned>(10 * i + k), budgetPlace(view, left, ms.px(budget)));
        verdictWords(sheet, view, v, x + 12, bottom + 12, width - 24, foot);
    }
    sheet.line({left, ms.px(budget)}, {right, ms.px(budget)}, Ink::Over, 2.6, {}, Ink::Ground);
    sheet.circle({left, ms.px(budget)}, 4, Ink::Over);
    const QRectF place = budgetPlace(view, left, ms.px(budget));
    sheet.text(place.x(), place.y(), budgetWords(view), Type::BodyBold, Ink::Over, Align::Left, 0, Ink::Ground);
    return sheet.take();
}

Drawing layoutLimitsColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44, budget = budgetOf(view.target()).value();
    const auto& verdicts = results::verdictsOf(*view.results);
    if (verdicts.empty()) {
        sheet.text(x, 16, say("How the bottleneck is found"), Type::Heading);
        sheet.wrapped(x, 40, w,
                      say("Runs with CPU and GPU work show the bottleneck by themselves. Logs with frame times only "
                          "cannot; costs, choice and cap then work on the whole frame."),
                      Type::Body, Ink::Muted);
        return sheet.take();
    }
    const bool lanes = verdicts.front().cpu && verdicts.front().gpu;
    sheet.text(x, 16, say("To hold %1 in every part").arg(qs(wording::wishFps(view.target()))), Type::Heading);
    sheet.text(x, 37, say("against the safe limits"), Type::Body, Ink::Muted);
    double y = 66;
    const auto figure = [&](const limits::PartVerdict& v, run::Lane lane, double right) {
        const double over = v.of(lane)->meanMs - *limits::usableMs(v, lane, budget);
        sheet.text(right, y, (over > 0 ? say("%1 over") : say("%1 room")).arg(qs(wording::ms(std::abs(over)))),
                   over > 0 ? Type::BodyBold : Type::Body, over > 0 ? Ink::Ink : Ink::Muted, Align::Right, w * 0.3);
    };
    const auto page = pageOf(view, QStringLiteral("parts"), verdicts.size(),
                             static_cast<std::size_t>(std::max(1.0, (size.height() - y - 190) / 24)));
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& v = verdicts[i];
        sheet.text(x, y, qs(wording::part(view.w, v.part)), Type::Body, Ink::Ink, Align::Left, w * 0.38);
        if (lanes) {
            figure(v, run::Lane::Cpu, x + w * 0.68);
            figure(v, run::Lane::Gpu, x + w);
        } else {
            figure(v, barsOf(view, v).front().lane, x + w);
        }
        y += 24;
    }
    const auto usable = [&](run::Lane lane) {
        return qs(wording::ms(results::usableMs(view.session, *view.results, lane, view.target())));
    };
    sheet.text(x, y + 2, say("limit, ms"), Type::Small, Ink::Muted);
    if (lanes) {
        sheet.text(x + w * 0.68, y + 2, say("CPU %1").arg(usable(run::Lane::Cpu)), Type::Small, Ink::Muted,
                   Align::Right, w * 0.3);
        sheet.text(x + w, y + 2, say("GPU %1").arg(usable(run::Lane::Gpu)), Type::Small, Ink::Muted, Align::Right,
                   w * 0.3);
    } else {
        const auto bar = barsOf(view, verdicts.front()).front();
        sheet.text(x + w, y + 2, QStringLiteral("%1 %2").arg(bar.name, usable(bar.lane)), Type::Small, Ink::Muted,
                   Align::Right);
    }
    y += 40;
    if (const auto panel = view.session.panel(); panel && panel->headset) y = wornLines(sheet, view, verdicts, x, y, w);
    if (!lanes && barsOf(view, verdicts.front()).front().lane == run::Lane::Frame) {
        sheet.text(x, y, say("Frame time only"), Type::Heading);
        y = sheet.wrapped(
                x, y + 24, w,
                say("The log holds frame times only. They cannot tell CPU from GPU, so the whole frame is "
                    "held against a safe limit of %1 of the budget.")
                    .arg(qs(wording::percent(results::safeShareOf(view.session, *view.results, run::Lane::Frame)))),
                Type::Body) +
            20;
    }
    y = decidingRuns(sheet, view, verdicts, x, y, w);
    y = whatIf(sheet, view, x, y, w);
    if (y + 60 > size.height()) return sheet.take();
    sheet.text(x, y, say("What comes next"), Type::Heading);
    sheet.wrapped(x, y + 24, w, qs(wording::reason(view.w, view.session, *view.results, view.step)), Type::Body);
    return sheet.take();
}

} // namespace impasto::app
