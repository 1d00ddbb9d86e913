// SPDX-License-Identifier: GPL-3.0-or-later
// What of the picture matters: two settings of which one would be missed more, and the weights that follow.
#include "stations/layers/matters.h"
#include "shell/studio.h"
#include "stations/hands.h"
#include "stations/layers/around.h"
#include "stations/pages.h"

#include <cmath>

namespace impasto::app {
namespace {

using Q = const QString&;

/// Of the game as it is now; none where they were about another.
std::vector<choose::Missed> answersOf(const View& view) {
    const auto& state = view.state<MattersState>();
    const auto* game = view.session.game();
    return game != nullptr && state.game == game->mark ? state.answers : std::vector<choose::Missed>();
}

/// What would be lost: "ultra → off".
QString lossOf(const game::Setting& setting) {
    const auto more = [](const game::Level& a, const game::Level& b) { return a.picture < b.picture; };
    const auto [least, best] = std::minmax_element(setting.levels.begin(), setting.levels.end(), more);
    return qs(best->name) + QStringLiteral(" \u2192 ") + qs(least->name);
}

void plate(Sheet& sheet, const game::Setting& setting, QRectF r) {
    sheet.rect(r, Ink::Paper, Ink::Ink, 1.5);
    sheet.text(r.center().x(), r.top() + 20, qs(setting.label), Type::Game, Ink::Ink, Align::Centre, r.width() - 32);
    sheet.text(r.center().x(), r.top() + 54, lossOf(setting), Type::Body, Ink::Muted, Align::Centre, r.width() - 32);
    Hot h;
    h.id = QStringLiteral("miss.") + qs(setting.id);
    h.name = say("I would miss %1 more: %2").arg(qs(setting.label), lossOf(setting));
    h.rect = r;
    sheet.hot(h);
}

/// The question, or that there is none; gives where it goes on.
double question(Sheet& sheet, const View& view, double y) {
    const double left = 24, right = sheet.width() - 16, half = (right - left - 16) / 2;
    const auto& game = *view.session.game();
    const auto pair = choose::nextQuestion(game, answersOf(view));
    if (!pair) {
        const bool any = choose::caresOf(game, {}).size() > 1;
        return sheet.wrapped(left, y, right - left,
                             any ? say("Another answer would hardly change the weights.")
                                 : say("Two settings that show something are needed to be asked about."),
                             Type::Sentence, Ink::Ink, 2) +
               20;
    }
    plate(sheet, *game.setting(pair->first), QRectF(left, y, half, 92));
    plate(sheet, *game.setting(pair->second), QRectF(right - half, y, half, 92));
    const double width = std::max(90.0, textWidth(say("Both alike"), Type::BodyBold) + 30);
    sheet.button(QRectF((left + right - width) / 2, y + 104, width, 28), QStringLiteral("miss.alike"),
                 say("Both alike"));
    return y + 152;
}

void weights(Sheet& sheet, const View& view, double y) {
    const auto& game = *view.session.game();
    auto cares = choose::caresOf(game, answersOf(view));
    std::stable_sort(cares.begin(), cares.end(), [](const auto& a, const auto& b) { return a.weight > b.weight; });
    if (cares.empty()) return;
    const double left = 24, right = sheet.width() - 16, pitch = 24, bars = left + 210;
    const double w = sheet.text(left, y, say("The weights that follow"), Type::Heading);
    sheet.text(left + w + 12, y + 3, say("95% · ring: as it was"), Type::Small, Ink::Muted, Align::Left,
               right - left - w - 190);
    y += 28;
    const auto page = pageIn(view, QStringLiteral("matters"), cares.size(), sheet.height() - y - 12, pitch);
    drawPager(sheet, right, y - 28, page, say("%1 to %2 of %3"));
    double most = 0;
    for (const auto& care : cares) most = std::max({most, care.high, game.setting(care.setting)->weight});
    const Scale scale{0, most, bars, right - 60};
    for (std::size_t i = page.first; i < page.last; ++i) {
        const auto& care = cares[i];
        const auto& setting = *game.setting(care.setting);
        sheet.text(left, y, qs(setting.label), Type::Body, Ink::Ink, Align::Left, bars - left - 14);
        const double middle = y + 9;
        sheet.rect(QRectF(bars, middle - 5, scale.px(care.weight) - bars, 10), Ink::Stroke);
        sheet.interval({scale.px(care.low), middle}, {scale.px(care.high), middle}, 4, Ink::Ink, 1.2, Ink::Ground);
        sheet.circle({scale.px(setting.weight), middle}, 4, Ink::Ground, Ink::Ink, 1.2);
        sheet.text(right, y, qs(fmt::format("{:.2f}", care.weight)), Type::BodyBold, Ink::Ink, Align::Right);
        y += pitch;
    }
}

void answer(Studio& s, Q which) {
    const auto* game = s.view().session.game();
    if (game == nullptr) return;
    auto answers = answersOf(s.view());
    const auto pair = choose::nextQuestion(*game, answers);
    const auto id = which.toStdString();
    const bool alike = id == "alike";
    if (!pair || (!alike && id != pair->first && id != pair->second)) return;
    const bool first = alike || id == pair->first;
    answers.push_back({first ? pair->first : pair->second, first ? pair->second : pair->first, alike});
    const auto next = choose::nextQuestion(*game, answers);
    s.state<MattersState>() = {game->mark, std::move(answers)};
    s.notify();
    // The next question is answered by the next key.
    if (next) s.ask(QStringLiteral("miss.") + qs(next->first));
}

void takeBack(Studio& s, Q) {
    auto& answers = s.state<MattersState>().answers;
    if (!answers.empty()) answers.pop_back();
    s.notify();
}

void startOver(Studio& s, Q) {
    s.state<MattersState>().answers.clear();
    s.notify();
}

void takeWeights(Studio& s, Q) {
    const auto* game = s.view().session.game();
    const auto answers = answersOf(s.view());
    if (game == nullptr || answers.empty()) return;
    const auto weighed = choose::weighed(*game, choose::caresOf(*game, answers));
    s.state<MattersState>().answers.clear();
    s.reviseGame(weighed, {}, "weigh");
    s.say(say("The choice counts the picture by these weights now."));
}

} // namespace

Drawing layoutMatters(const View& view, QSizeF size) {
    Sheet sheet(size);
    const bool any = view.session.game() != nullptr;
    sheet.heading(24, 12, say("Which would you miss more?"),
                  any ? say("each at its least instead of its best") : say("It takes a game with its settings."),
                  facesWidth());
    drawFaces(sheet, view);
    if (any) weights(sheet, view, question(sheet, view, 84));
    return sheet.take();
}

Drawing layoutMattersColumn(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    sheet.text(x, 16, say("What matters to you"), Type::Heading);
    double y = sheet.wrapped(x, 40, w,
                             say("The choice keeps what of the picture counts most. Answer as long as you like: the "
                                 "weights follow, and nothing is run for it."),
                             Type::Body, Ink::Muted, 6) +
               10;
    if (view.session.game() == nullptr) return sheet.take();
    const auto answers = answersOf(view);
    sheet.row(x, y, w, say("answers"), QString::number(answers.size()), Type::BodyBold);
    y += 20;
    double doubt = 0;
    const auto cares = choose::caresOf(*view.session.game(), answers);
    for (const auto& care : cares) doubt += std::log(care.high / care.low) / 2 / static_cast<double>(cares.size());
    if (!cares.empty()) {
        sheet.row(x, y, w, say("a weight is known within"),
                  say("a factor of %1").arg(QString::number(std::exp(doubt), 'f', 1)), Type::BodyBold);
        y += 32;
    }
    const auto button = [&](const char* id, const QString& label, bool enabled) {
        sheet.button(QRectF(x, y, w, 28), QLatin1String(id), label, {}, false, enabled);
        y += 34;
    };
    button("matters.take", say("Take these weights"), !answers.empty());
    button("matters.back", say("Take the last answer back"), !answers.empty());
    button("matters.over", say("Start over"), !answers.empty());
    return sheet.take();
}

void answerFirst(Studio& s) {
    const auto* game = s.view().session.game();
    const auto pair = game == nullptr ? std::nullopt : choose::nextQuestion(*game, answersOf(s.view()));
    if (pair) answer(s, qs(pair->first));
}

std::vector<Hand> mattersHands() {
    return {{"miss.", answer}, {"matters.take", takeWeights}, {"matters.back", takeBack}, {"matters.over", startOver}};
}

} // namespace impasto::app
