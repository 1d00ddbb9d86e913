// SPDX-License-Identifier: GPL-3.0-or-later
// The machine as one painted stroke that a frame travels: as thick as each part carries now, dashed as far as it is
// rated; and under each part what its owner says of it.
#include "stations/bench/bench.h"

#include <impasto/base/text.h>

namespace impasto::app {
namespace {

using machine::Machine;

/// A part of the path: `share` of what it is rated for.
struct Block {
    const char* title;
    Ink ink;
    QString now, more; // inside; the second line where there is room
    double share = 1;
    bool known = false;
};

QString gibText(Mebibytes memory) {
    return memory.value() > 0 ? say("%1 GiB").arg(qs(wording::gib(memory.value()))) : QString();
}

QString number(double value) {
    return value > 0 ? qs(shortestText(value)) : QString();
}

QString ghz(double mhz) {
    return QString::number(mhz / 1000, 'f', 1);
}

QString said(const std::string& name) {
    return name == "not said" ? QString() : qs(name);
}

QString rangeText(const display::Panel& panel) {
    if (panel.headset) return say("headset");
    if (!panel.variable) return say("fixed");
    return qs(fmt::format("{}\u2013{} Hz", panel.variable->lowest.value(), panel.variable->highest.value()));
}

QString modesText(const display::Panel& panel) {
    QString out;
    for (const auto mode : panel.modes)
        out += (out.isEmpty() ? QString() : QStringLiteral(", ")) + qs(shortestText(mode.value()));
    return out;
}

Block memoryBlock(const Machine& m) {
    const auto speed = machine::numberIn(m.facts, "memory.speed_mts"),
               rated = machine::numberIn(m.facts, "memory.rated_mts");
    Block b{"Memory", Ink::Mem, gibText(m.systemMemory), {}, 1, m.systemMemory.value() > 0};
    if (!speed || !rated || !(*rated > 0)) return b;
    return {"Memory",
            Ink::Mem,
            say("%1 of").arg(number(*speed)),
            say("%1 MT/s").arg(number(*rated)),
            std::min(1.0, *speed / *rated),
            true};
}

/// A clock at rest says nothing of the clock in play.
Block cpuBlock(const Machine& m) {
    const auto now = machine::numberIn(m.facts, "cpu.now_mhz"), highest = machine::numberIn(m.facts, "cpu.highest_mhz");
    if (now && highest && *now >= 0.9 * *highest)
        return {"CPU", Ink::Cpu, say("%1 of").arg(ghz(*now)), say("%1 GHz").arg(ghz(*highest)), 1, true};
    if (highest) return {"CPU", Ink::Cpu, say("up to"), say("%1 GHz").arg(ghz(*highest)), 1, true};
    return {"CPU", Ink::Cpu, m.cores > 0 ? say("%1 cores").arg(m.cores) : QString(), {}, 1, m.cores > 0};
}

Block linkBlock(const Machine& m) {
    const auto window = machine::numberIn(m.facts, "gpu.window_mib"),
               lanes = machine::numberIn(m.facts, "gpu.link_lanes"),
               best = machine::numberIn(m.facts, "gpu.link_best_lanes");
    Block b{"Link", Ink::Band2, {}, {}, 1, false};
    if (machine::wordIn(m.facts, "gpu.integrated") == "yes") b.now = say("in the CPU");
    if (lanes && best && *best > 0) {
        b.now = say("%1 of %2 lanes").arg(number(*lanes), number(*best));
        b.share = std::min(1.0, *lanes / *best);
        b.known = true;
    }
    if (window && m.gpuMemory.value() > 0 && *window / m.gpuMemory.value() < b.share) {
        b.now = say("%1 of %2 GiB")
                    .arg(QString::number(*window / 1024, 'f', *window < 1024 ? 2 : 0),
                         number(std::round(m.gpuMemory.value() / 102.4) / 10));
        b.more = say("seen by the CPU");
        b.share = *window / m.gpuMemory.value();
        b.known = true;
    }
    return b;
}

Block panelBlock(const Machine& m) {
    const auto now = machine::numberIn(m.facts, "panel.now_hz"),
               highest = machine::numberIn(m.facts, "panel.highest_hz");
    const double hz = m.panel.refresh.value();
    if (now && highest && *highest > 0)
        return {"Panel",
                Ink::DispText,
                say("%1 of").arg(number(*now)),
                say("%1 Hz").arg(number(*highest)),
                std::min(1.0, *now / *highest),
                true};
    return {"Panel", Ink::DispText, hz > 0 ? say("%1 Hz").arg(number(hz)) : QString(), {}, 1, hz > 0};
}

std::array<Block, 5> blocksOf(const Machine* m) {
    if (m == nullptr)
        return {{{"Memory", Ink::Mem, {}, {}},
                 {"CPU", Ink::Cpu, {}, {}},
                 {"Link", Ink::Band2, {}, {}},
                 {"GPU", Ink::Gpu, {}, {}},
                 {"Panel", Ink::DispText, {}, {}}}};
    return {memoryBlock(*m), cpuBlock(*m), linkBlock(*m),
            Block{"GPU", Ink::Gpu, gibText(m->gpuMemory), {}, 1, m->gpuMemory.value() > 0}, panelBlock(*m)};
}

/// What its owner says of the machine, under the part that it belongs to; gives the y below.
double machineValues(Sheet& sheet, const Machine& m, const Wired& wired, double y) {
    const auto at = [&](int block, int row, double from = 0, double share = 1) {
        return QRectF(wired.left + block * wired.pitch + from * wired.room, y + 20 * row, share * wired.room, 18);
    };
    const auto& panel = m.panel;
    benchValue(sheet, at(0, 0), QStringLiteral("machine.system"), say("System memory, GiB"), gibText(m.systemMemory),
               number(m.systemMemory.value() / 1024));
    benchValue(sheet, at(0, 1), QStringLiteral("machine.name"), say("Name of the machine"),
               say("called %1").arg(qs(m.name)), qs(m.name));
    benchValue(sheet, at(1, 0), QStringLiteral("machine.cpu"), say("CPU name"), said(m.cpu), said(m.cpu));
    benchValue(sheet, at(1, 1), QStringLiteral("machine.cores"), say("CPU cores"),
               m.cores > 0 ? say("%1 cores").arg(m.cores) : QString(), number(m.cores));
    benchValue(sheet, at(2, 0), QStringLiteral("machine.second"), say("Second GPU, or none"),
               m.secondGpu.empty() ? say("no second GPU") : qs(m.secondGpu), qs(m.secondGpu));
    const QString copy = m.copyRoute ? say("through a copy route") : say("no copy route");
    const double copyWidth =
        sheet.text(at(2, 1).x(), at(2, 1).y(), copy, Type::Body, Ink::Ink, Align::Left, wired.room);
    const double under = at(2, 1).y() + lineOf(Type::Body) - 1;
    sheet.line({at(2, 1).x(), under}, {at(2, 1).x() + copyWidth, under}, Ink::Off, 1);
    Hot h;
    h.id = QStringLiteral("machine.copy");
    h.name = copy;
    h.rect = at(2, 1);
    h.hint = say("Whether finished frames go through another graphics chip to the panel");
    sheet.hot(h);
    benchValue(sheet, at(3, 0), QStringLiteral("machine.gpu"), say("GPU name"), said(m.gpu), said(m.gpu));
    benchValue(sheet, at(3, 1), QStringLiteral("machine.vram"), say("GPU memory, GiB"), gibText(m.gpuMemory),
               number(m.gpuMemory.value() / 1024));
    benchValue(sheet, at(4, 0), QStringLiteral("machine.native"), say("Native resolution"),
               panel.native.widthPx > 0 ? qs(wording::resolution(panel.native)) : QString(),
               panel.native.widthPx > 0 ? qs(display::keyText(panel.native)) : QString());
    const double hz = panel.refresh.value();
    benchValue(sheet, at(4, 1, 0, 0.42), QStringLiteral("machine.refresh"), say("Highest refresh, Hz"),
               hz > 0 ? say("%1 Hz").arg(number(hz)) : QString(), number(hz));
    benchValue(sheet, at(4, 1, 0.44, 0.56), QStringLiteral("machine.range"),
               say("Variable refresh range as 48-144, or fixed, or headset"), rangeText(panel), rangeText(panel));
    benchValue(sheet, at(4, 2), QStringLiteral("machine.modes"), say("Rates that the panel can be set to, Hz"),
               panel.modes.empty() ? say("no other mode") : say("modes %1").arg(modesText(panel)), modesText(panel));
    return y + 3 * 20 + 6;
}

/// From the height of one part to that of the next.
void join(Sheet& sheet, double x1, double half1, double x2, double half2, double middle) {
    QPolygonF shape;
    shape << QPointF(x1, middle - half1) << QPointF(x2, middle - half2) << QPointF(x2, middle + half2)
          << QPointF(x1, middle + half1);
    sheet.area(shape, Ink::Band2);
}

void drawLink(Sheet& sheet, const Block& link, QRectF r, double half) {
    const bool narrow = link.known && link.share < 0.6;
    const double middle = r.center().y();
    sheet.rect(QRectF(r.left(), middle - half, r.width(), 2 * half), narrow ? Ink::Muted : Ink::Band2);
    if (!narrow) {
        sheet.text(r.center().x(), middle - 9, link.now, Type::Body, Ink::Ink, Align::Centre, r.width() - 6);
        return;
    }
    if (r.height() < 60) {
        sheet.text(r.center().x(), middle - half - 19, link.now, Type::Body, Ink::Ink, Align::Centre, r.width() + 16);
        return;
    }
    sheet.text(r.center().x(), middle - half - (link.more.isEmpty() ? 21 : 37), link.now, Type::Body, Ink::Ink,
               Align::Centre, r.width() + 16);
    sheet.text(r.center().x(), middle - half - 21, link.more, Type::Body, Ink::Ink, Align::Centre, r.width() + 16);
    sheet.text(r.center().x(), middle + half + 4, say("the narrow place"), Type::BodyBold, Ink::Over, Align::Centre,
               r.width() + 16);
}

void drawBlock(Sheet& sheet, const Block& block, QRectF full, QRectF now, unsigned seed, bool machine) {
    const QString text = block.now.isEmpty() && machine ? say("not set") : block.now;
    if (block.known)
        sheet.slab(now, block.ink, seed);
    else
        sheet.rect(full, Ink::None, Ink::Off, 1.2, {5, 4});
    const Ink ink = block.known ? Ink::OnSlab : Ink::Muted;
    const QPointF c = full.center();
    if (block.more.isEmpty()) {
        sheet.text(c.x(), c.y() - 10, text, Type::Figure, ink, Align::Centre, full.width() - 8);
    } else if (now.height() < 44) {
        sheet.text(c.x(), c.y() - 9, text + QLatin1Char(' ') + block.more, Type::Body, ink, Align::Centre,
                   full.width() - 4);
    } else {
        sheet.text(c.x(), c.y() - 19, text, Type::Figure, ink, Align::Centre, full.width() - 8);
        sheet.text(c.x(), c.y() + 1, block.more, Type::Figure, ink, Align::Centre, full.width() - 8);
    }
}

} // namespace

Wired wiredIn(const Sheet& sheet) {
    Wired w;
    const double right = sheet.width() - 16;
    w.gap = std::clamp((right - w.left) * 0.045, 20.0, 36.0);
    w.width = (right - w.left - 4 * w.gap) / 5;
    w.pitch = w.width + w.gap;
    w.room = w.pitch - 10;
    return w;
}

double layoutWired(Sheet& sheet, const View& view, double top) {
    const auto* m = view.session.machine();
    const auto blocks = blocksOf(m);
    const auto wired = wiredIn(sheet);
    const double height = sheet.height() < 500 ? 46 : 88, middle = top + height / 2;
    const double right = wired.left + 4 * wired.pitch + wired.width;
    const auto half = [&](std::size_t i) {
        const double most = i == 2 ? height / 2 - 14 : height / 2;
        return std::max(2.0, most * (blocks[i].known ? blocks[i].share : 1));
    };
    const auto place = [&](std::size_t i) {
        return QRectF(wired.left + static_cast<double>(i) * wired.pitch, top, wired.width, height);
    };
    if (m != nullptr)
        for (const double y : {top, top + height}) sheet.line({wired.left, y}, {right, y}, Ink::Off, 1.2, {5, 4});
    for (std::size_t i = 0; i + 1 < blocks.size(); ++i) {
        const double x1 = place(i).right(), x2 = place(i + 1).left();
        if (m == nullptr)
            sheet.rect(QRectF(x1, top + 14, x2 - x1, height - 28), Ink::None, Ink::Off, 1.2, {5, 4});
        else
            join(sheet, x1, half(i), x2, half(i + 1), middle);
    }
    for (std::size_t i = 0; i < blocks.size(); ++i) {
        const QRectF full = place(i), now(full.left(), middle - half(i), full.width(), 2 * half(i));
        if (i == 2 && m != nullptr)
            drawLink(sheet, blocks[i], full, half(i));
        else
            drawBlock(sheet, blocks[i], full, now, static_cast<unsigned>(i + 1), m != nullptr);
        sheet.text(full.left(), top + height + 6, say(blocks[i].title), Type::Heading);
    }
    const double below = top + height + 28;
    return m == nullptr ? below + 4 : machineValues(sheet, *m, wired, below);
}

} // namespace impasto::app
