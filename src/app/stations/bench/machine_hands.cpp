// SPDX-License-Identifier: GPL-3.0-or-later
// The machine is corrected, and the state is said that every run is played in.
#include "shell/studio.h"
#include "stations/bench/bench.h"
#include "stations/hands.h"

#include <QtCore/QRegularExpression>
#include <QtCore/QStringList>
#include <impasto/rig_sim/simulated.h>

namespace impasto::app {
namespace {

using Q = const QString&;
using machine::Machine;

/// A changed machine, with what the simulator knows of the one before.
void useEditedMachine(Studio& s, const Machine& machine) {
    const auto* before = s.view().session.machine();
    const auto* text = before == nullptr ? nullptr : s.open()->originals.find(before->mark);
    const std::string hidden = text == nullptr ? std::string() : rig_sim::hiddenTables(*text);
    const auto index = s.addMachine(toToml(machine) + hidden, machine.name);
    if (!index) return s.tell(index.error());
    s.apply(document::useMachine(*index));
}

std::vector<Hertz> ratesIn(Q text) {
    std::vector<Hertz> out;
    for (const auto& word : text.split(QRegularExpression(QStringLiteral("[^0-9.]+")), Qt::SkipEmptyParts))
        if (const auto number = typedNumber(word)) out.emplace_back(*number);
    return out;
}

/// "48-144", "headset", or anything else: fixed.
void editRange(Machine& m, Q text) {
    const auto rates = ratesIn(text);
    m.panel.headset = text.contains(QStringLiteral("headset"), Qt::CaseInsensitive);
    m.panel.variable.reset();
    if (rates.size() == 2 && !m.panel.headset) m.panel.variable = display::RefreshRange{rates[0], rates[1]};
}

void editModes(Machine& m, Q text) {
    m.panel.modes = ratesIn(text);
    std::sort(m.panel.modes.begin(), m.panel.modes.end());
    const auto& modes = m.panel.modes;
    if (!modes.empty() && std::find(modes.begin(), modes.end(), m.panel.refresh) == modes.end())
        m.panel.refresh = modes.back();
}

/// A refresh that is none of the modes becomes one.
void editRefresh(Machine& m, double hertz) {
    auto& modes = m.panel.modes;
    m.panel.refresh = Hertz(hertz);
    if (modes.empty() || hertz == 0 || std::find(modes.begin(), modes.end(), m.panel.refresh) != modes.end()) return;
    modes.push_back(m.panel.refresh);
    std::sort(modes.begin(), modes.end());
}

/// An empty text says that it is not known.
bool editNumber(Machine& m, Q field, Q text) {
    const auto typed = typedNumber(text.section(QLatin1Char(' '), 0, 0));
    const double number = typed.value_or(0);
    if (!typed && !text.trimmed().isEmpty()) return false;
    if (field == QStringLiteral("system")) m.systemMemory = Mebibytes(1024 * number);
    if (field == QStringLiteral("vram")) m.gpuMemory = Mebibytes(1024 * number);
    if (field == QStringLiteral("cores")) m.cores = static_cast<int>(number);
    if (field == QStringLiteral("refresh")) editRefresh(m, number);
    return true;
}

void editMachine(Studio& s, Q field, Q text) {
    if (s.view().session.machine() == nullptr) return;
    Machine m = *s.view().session.machine();
    const std::string typed = text.trimmed().toStdString();
    if (field == QStringLiteral("name")) {
        if (!typed.empty()) m.name = typed;
    } else if (field == QStringLiteral("cpu")) {
        m.cpu = typed.empty() ? "not said" : typed;
    } else if (field == QStringLiteral("gpu")) {
        m.gpu = typed.empty() ? "not said" : typed;
    } else if (field == QStringLiteral("second")) {
        m.secondGpu = typed == "none" ? std::string() : typed;
    } else if (field == QStringLiteral("native")) {
        const auto plain = text.trimmed().toLower().remove(QLatin1Char(' ')).replace(QChar(0xd7), QLatin1Char('x'));
        const auto r = display::parseResolution(plain.toStdString());
        if (!r && !typed.empty()) return s.tell(badValue("a resolution such as 2560x1440", field));
        m.panel.native = r.value_or(display::Resolution{});
    } else if (field == QStringLiteral("range")) {
        editRange(m, text);
    } else if (field == QStringLiteral("modes")) {
        editModes(m, text);
    } else if (!editNumber(m, field, text)) {
        return s.tell(badValue("a number", field));
    }
    useEditedMachine(s, m);
}

void toggleCopyRoute(Studio& s, Q) {
    if (s.view().session.machine() == nullptr) return;
    Machine m = *s.view().session.machine();
    m.copyRoute = !m.copyRoute;
    useEditedMachine(s, m);
}

const run::Condition* conditionOf(Q key) {
    const auto all = run::conditions();
    const auto it = std::find_if(all.begin(), all.end(), [&](const auto& c) { return key == QLatin1String(c.key); });
    return it == all.end() ? nullptr : &*it;
}

/// The next of its texts, or one before.
void stepState(Studio& s, Q key, int steps) {
    const auto* condition = conditionOf(key);
    if (condition == nullptr || condition->texts.empty()) return;
    const auto& texts = condition->texts;
    const auto now = std::find(texts.begin(), texts.end(), condition->read(s.view().edits().subject.state.asOrder()));
    const auto count = static_cast<int>(texts.size());
    const auto next = (static_cast<int>(now - texts.begin()) + count - steps % count) % count;
    s.apply(document::setState(condition->key, texts[static_cast<std::size_t>(next)]));
}

void typeState(Studio& s, Q key, Q text) {
    QString plain = text.trimmed().toLower().remove(QLatin1Char(' ')).replace(QChar(0xd7), QLatin1Char('x'));
    if (plain.isEmpty()) plain = key == QStringLiteral("resolution") ? QStringLiteral("0x0") : QStringLiteral("0");
    s.apply(document::setState(key.toStdString(), plain.toStdString()));
}

} // namespace

Error badValue(const char* wanted, const QString& field) {
    return {ErrorCode::BadValue, wanted, {{}, {}, {}, field.toStdString()}, Kept::AllAsBefore};
}

std::vector<Hand> machineHands() {
    return {{"machine.", nullptr, editMachine},
            {"machine.copy", toggleCopyRoute},
            {"state.", [](Studio& s, Q key) { stepState(s, key, -1); }, typeState, stepState}};
}

} // namespace impasto::app
