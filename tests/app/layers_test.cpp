// SPDX-License-Identifier: GPL-3.0-or-later
// The slabs of Layers and the levels that fan out from one.
#include "app/harness.h"
#include "stations/layers/stack.h"

#include <QtGui/QClipboard>
#include <QtGui/QGuiApplication>
#include <QtTest/QTest>

using namespace impasto;
using namespace impasto::app;

namespace {

std::vector<Hot> levelsOf(const Driven& d, const QString& setting) {
    std::vector<Hot> out;
    for (const auto& hot : d.window->easel()->drawing().hots)
        if (hot.id.startsWith(QStringLiteral("choose.") + setting + QLatin1Char('.'))) out.push_back(hot);
    return out;
}

bool shows(const Drawing& drawing, const QString& text) {
    return std::any_of(drawing.shapes.begin(), drawing.shapes.end(),
                       [&](const Shape& s) { return s.kind == ShapeKind::Text && s.text == text; });
}

} // namespace

TEST(LayersTest, SlabsAddUpToTheFrameAndEachIsItsCost) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    const auto stacks = stacksOf(d.view());
    ASSERT_EQ(stacks.size(), 2U);
    for (const auto& stack : stacks) {
        double sum = 0;
        for (const auto& layer : stack.layers) {
            EXPECT_GE(layer.ms, 0) << layer.label.toStdString();
            sum += layer.ms;
        }
        EXPECT_NEAR(sum, stack.totalMs, 1e-9);
        EXPECT_TRUE(std::is_sorted(stack.layers.begin() + 1, stack.layers.end(),
                                   [](const Layer& a, const Layer& b) { return a.ms > b.ms; }));
    }
    // A slab is as tall as its cost on the scale of the axis, and so is its interval.
    const Scale ms = layersScale(d.view(), QSizeF(d.window->easel()->size()));
    for (const auto& layer : stacks[1].layers) {
        if (layer.setting.empty()) continue;
        const Hot* slab = d.window->easel()->drawing().hot(QStringLiteral("slab.gpu.") + qs(layer.setting));
        ASSERT_NE(slab, nullptr);
        EXPECT_NEAR(slab->rect.height(), ms.px(0) - ms.px(layer.ms), 1e-6);
    }
    const auto values = choiceOf(d.view())->values;
    double chosen = 0, wanted = 0;
    const auto chosenStacks = stacksOf(d.view(), values);
    for (const auto& layer : chosenStacks[1].layers) chosen += layer.ms;
    for (const auto& lane : results::proposalOf(*d.view().results)->lanes)
        if (lane.lane == run::Lane::Gpu) wanted = lane.meanMs;
    EXPECT_NEAR(chosen, wanted, 0.35) << "the dashed stack is the proposal's own figure";
}

TEST(LayersTest, ASlabFansOutItsLevelsAndOneCanBeTaken) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    EXPECT_TRUE(levelsOf(d, QStringLiteral("shadows")).empty());
    d.click(d.window->easel(), QStringLiteral("slab.gpu.shadows"));
    const auto levels = levelsOf(d, QStringLiteral("shadows"));
    ASSERT_EQ(levels.size(), 4U);
    EXPECT_FALSE(levels[0].focusable) << "ultra was not measured";
    EXPECT_TRUE(shows(d.window->easel()->drawing(), QStringLiteral("not measured")));
    EXPECT_TRUE(shows(d.window->easel()->drawing(), QStringLiteral("now")));
    // The lines of the fan start where the slab would end at each level: three measured levels, three heights.
    const Hot* slab = d.window->easel()->drawing().hot(QStringLiteral("slab.gpu.shadows"));
    ASSERT_NE(slab, nullptr);
    int starts = 0;
    for (const auto& shape : d.window->easel()->drawing().shapes)
        if (shape.kind == ShapeKind::Line && shape.points.size() == 2 &&
            std::abs(shape.points[0].x() - (slab->rect.right() - 3)) < 0.01) {
            EXPECT_GE(shape.points[0].y(), slab->rect.top() - 1);
            EXPECT_LE(shape.points[0].y(), slab->rect.bottom() + 1);
            ++starts;
        }
    EXPECT_EQ(starts, 3);
    d.click(d.window->easel(), QStringLiteral("choose.shadows.low"));
    ASSERT_TRUE(d.view().edits().settings.choice);
    EXPECT_EQ(d.view().edits().settings.choice->values.at("shadows"), "low");
    EXPECT_TRUE(d.view().edits().settings.choice->byHand);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_FALSE(d.view().edits().settings.choice);
    d.key(Qt::Key_Escape);
    EXPECT_TRUE(levelsOf(d, QStringLiteral("shadows")).empty());
}

TEST(LayersTest, WithFrameTimesOnlyThereIsOneColumn) {
    View view;
    document::Session s;
    auto facts = std::make_shared<document::Facts>();
    facts->games.push_back(std::make_shared<const game::Game>(support::smallGame()));
    s.facts = facts;
    auto edits = std::make_shared<document::Edits>();
    edits->subject.game = 0;
    edits->goal.brief = run::Brief{};
    for (const auto& setting : facts->games[0]->settings)
        edits->settings.baseline[setting.id] = setting.levels.back().name;
    s.edits = edits;
    view.session = s;
    auto costs = std::make_shared<results::Costs>();
    choose::LaneCosts lane;
    lane.lane = run::Lane::Frame;
    lane.fit.estimate = {20.0};
    lane.fit.covariance = {0.01};
    costs->lanes.push_back(lane);
    auto results = std::make_shared<results::Results>();
    results->put<results::Costs>(costs);
    view.results = results;
    EXPECT_EQ(stacksOf(view).size(), 1U);
    const auto drawing = layoutLayers(view, QSizeF(840, 612));
    EXPECT_TRUE(shows(drawing, QStringLiteral("frame")));
    EXPECT_FALSE(shows(drawing, QStringLiteral("CPU")));
    EXPECT_FALSE(shows(drawing, QStringLiteral("GPU")));
}

TEST(LayersTest, TheCostsAreCopiedAsATable) {
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.studio.startPractice();
    d.rest();
    ASSERT_TRUE(d.spaceUntil(path::Action::AcceptChoice));
    d.studio.go(StationId{"layers"});
    const auto& station = stationOf(StationId{"layers"});
    ASSERT_NE(station.table, nullptr);
    const QStringList lines = station.table(d.view()).split(QLatin1Char('\n'), Qt::SkipEmptyParts);
    EXPECT_EQ(lines.front(),
              QStringLiteral("setting\tlevel\tCPU ms\tCPU ± ms\tGPU ms\tGPU ± ms\tGPU memory MiB\tpicture"));
    EXPECT_EQ(static_cast<std::size_t>(lines.size() - 1),
              d.view().get<results::Costs>()->lanes.front().fit.columns.size());
    for (const auto& line : lines) EXPECT_EQ(line.count(QLatin1Char('\t')), 7) << line.toStdString();
    d.key(Qt::Key_C, Qt::ControlModifier);
    EXPECT_EQ(QGuiApplication::clipboard()->text().trimmed(), station.table(d.view()).trimmed());
}
