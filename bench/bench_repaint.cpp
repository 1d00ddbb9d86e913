// SPDX-License-Identifier: GPL-3.0-or-later
// Repaints of the ribbon and of the large picture of Runs at 1280x800 while a long recording is zoomed and panned,
// against drawing the same trace from all of its frames. IMPASTO_BENCH_FRAMES says how many; a million otherwise. The
// figure to read is the median of single repaints.
#include "pictures/paint.h"
#include "pictures/trace.h"
#include "shell/bars.h"
#include "stations/runs/runs.h"

#include <QtGui/QPainter>
#include <QtWidgets/QApplication>
#include <benchmark/benchmark.h>
#include <cmath>
#include <cstdlib>

using namespace impasto;
using namespace impasto::app;

namespace {

constexpr QSizeF ribbonSize(1280, 128), easelSize(840, 612);

/// A view of one dropped log, as the window would have it.
const View& longRun() {
    static const View view = [] {
        const char* said = std::getenv("IMPASTO_BENCH_FRAMES");
        const std::size_t count = said == nullptr ? 1000000 : static_cast<std::size_t>(std::atoll(said));
        auto capture = std::make_shared<capture::Capture>();
        for (std::size_t i = 0; i < count; ++i)
            capture->framesMs.push_back(8 + 2 * std::sin(1e-4 * static_cast<double>(i)) +
                                        0.01 * static_cast<double>(i % 97) + (i % 5003 == 0 ? 25 : 0));
        run::Run run;
        run.id.bytes[0] = 1;
        run.name = "long.csv";
        run.capture = capture;
        auto facts = std::make_shared<document::Facts>();
        facts->runs.push_back(run);
        View out;
        out.session.facts = facts;
        out.station = StationId{"runs"};
        out.run = run.id;
        auto results = std::make_shared<results::Results>();
        const auto shape = std::make_shared<const results::RunShape>(
            results::RunShape{capture, capture::Pyramid(capture->framesMs), frames::secondsOf(capture->framesMs), {}});
        results->put(
            std::make_shared<const results::RunFigures>(results::RunFigures{run.id,
                                                                            *frames::summarize(capture->framesMs),
                                                                            {},
                                                                            {},
                                                                            {},
                                                                            frames::Distribution(capture->framesMs),
                                                                            {},
                                                                            shape}),
            run.id);
        out.results = results;
        out.step.action = path::Action::RecordBaseline;
        return out;
    }();
    return view;
}

/// The i-th place of a tour: out and in, from begin to end.
View placed(std::size_t i) {
    View view = longRun();
    const double whole = view.of<results::RunFigures>(*view.run)->shape->pyramid.durationMs();
    const double width = whole * std::pow(0.5, static_cast<double>(i % 15)),
                 from = (whole - width) * static_cast<double>((7 * i) % 10) / 10;
    view.span = TimeSpan{from, from + width};
    view.zoomed = true;
    return view;
}

void repaint(benchmark::State& state, Drawing (*layout)(const View&, QSizeF), QSizeF size) {
    QImage image(size.toSize(), QImage::Format_RGB32);
    const Theme theme = gesso();
    std::size_t i = 0;
    std::vector<double> times;
    for (auto _ : state) {
        const View view = placed(i++);
        const auto begin = std::chrono::steady_clock::now();
        QPainter painter(&image);
        painter.fillRect(image.rect(), theme.of(Ink::Ground));
        paint(painter, layout(view, size), theme, nullptr);
        painter.end();
        times.push_back(std::chrono::duration<double, std::milli>(std::chrono::steady_clock::now() - begin).count());
    }
    state.counters["median_ms"] = stats::quantile(times, 0.5).value_or(0);
    state.counters["p95_ms"] = stats::quantile(times, 0.95).value_or(0);
}

void ribbon(benchmark::State& state) {
    repaint(state, layoutRibbon, ribbonSize);
}
void runs(benchmark::State& state) {
    repaint(state, layoutRuns, easelSize);
}
/// The trace alone, read from every frame.
void everyFrameReference(benchmark::State& state) {
    std::size_t i = 0;
    for (auto _ : state) {
        const View view = placed(i++);
        const Scale time{view.span->fromMs, view.span->toMs, 236, 1262}, ms{0, 33, 104, 12};
        benchmark::DoNotOptimize(traceOf(view.shownRun()->capture->framesMs, time, ms));
    }
}
BENCHMARK(everyFrameReference)->Unit(benchmark::kMillisecond)->Iterations(30);
BENCHMARK(ribbon)->Unit(benchmark::kMillisecond)->Iterations(60);
BENCHMARK(runs)->Unit(benchmark::kMillisecond)->Iterations(60);

} // namespace

int main(int argc, char** argv) {
    qputenv("QT_QPA_PLATFORM", "offscreen");
    const QApplication application(argc, argv);
    setUpApplication(gesso());
    longRun();
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
