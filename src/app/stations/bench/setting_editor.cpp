// SPDX-License-Identifier: GPL-3.0-or-later
// One setting of the game beside the list: what it is called, its levels, and how much of the picture it is.
#include "stations/bench/bench.h"

#include <impasto/base/text.h>
#include <impasto/game/levels.h>
#include <impasto/game/rules.h>

namespace impasto::app {
namespace {

QString levelsText(const game::Setting& setting) {
    std::vector<std::string> names;
    for (const auto& level : setting.levels) names.push_back(level.name);
    return qs(game::levelsText(names, setting.unordered));
}

QString levelsAre(const game::Setting& setting) {
    return setting.unordered ? say("ways to run: any of them may cost more")
           : setting.output  ? say("sizes of the output, from the smallest")
                             : say("levels, from the least to the most");
}

/// Words of which one, or any, are chosen.
void words(Sheet& sheet, double x, double y, double width,
           const std::vector<std::tuple<QString, QString, bool>>& choices) {
    const double each = (width - 6 * static_cast<double>(choices.size() - 1)) / static_cast<double>(choices.size());
    for (std::size_t i = 0; i < choices.size(); ++i) {
        const auto& [id, word, chosen] = choices[i];
        const QRectF r(x + static_cast<double>(i) * (each + 6), y, each, 28);
        sheet.rect(r, chosen ? Ink::Paper : Ink::None, chosen ? Ink::Ink : Ink::Line, chosen ? 1.5 : 1.2);
        sheet.text(r.center().x(), r.y() + 5, word, chosen ? Type::BodyBold : Type::Body, Ink::Ink, Align::Centre,
                   each - 8);
        Hot h;
        h.id = id;
        h.name = chosen ? say("%1, chosen").arg(word) : word;
        h.rect = r;
        sheet.hot(h);
    }
}

} // namespace

void layoutSetting(Sheet& sheet, const View& view, const game::Setting& setting, bool mine) {
    const double x = 16, w = sheet.width() - 44;
    double y = 16;
    sheet.text(x, y, qs(setting.label), Type::Heading, Ink::Ink, Align::Left, w);
    y += 26;
    const auto caption = [&](const QString& text) {
        sheet.text(x, y, text, Type::Small, Ink::Muted, Align::Left, w);
        y += 16;
    };
    const auto text = [&](const char* field, const QString& name, const QString& now, const QString& none = {}) {
        caption(name);
        if (mine) {
            benchValue(sheet, QRectF(x, y, w, 18), QStringLiteral("setting.") + QLatin1String(field), name,
                       now.isEmpty() ? none : now, now);
            y += 28;
        } else {
            y = sheet.wrapped(x, y, w, now, Type::Body, Ink::Ink, 3) + 10;
        }
    };
    if (mine) text("label", say("name in the game's menu"), qs(setting.label));
    text("levels", levelsAre(setting), levelsText(setting));
    const QString rules = view.session.game() == nullptr ? QString() : qs(game::rulesOf(*view.session.game(), setting));
    if (mine || !rules.isEmpty())
        text("rules", say("what its levels ask of other settings"), rules, say("nothing; as: high needs Fog: thin"));
    const bool between = setting.weight != 0 && setting.weight != 1 && setting.weight != 2;
    caption(between ? say("how much of the picture it is: %1").arg(qs(shortestText(setting.weight)))
                    : say("how much of the picture it is"));
    words(sheet, x, y, w,
          {{QStringLiteral("setting.weight.0"), say("taste"), setting.weight == 0},
           {QStringLiteral("setting.weight.1"), say("some"), setting.weight == 1},
           {QStringLiteral("setting.weight.2"), say("much"), setting.weight == 2}});
    y += 34;
    const QString means = setting.weight == 0 ? say("A setting of taste is left as it is and not measured.")
                          : setting.pictureWeight() == 0
                              ? say("All its levels show the same: it is measured, and no part of the picture.")
                              : QString();
    y = sheet.wrapped(x, y, w, means, Type::Note, Ink::Muted, 2);
    y += 8;
    if (mine) {
        caption(say("what it is known to load; asks for its test run"));
        words(sheet, x, y, w,
              {{QStringLiteral("setting.cpu"), say("CPU"), setting.paysCpu},
               {QStringLiteral("setting.gpu"), say("GPU"), setting.paysGpu},
               {QStringLiteral("setting.memory"), say("memory"), setting.paysMemory}});
        y += 42;
    }
    const auto& settings = view.edits().settings;
    const auto locked = settings.locked.find(setting.id), level = settings.baseline.find(setting.id);
    const auto button = [&](const char* id, const QString& label) {
        sheet.button(QRectF(x, y, w, 28), QStringLiteral("setting.") + QLatin1String(id), label);
        y += 34;
    };
    if (level != settings.baseline.end())
        button("lock", locked == settings.locked.end() ? say("Keep it at %1").arg(qs(level->second))
                                                       : say("Let it change again"));
    if (mine) {
        const double half = (w - 6) / 2;
        sheet.button(QRectF(x, y, half, 28), QStringLiteral("setting.up"), say("Move up"));
        sheet.button(QRectF(x + half + 6, y, half, 28), QStringLiteral("setting.down"), say("Move down"));
        y += 34;
        button("remove", say("Remove from the game"));
    }
    button("leave", say("Back"));
    if (mine && !view.session.facts->runs.empty())
        sheet.wrapped(x, y + 6, w,
                      say("Runs answer the names that levels had when they were ordered: with other names they are "
                          "asked for again."),
                      Type::Note, Ink::Muted, 3);
}

} // namespace impasto::app
