// SPDX-License-Identifier: GPL-3.0-or-later
// What a press, a typed value or a step on a hot shape means. The ids are the layouts' own.
#include "shell/studio.h"

#include <QtCore/QRegularExpression>
#include <impasto/base/text.h>

namespace impasto::app {
namespace {

/// "kind.rest" split at the first dot.
std::pair<QString, QString> halves(const QString& id) {
    const auto dot = id.indexOf(QLatin1Char('.'));
    return dot < 0 ? std::pair(id, QString()) : std::pair(id.left(dot), id.mid(dot + 1));
}

template <class Things, class Now>
std::size_t nextIndex(const Things& things, const Now& isNow) {
    for (std::size_t i = 0; i < things.size(); ++i)
        if (isNow(things[i])) return (i + 1) % things.size();
    return 0;
}

std::optional<double> typedNumber(const QString& text) {
    return parseDouble(text.trimmed().toStdString(), text.contains(QLatin1Char(',')));
}

} // namespace

void Studio::activate(const QString& id) {
    const auto [kind, rest] = halves(id);
    const auto* game = m_view.session.game();
    m_view.message.clear();
    if (id == QStringLiteral("primary")) return primary();
    if (kind == QStringLiteral("station")) return go(static_cast<Station>(rest.toInt()));
    if (kind == QStringLiteral("bar")) return go(rest == QStringLiteral("panel") ? Station::Bench : Station::Brief);
    if (id == QStringLiteral("message.close")) return say({});
    if (id == QStringLiteral("live.skip")) return skipWait();
    if (id == QStringLiteral("live.cancel")) return cancelRecording();
    if (kind == QStringLiteral("reading")) {
        if (rest == QStringLiteral("take")) return takeReading();
        if (rest != QStringLiteral("leave")) return correctReading(rest, 1);
        m_view.reading.reset();
        m_readingPending = false;
        m_unclear.clear();
        return notify();
    }
    if (id == QStringLiteral("import.cancel")) return cancelImport();
    if (id == QStringLiteral("follow.mark")) return markFollowed();
    if (kind == QStringLiteral("follow")) return endFollowing(rest == QStringLiteral("take"));
    if (id == QStringLiteral("start.practice")) return startPractice();
    if (id == QStringLiteral("start.game")) return describeGame();
    if (id == QStringLiteral("machine.new")) return describeMachine();
    if (id == QStringLiteral("rig.simulated")) return apply(session::useRig(session::RigKind::Simulated));
    if (id == QStringLiteral("rig.hand")) return apply(session::useRig(session::RigKind::Hand));
    if (kind == QStringLiteral("preset") && game != nullptr)
        if (const auto* preset = game->preset(rest.toStdString()))
            return apply(session::setBaseline(*game, preset->values));
    if (kind == QStringLiteral("usual")) return toggleUsual(rest.toStdString());
    if (id == QStringLiteral("brief.begin")) return apply(session::setBrief(run::Brief{}));
    if (kind == QStringLiteral("brief")) return cycle(rest);
    if (kind == QStringLiteral("style") && m_view.edits().brief) {
        run::Brief brief = *m_view.edits().brief;
        brief.style = run::styleOf(rest.toStdString()).value_or(brief.style);
        return apply(session::setBrief(brief));
    }
    if (kind == QStringLiteral("run")) {
        if (rest == QStringLiteral("count") && m_view.run)
            return apply(m_view.edits().leftOut.contains(*m_view.run)
                             ? session::countRun(*m_view.run)
                             : session::leaveOut(*m_view.run, session::LeftOut::ByHand));
        if (rest == QStringLiteral("trim")) return trim();
        if (rest == QStringLiteral("scale")) return toggleLogScale();
        if (rest == QStringLiteral("track")) return nextTrack();
        if (rest == QStringLiteral("reading")) {
            const auto* run = m_view.shownRun();
            if (run == nullptr || !run->capture || !run->capture->notes.contains("file")) return;
            return openReading(run->capture->notes.at("file"), run->id);
        }
        if (rest == QStringLiteral("proposed") && m_view.run)
            if (const auto* figures = m_view.results->figures(*m_view.run))
                return apply(session::trimRun(*m_view.run, figures->shape->pollution));
        if (rest == QStringLiteral("untrim") && m_view.run) return apply(session::trimRun(*m_view.run, {}));
        if (rest == QStringLiteral("hide") && m_view.run) {
            const RunId gone = *m_view.run;
            m_view.run.reset();
            for (const auto& run : m_view.session.facts->runs)
                if (run.id != gone && !m_view.edits().hidden.contains(run.id)) m_view.run = run.id;
            return apply(session::hideRun(gone));
        }
        if (const auto bytes = bytesFromHex(rest.toStdString())) showRun({*bytes});
        return notify();
    }
    if (kind == QStringLiteral("jump")) {
        const double at = rest.toDouble();
        return select(TimeSpan{std::max(0.0, at - 500), at + 500}, m_view.zoomed);
    }
    if (kind == QStringLiteral("picture")) {
        m_view.runPicture = static_cast<RunPicture>(std::clamp(rest.toInt(), 0, 2));
        return notify();
    }
    if (kind == QStringLiteral("slab")) {
        const QString setting = halves(rest).second;
        m_view.openSetting = m_view.openSetting == setting ? QString() : setting;
        return notify();
    }
    if (kind == QStringLiteral("open")) {
        m_view.openSetting = rest;
        return notify();
    }
    if (kind == QStringLiteral("choose") && game != nullptr) {
        const auto [setting, level] = halves(rest);
        const game::Values start = m_view.edits().choice      ? m_view.edits().choice->values
                                   : m_view.results->proposal ? m_view.results->proposal->values
                                                              : m_view.edits().baseline;
        return apply(session::changeChoice(*game, start, setting.toStdString(), level.toStdString(),
                                           m_view.results->choiceBasis()));
    }
    if (id == QStringLiteral("choice.take") && m_view.results->proposal)
        return apply(session::acceptChoice({m_view.results->proposal->values, false, m_view.results->choiceBasis()}));
    if (kind == QStringLiteral("cap") && m_view.results->cap) {
        for (const auto& offer : m_view.results->cap->offers)
            if (qs(std::string(choose::keyOf(offer.school))) == rest && offer.applies)
                return apply(session::chooseCap({offer.school, offer.cap, m_view.results->capBasis()}));
        return;
    }
    if (id == QStringLiteral("hitch.usual")) return apply(session::setHitchRule({}));
    if (kind == QStringLiteral("why")) return why(rest == QStringLiteral("close") ? QString() : rest);
    if (id == QStringLiteral("session.new")) return newSession(m_view.session.facts->seed + 1);
    if (kind == QStringLiteral("session"))
        if (const auto bytes = bytesFromHex(rest.toStdString())) return openSession({*bytes});
    notify();
}

void Studio::cycle(const QString& what) {
    if (!m_view.edits().brief) return;
    run::Brief brief = *m_view.edits().brief;
    if (what == QStringLiteral("style")) {
        brief.style = run::allStyles[nextIndex(run::allStyles, [&](run::Style s) { return s == brief.style; })];
        return apply(session::setBrief(brief));
    }
    if (what == QStringLiteral("school")) {
        constexpr std::array schools{run::LowSchool::Percentile, run::LowSchool::WorstMean, run::LowSchool::TimeShare};
        brief.school = schools[nextIndex(schools, [&](run::LowSchool s) { return s == brief.school; })];
        return apply(session::setBrief(brief));
    }
    const auto* game = m_view.session.game();
    if (what == QStringLiteral("route") && game != nullptr) {
        const auto& next =
            game->routes[nextIndex(game->routes, [&](const game::Route& r) { return r.name == m_view.edits().route; })];
        return apply(session::setRoute(*game, next.name));
    }
}

void Studio::edited(const QString& id, const QString& text) {
    const auto [kind, rest] = halves(id);
    m_view.message.clear();
    if (kind == QStringLiteral("machine")) return editMachine(rest, text);
    if (kind == QStringLiteral("brief")) return editBrief(rest, text);
    if (kind == QStringLiteral("game")) return editGame(rest, text);
    if (kind == QStringLiteral("reading")) return editReading(rest, text);
    if (kind == QStringLiteral("hitch")) return editHitchRule(rest, text);
    if (id == QStringLiteral("note")) return apply(session::writeNote(text.toStdString()));
    if (kind == QStringLiteral("share")) {
        const auto percent = typedNumber(QString(text).remove(QLatin1Char('%')));
        auto shares = m_view.edits().shares;
        const double share = percent.value_or(0) / 100;
        if (rest == QStringLiteral("cpu"))
            shares.cpu = share;
        else
            shares.gpu = share;
        return apply(session::setShares(shares));
    }
}

void Studio::editHitchRule(const QString& part, const QString& text) {
    const auto number = typedNumber(text);
    if (!number) return tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "hitch"}, Kept::AllAsBefore});
    auto rule = m_view.edits().hitchRule;
    if (part == QStringLiteral("ratio")) rule.ratio = *number;
    if (part == QStringLiteral("excess")) rule.excessMs = *number;
    if (part == QStringLiteral("neighbours")) rule.neighbours = static_cast<std::size_t>(std::clamp(*number, 0.0, 1e6));
    apply(session::setHitchRule(rule));
}

void Studio::editMachine(const QString& field, const QString& text) {
    if (m_view.session.machine() == nullptr) return;
    machine::Machine m = *m_view.session.machine();
    const auto number = typedNumber(text);
    const auto bad = [&](const char* wanted) {
        tell({ErrorCode::BadValue, wanted, {{}, {}, {}, field.toStdString()}, Kept::AllAsBefore});
    };
    if (field == QStringLiteral("cpu"))
        m.cpu = text.toStdString();
    else if (field == QStringLiteral("gpu"))
        m.gpu = text.toStdString();
    else if (field == QStringLiteral("native")) {
        const auto r =
            display::parseResolution(text.trimmed().toLower().replace(QChar(0xd7), QLatin1Char('x')).toStdString());
        if (!r) return bad("a resolution such as 2560x1440");
        m.panel.native = *r;
    } else if (field == QStringLiteral("range")) {
        const auto parts = text.split(QRegularExpression(QStringLiteral("[^0-9.]+")), Qt::SkipEmptyParts);
        if (parts.size() == 2)
            m.panel.variable = display::RefreshRange{Hertz(typedNumber(parts[0]).value_or(0)),
                                                     Hertz(typedNumber(parts[1]).value_or(0))};
        else
            m.panel.variable.reset();
    } else if (!number) {
        return bad("a number");
    } else if (field == QStringLiteral("system"))
        m.systemMemory = Mebibytes(1024 * *number);
    else if (field == QStringLiteral("vram"))
        m.gpuMemory = Mebibytes(1024 * *number);
    else if (field == QStringLiteral("refresh"))
        m.panel.refresh = Hertz(*number);
    // What the simulator knows of a machine stays with it.
    const auto rig = m.text.find("\n[rig]");
    const std::string tail = rig == std::string::npos ? std::string() : m.text.substr(rig);
    const auto parsed = machine::parseMachine(machine::toToml(m) + tail, m.name);
    if (!parsed) return tell(parsed.error());
    apply(session::useMachine(m_store->addMachine(*parsed)));
}

void Studio::editBrief(const QString& field, const QString& text) {
    if (!m_view.edits().brief) return;
    run::Brief brief = *m_view.edits().brief;
    const auto number = typedNumber(QString(text).remove(QLatin1Char('%')).remove(QStringLiteral("fps")));
    if (field == QStringLiteral("target")) {
        if (!number) return tell({ErrorCode::BadNumber, text.toStdString(), {{}, {}, {}, "target"}, Kept::AllAsBefore});
        return apply(session::setTarget(Fps(*number)));
    }
    if (field == QStringLiteral("floor")) brief.lowestLow = number ? std::optional(Fps(*number)) : std::nullopt;
    if (field == QStringLiteral("picture")) brief.pictureFloor = number ? std::optional(*number / 100) : std::nullopt;
    apply(session::setBrief(brief));
}

void Studio::stepped(const QString& id, int steps) {
    const auto [kind, rest] = halves(id);
    if (kind == QStringLiteral("reading")) return correctReading(rest, steps);
    if (kind == QStringLiteral("trim")) return stepTrim(rest, steps);
    if (kind == QStringLiteral("level")) return stepLevel(rest.toStdString(), steps);
    if (kind == QStringLiteral("slab")) return stepChoice(halves(rest).second.toStdString(), steps);
    if (id == QStringLiteral("budget") || id == QStringLiteral("brief.ruler") || id == QStringLiteral("brief.target")) {
        if (m_view.edits().brief) apply(session::setTarget(Fps(m_view.edits().brief->target.value() + steps)));
    }
}

void Studio::stepTrim(const QString& edge, int steps) {
    constexpr double stepMs = 100;
    if (!m_view.run) return;
    const auto spans = drawnTrims(m_view, *m_view.run);
    const auto [index, side] = halves(edge);
    if (index.toUInt() >= spans.size()) return;
    const auto& span = spans[index.toUInt()];
    const bool begin = side == QStringLiteral("begin");
    dragTrim(index.toUInt(), begin, (begin ? span.fromMs : span.toMs) + stepMs * steps, true);
}

namespace {

/// The level `steps` away, inside the setting's range; nothing at its end.
std::optional<std::string> levelAway(const game::Setting& setting, const std::string& now, int steps) {
    const auto index = setting.levelIndex(now);
    if (!index) return std::nullopt;
    const auto to = static_cast<std::ptrdiff_t>(*index) + steps;
    if (to < 0 || to >= static_cast<std::ptrdiff_t>(setting.levels.size())) return std::nullopt;
    return setting.levels[static_cast<std::size_t>(to)].name;
}

} // namespace

void Studio::stepLevel(const std::string& id, int steps) {
    const auto* game = m_view.session.game();
    const auto* setting = game == nullptr ? nullptr : game->setting(id);
    if (setting == nullptr || !m_view.edits().baseline.contains(id)) return;
    game::Values values = m_view.edits().baseline;
    if (const auto level = levelAway(*setting, values[id], steps)) {
        values[id] = *level;
        apply(session::setBaseline(*game, values));
    }
}

void Studio::stepChoice(const std::string& id, int steps) {
    const auto* game = m_view.session.game();
    const auto* setting = game == nullptr ? nullptr : game->setting(id);
    if (setting == nullptr) return;
    const game::Values start = m_view.edits().choice      ? m_view.edits().choice->values
                               : m_view.results->proposal ? m_view.results->proposal->values
                                                          : m_view.edits().baseline;
    if (const auto it = start.find(id); it != start.end())
        if (const auto level = levelAway(*setting, it->second, steps))
            apply(session::changeChoice(*game, start, id, *level, m_view.results->choiceBasis()));
}

void Studio::toggleUsual(const std::string& id) {
    const auto* now = m_view.session.game();
    if (now == nullptr) return;
    game::Game game = *now;
    if (game.setting(id) != nullptr) {
        if (game.settings.size() == 1)
            return tell({ErrorCode::OutOfRange, "1 to 200", {{}, {}, {}, "settings"}, Kept::AllAsBefore});
        std::erase_if(game.settings, [&](const game::Setting& s) { return s.id == id; });
        for (auto& preset : game.presets) preset.values.erase(id);
    } else {
        for (const auto& usual : m_view.usualSettings) {
            if (usual.id != id) continue;
            game.settings.push_back(usual);
            for (auto& preset : game.presets) preset.values[id] = usual.levels.back().name;
        }
    }
    useEditedGame(game);
}

} // namespace impasto::app
