// SPDX-License-Identifier: GPL-3.0-or-later
// The life of some ten frames: a row a stage, the panel below; one frame is followed from its input to the panel.
#include "stations/pace/pace.h"

#include <cmath>

namespace impasto::app {
namespace {

constexpr std::size_t framesSeen = 10;
constexpr double barHeight = 26, thinHeight = 10;

struct Rows {
    double cpu, wait, gpu, copy = 0, generate = 0, display = 0, end = 0; // tops; 0: no such row
};

Rows rowsFrom(double top, const pace::Replay& replay, const pace::CapPlan& plan) {
    Rows rows{top, top + barHeight + 5, top + barHeight + thinHeight + 10};
    double y = rows.gpu + barHeight + 5;
    const bool second = plan.generation && plan.generation->onSecondGpu;
    if (replay.copyMs > 0 || second) {
        rows.copy = y;
        y += thinHeight + 5;
    }
    if (second) {
        rows.generate = y;
        y += barHeight + 5;
    }
    rows.display = y + 2;
    rows.end = rows.display + barHeight;
    return rows;
}

/// What is drawn of the frames [first, last).
class Life {
  public:
    Life(Sheet& sheet, const pace::Played& played, std::size_t first, std::size_t followed, const Rows& rows,
         double left)
        : m_sheet(sheet), m_played(played), m_frames(played.frames), m_first(first), m_last(first + framesSeen),
          m_followed(followed), m_rows(rows),
          m_x{m_frames[first].cpuStart, m_frames[m_last - 1].shown, left, sheet.width() - 24} {}

    void rails(const QString& held) {
        const auto row = [&](double y, double height, const QString& name, Type type) {
            if (y <= 0) return;
            m_sheet.text(m_x.fromPx - 10, y + height / 2 - 8, name, type, Ink::Ink, Align::Right);
            m_sheet.rect(QRectF(m_x.fromPx, y, m_x.toPx - m_x.fromPx, height), Ink::Rail);
        };
        row(m_rows.cpu, barHeight, say("CPU"), Type::BodyBold);
        row(m_rows.wait, thinHeight, say("wait"), Type::Small);
        row(m_rows.gpu, barHeight, say("GPU"), Type::BodyBold);
        row(m_rows.copy, thinHeight, say("copy"), Type::Small);
        row(m_rows.generate, barHeight, say("generate"), Type::BodyBold);
        row(m_rows.display, barHeight, held, Type::BodyBold);
    }

    void bars() {
        for (std::size_t i = m_first; i < m_last; ++i) {
            const auto& f = m_frames[i];
            const bool even = i % 2 == 0;
            bar(i, f.cpuStart, f.cpuEnd, m_rows.cpu, barHeight, even ? Ink::Cpu : Ink::Cpu2);
            wait(f.cpuEnd, f.gpuStart, i == m_followed);
            bar(i, f.gpuStart, f.gpuEnd, m_rows.gpu, barHeight, even ? Ink::Gpu : Ink::Gpu2);
            if (m_rows.copy > 0) bar(i, f.copyStart, f.copied, m_rows.copy, thinHeight, Ink::Mem);
            if (m_rows.generate > 0) bar(i, f.generateStart, f.ready, m_rows.generate, barHeight, Ink::Gen);
        }
    }

    /// What the panel shows, and for how long: rendered and invented frames in their order.
    void panel(double refreshMs) {
        if (refreshMs > 0)
            for (double at = std::ceil(m_x.fromValue / refreshMs) * refreshMs; at <= m_x.toValue; at += refreshMs)
                m_sheet.line({m_x.px(at), m_rows.display + barHeight}, {m_x.px(at), m_rows.display + barHeight + 5},
                             Ink::Muted, 1);
        struct Shown {
            double at;
            bool invented;
            std::size_t frame;
        };
        std::vector<Shown> shown;
        for (std::size_t i = m_first > 0 ? m_first - 1 : 0; i < std::min(m_last + 1, m_frames.size()); ++i) {
            for (std::size_t k = m_played.inventedFrom(i); k < m_played.inventedUpTo(i); ++k)
                shown.push_back({m_played.invented[k], true, i});
            shown.push_back({m_frames[i].shown, false, i});
        }
        double longest = 0;
        for (std::size_t k = 1; k < shown.size(); ++k) longest = std::max(longest, shown[k].at - shown[k - 1].at);
        for (std::size_t k = 0; k + 1 < shown.size(); ++k) {
            const double from = std::max(m_x.px(shown[k].at), m_x.fromPx),
                         to = std::min(m_x.px(shown[k + 1].at), m_x.toPx);
            if (to - from < 1) continue;
            const double held = shown[k + 1].at - shown[k].at;
            m_sheet.rect(QRectF(from, m_rows.display, to - from - 1.6, barHeight),
                         shown[k].invented ? Ink::Gen : Ink::DispText);
            const QString figure =
                refreshMs > 0 ? QString::number(std::lround(held / refreshMs)) : qs(wording::ms(held));
            const bool most = held > longest - 1e-9;
            if (textWidth(figure, Type::BodyBold) + 6 < to - from)
                m_sheet.text(0.5 * (from + to), m_rows.display + 4, figure, most ? Type::BodyBold : Type::Body,
                             Ink::OnSlab, Align::Centre);
            if (shown[k].frame == m_followed && !shown[k].invented)
                m_sheet.rect(QRectF(from + 1, m_rows.display + 1.5, to - from - 3.6, barHeight - 3), Ink::None,
                             Ink::OnSlab, 1.5);
        }
    }

    /// Latency as a thread through the followed frame's own bars, with the stages that it is the sum of.
    void thread(double titleY) {
        const auto& f = m_frames[m_followed];
        QPolygonF way;
        const auto to = [&](double ms, double y) { way.append(QPointF(std::min(m_x.px(ms), m_x.toPx), y)); };
        const double below = 2.5;
        to(f.cpuStart, m_rows.cpu - 8);
        to(f.cpuStart, m_rows.cpu + barHeight + below);
        to(f.cpuEnd, m_rows.cpu + barHeight + below);
        to(f.cpuEnd, m_rows.wait + thinHeight + below);
        to(f.gpuStart, m_rows.wait + thinHeight + below);
        to(f.gpuStart, m_rows.gpu + barHeight + below);
        to(f.gpuEnd, m_rows.gpu + barHeight + below);
        if (m_rows.copy > 0) {
            to(f.gpuEnd, m_rows.copy + thinHeight + below);
            to(f.copied, m_rows.copy + thinHeight + below);
        }
        if (m_rows.generate > 0) {
            to(f.copied, m_rows.generate + barHeight + below);
            to(f.ready, m_rows.generate + barHeight + below);
        }
        to(f.shown, m_rows.display - 2);
        to(f.shown, m_rows.display + barHeight + 8);
        m_sheet.curve(way, Ink::Ground, 4);
        m_sheet.curve(way, Ink::Ink, 1.8);
        m_sheet.circle(way.first(), 3.5, Ink::Ink);
        m_sheet.circle(way.last(), 3.5, Ink::Ink);
        const QString title =
            say("frame %1: %2 ms from input to panel").arg(m_followed + 1).arg(qs(wording::ms(f.shown - f.cpuStart)));
        m_sheet.text(std::max(m_x.fromPx, std::min(way.first().x() - 8, m_x.toPx - textWidth(title, Type::Heading))),
                     titleY, title, Type::Heading);
        const auto stage = [](const char* name, double ms) {
            return ms < 0.05 ? QString() : QStringLiteral(" + ") + qs(wording::ms(ms)) + QLatin1Char(' ') + say(name);
        };
        QString sum = qs(wording::ms(f.cpuEnd - f.cpuStart)) + QLatin1Char(' ') + say("CPU") +
                      stage("wait", f.gpuStart - f.cpuEnd) + stage("GPU", f.gpuEnd - f.gpuStart) +
                      stage("copy", f.copied - f.gpuEnd) + stage("generate", f.ready - f.copied) +
                      stage("held", f.shown - f.ready);
        m_sheet.text(m_x.fromPx, m_rows.end + 11, sum, Type::Body, Ink::Ink, Align::Left, m_x.toPx - m_x.fromPx - 210);
    }

    /// A length of time to measure by, and what the panel's colours mean.
    void legend(double y, bool invents) {
        double right = m_x.toPx;
        const auto entry = [&](Ink ink, const QString& words) {
            right -= textWidth(words, Type::Small);
            m_sheet.text(right, y, words, Type::Small);
            right -= 18;
            m_sheet.rect(QRectF(right, y + 3, 11, 11), ink);
            right -= 14;
        };
        if (invents) entry(Ink::Gen, say("invented"));
        entry(Ink::DispText, say("rendered"));
        const double length = m_x.px(m_x.fromValue + 10) - m_x.fromPx;
        const QString ten = say("10 ms");
        if (length > 120) return;
        right -= textWidth(ten, Type::Small);
        m_sheet.text(right, y, ten, Type::Small, Ink::Muted);
        right -= 6;
        m_sheet.interval({right - length, y + 8}, {right, y + 8}, 8, Ink::Muted);
    }

  private:
    void bar(std::size_t i, double from, double to, double y, double height, Ink ink) {
        const QRectF r(m_x.px(from), y, std::min(m_x.px(to), m_x.toPx) - m_x.px(from), height);
        if (r.width() < 0.5) return;
        const bool followed = i == m_followed;
        m_sheet.slab(r, ink, static_cast<unsigned>(i), false, followed ? 1.0 : 0.55);
        const QString ms = qs(wording::ms(to - from)) + QStringLiteral(" ms");
        if (followed && height > 20 && textWidth(ms, Type::BodyBold) + 4 < r.width())
            m_sheet.text(r.center().x(), y + 4, ms, Type::BodyBold, Ink::OnSlab, Align::Centre);
    }
    void wait(double from, double to, bool followed) {
        if (to - from < 0.05) return;
        const double y = m_rows.wait + thinHeight / 2;
        m_sheet.line({m_x.px(from), y}, {std::min(m_x.px(to), m_x.toPx), y}, Ink::Ink, followed ? 3 : 1.6);
    }

    Sheet& m_sheet;
    const pace::Played& m_played;
    const std::vector<pace::Stages>& m_frames;
    std::size_t m_first, m_last, m_followed;
    Rows m_rows;
    Scale m_x;
};

/// Where the cap holds the frames, to be looked at elsewhere, and what it means for all of them; gives its end.
double places(Sheet& sheet, const View& view, const pace::Played& played, double left, double y) {
    const auto now = shownLimiter(view);
    double x = sheet.width() - 24;
    for (std::size_t i = run::allLimiterPlaces.size(); i-- > 0;) {
        const auto place = run::allLimiterPlaces[i];
        x = sheet.choice(x, y, QStringLiteral("pace.place.") + qs(std::string(run::keyOf(place))),
                         qs(wording::limiterPlace(view.w, place)),
                         say("L: the next one. A, or a second press: apply the cap there"), place == now);
    }
    const auto chosen = shownPlan(view).limiter.value_or(view.get<results::CapView>()->replay.limiter);
    const QString name = now == chosen ? say("cap applied in") : say("press again to apply in");
    x -= textWidth(name, Type::Body) + 4;
    sheet.text(x, y + 2, name, Type::Body, Ink::Muted);
    const QString means = qs(wording::limiterFigures(view.w, pace::heldAt(played, now)));
    if (left + textWidth(means, Type::Body) + 16 > x) y += 24;
    sheet.text(left, y + 2, means, Type::Body, Ink::Ink, Align::Left, sheet.width() - 24 - left);
    return y + 24;
}

} // namespace

run::LimiterPlace shownLimiter(const View& view) {
    const auto* caps = view.get<results::CapView>();
    const auto usual = caps == nullptr ? run::LimiterPlace::Engine : caps->replay.limiter;
    return view.state<PaceState>().limiter.value_or(shownPlan(view).limiter.value_or(usual));
}

double drawFrames(Sheet& sheet, const View& view, double top) {
    const double left = 88;
    const auto& replay = view.get<results::CapView>()->replay;
    const auto plan = shownPlan(view);
    const auto played = pace::replayedFrames(replay, plan, shownLimiter(view));
    const Rows rows = rowsFrom(top + 29, replay, plan);
    if (played.frames.size() < framesSeen + 4) {
        sheet.wrapped(
            left, top + 30, sheet.width() - left - 24,
            say("Without CPU and GPU work the life of a frame cannot be drawn. Averages, lows and seconds are "
                "predicted from the frame times alone, with wider bands."),
            Type::Body, Ink::Muted);
        return rows.end;
    }
    const std::size_t followed = std::min(view.state<PaceState>().frame + 5, played.frames.size() - 6);
    const std::size_t first = followed - 5;
    Life life(sheet, played, first, followed, rows, left);
    const bool ticks =
        plan.sync == run::Sync::Fixed || plan.sync == run::Sync::Latest || (replay.panel && replay.panel->headset);
    const double refreshMs =
        ticks && replay.panel ? 1000 / plan.refresh.value_or(replay.panel->refresh).value() : 0; // 0: none paces them
    life.rails(refreshMs > 0 ? say("refreshes") : say("held, ms"));
    life.bars();
    life.panel(refreshMs);
    life.thread(top);
    life.legend(rows.end + 12, plan.generation.has_value());
    Hot hot;
    hot.id = QStringLiteral("pace.life");
    hot.name = say("Frame %1 of the replay").arg(followed + 1);
    hot.role = Role::Edge;
    hot.rect = QRectF(left, rows.cpu - 4, sheet.width() - 24 - left, rows.end - rows.cpu + 8);
    hot.hint = say("Up and Down follow another frame; drag to scrub through the run");
    sheet.hot(hot);
    const bool held = plan.cap && !plan.generation && !(replay.panel && replay.panel->headset);
    return held ? places(sheet, view, played, left, rows.end + 33) : rows.end + 30;
}

} // namespace impasto::app
