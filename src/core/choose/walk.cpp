// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/choose/walk.h>

#include <algorithm>

namespace impasto::choose {
namespace {

constexpr std::array<std::string_view, allWalkSchools.size()> keys{
    "measured", "top-down", "in-leaps", "bottom-up", "preset-first", "both-ends", "upscale-first"};

/// Sets and what is known of them, as a walk looks at them.
class Grounds {
  public:
    Grounds(const Chooser& chooser, const Room& room, const std::vector<Walked>& runs,
            const std::vector<cost::Set>& skipped)
        : m_chooser(chooser), m_room(room), m_runs(runs), m_skipped(skipped) {}

    /// It may be chosen, and was not skipped.
    [[nodiscard]] bool open(const cost::Set& set) const {
        return m_chooser.allowed().has(set) && std::find(m_skipped.begin(), m_skipped.end(), set) == m_skipped.end();
    }

    [[nodiscard]] const Walked* seen(const cost::Set& set) const {
        const auto it = std::find_if(m_runs.begin(), m_runs.end(), [&](const Walked& run) { return run.set == set; });
        return it == m_runs.end() ? nullptr : &*it;
    }
    [[nodiscard]] bool broke(const cost::Set& set) const {
        const auto* run = seen(set);
        return run != nullptr && !run->holds();
    }
    [[nodiscard]] double picture(const cost::Set& set) const { return m_chooser.picture(set); }

    /// Of every resource, the highest share of its room that a set is believed to take in any part.
    [[nodiscard]] std::vector<double> loads(const cost::Set& set) const {
        const auto& belief = m_chooser.belief();
        std::vector<double> out;
        for (std::size_t k = 0; k < belief.resources().size(); ++k) {
            double most = 0;
            for (std::size_t p = 0; p < belief.partsOf(belief.resources()[k]); ++p)
                most = std::max(most, m_chooser.takes(k, p, set).mean / m_room[k][p]);
            out.push_back(most);
        }
        return out;
    }
    [[nodiscard]] double load(const cost::Set& set) const {
        const auto all = loads(set);
        return *std::max_element(all.begin(), all.end());
    }

    /// Whether a set asks no less of everything than one that broke the target.
    [[nodiscard]] bool beyond(const cost::Set& set) const {
        return std::any_of(m_runs.begin(), m_runs.end(), [&](const Walked& run) {
            if (run.holds() || scale(run.set) > scale(set)) return false;
            for (std::size_t s = 0; s < set.levels.size(); ++s)
                if (ordered(s) ? run.set.levels[s] > set.levels[s] : run.set.levels[s] != set.levels[s]) return false;
            return true;
        });
    }

    /// Sets a step away, up or down, that may be chosen.
    [[nodiscard]] std::vector<cost::Set> around(const cost::Set& set, bool up) const {
        std::vector<cost::Set> out;
        const auto add = [&](cost::Set step) {
            step = m_chooser.allowed().obeying(std::move(step));
            const double gained = picture(step) - picture(set);
            if (open(step) && (up ? gained > 0 : gained < 0)) out.push_back(std::move(step));
        };
        for (std::size_t s = 0; s < set.levels.size(); ++s)
            if (const auto level = nextOpen(m_chooser.allowed().levels[s], set.levels[s], up)) {
                cost::Set step = set;
                step.levels[s] = *level;
                add(std::move(step));
            }
        for (const auto size : nextSizes(set.size, up)) {
            cost::Set step = set;
            step.size = size;
            add(std::move(step));
        }
        return out;
    }

    /// Everything at one end, at a size; run as it is now.
    [[nodiscard]] cost::Set end(bool up, std::size_t size) const {
        cost::Set set{{}, size};
        for (const auto& open : m_chooser.allowed().levels) {
            const auto last = static_cast<std::size_t>(std::find(open.rbegin(), open.rend(), true) - open.rbegin());
            const auto first = static_cast<std::size_t>(std::find(open.begin(), open.end(), true) - open.begin());
            const std::size_t s = set.levels.size(), now = m_chooser.belief().layout().dials[s].now;
            set.levels.push_back(!ordered(s) && open[now] ? now : up ? open.size() - 1 - last : first);
        }
        return m_chooser.allowed().obeying(std::move(set));
    }

    /// Rendered sizes that may be chosen, the largest first; of those that are alike, the one that shows most.
    [[nodiscard]] std::vector<std::size_t> sizes() const {
        std::vector<std::size_t> all, out;
        const auto& sizes = m_chooser.belief().layout().sizes;
        for (std::size_t g = 0; g < sizes.size(); ++g)
            if (m_chooser.allowed().sizes[g]) all.push_back(g);
        const auto shows = [&](std::size_t g) { return picture(end(false, g)); };
        std::stable_sort(all.begin(), all.end(), [&](std::size_t a, std::size_t b) {
            return std::pair(sizes[a].scale, shows(a)) > std::pair(sizes[b].scale, shows(b));
        });
        for (const auto g : all)
            if (out.empty() || sizes[out.back()].scale > sizes[g].scale) out.push_back(g);
        return out;
    }

  private:
    [[nodiscard]] bool ordered(std::size_t dial) const { return m_chooser.belief().layout().dials[dial].ordered; }
    [[nodiscard]] double scale(const cost::Set& set) const { return m_chooser.belief().layout().sizes[set.size].scale; }
    static std::optional<std::size_t> nextOpen(const std::vector<bool>& open, std::size_t from, bool up) {
        for (std::size_t l = from; up ? ++l < open.size() : l-- > 0;)
            if (open[l]) return l;
        return std::nullopt;
    }
    /// Those of the next larger or smaller scale, of every kind of upscaler.
    [[nodiscard]] std::vector<std::size_t> nextSizes(std::size_t from, bool up) const {
        const auto& sizes = m_chooser.belief().layout().sizes;
        std::vector<std::size_t> out;
        for (std::size_t g = 0; g < sizes.size(); ++g) {
            if (!m_chooser.allowed().sizes[g]) continue;
            if (up ? sizes[g].scale <= sizes[from].scale : sizes[g].scale >= sizes[from].scale) continue;
            const double nearest = out.empty() ? sizes[g].scale : sizes[out.front()].scale;
            if (up ? sizes[g].scale < nearest : sizes[g].scale > nearest) out.clear();
            if (out.empty() || sizes[g].scale == nearest) out.push_back(g);
        }
        return out;
    }

    const Chooser& m_chooser;
    const Room& m_room;
    const std::vector<Walked>& m_runs;
    const std::vector<cost::Set>& m_skipped;
};

struct Opening {
    Move move;
    cost::Set set;
};

std::vector<Opening> openingOf(WalkSchool walk, const Grounds& grounds, const WalkGround& from) {
    std::vector<Opening> out;
    const auto sizes = grounds.sizes();
    const auto allDown = [&] {
        for (const auto size : sizes) out.push_back({Move::AllDown, grounds.end(false, size)});
    };
    if (walk == WalkSchool::TopDown || walk == WalkSchool::InLeaps || walk == WalkSchool::BothEnds)
        out.push_back({Move::AllUp, grounds.end(true, sizes.front())});
    if (walk == WalkSchool::BottomUp || walk == WalkSchool::BothEnds) allDown();
    if (walk == WalkSchool::PresetFirst)
        for (const auto& preset : from.presets) out.push_back({Move::Preset, preset});
    if (walk == WalkSchool::UpscaleFirst)
        for (const auto size : sizes) out.push_back({Move::Size, {from.start.levels, size}});
    return out;
}

/// The step down that saves most where the set is over, for the picture that it costs.
std::optional<cost::Set> lowered(const Grounds& grounds, const cost::Set& set) {
    constexpr double leastLoss = 0.005; // of the picture: a step that shows nothing is not worth everything
    const auto loads = grounds.loads(set);
    const double most = *std::max_element(loads.begin(), loads.end());
    std::optional<cost::Set> best;
    double worth = 0;
    for (auto& step : grounds.around(set, false)) {
        if (grounds.seen(step) != nullptr) continue;
        const auto after = grounds.loads(step);
        double saved = 0;
        for (std::size_t k = 0; k < loads.size(); ++k)
            if (loads[k] > 1 || loads[k] == most) // a run that broke may be believed to hold
                saved += loads[k] - after[k];
        const double gain = saved / (grounds.picture(set) - grounds.picture(step) + leastLoss);
        if (gain <= worth) continue;
        worth = gain;
        best = std::move(step);
    }
    return best;
}

/// One step down, or in leaps as many as are believed to be needed.
std::optional<cost::Set> down(WalkSchool walk, const Grounds& grounds, const cost::Set& from) {
    auto step = lowered(grounds, from);
    if (walk != WalkSchool::InLeaps) return step;
    while (step && grounds.load(*step) > 1) {
        auto more = lowered(grounds, *step);
        if (!more) break;
        step = std::move(more);
    }
    return step;
}

/// The step up with the most picture for what it is believed to cost.
std::optional<cost::Set> raised(const Grounds& grounds, const cost::Set& set) {
    constexpr double hopeless = 1.03; // of the room; costs are in doubt
    constexpr double leastCost = 0.002;
    const double now = grounds.load(set);
    std::optional<cost::Set> best;
    double worth = 0;
    std::size_t broken = 0;
    for (auto& step : grounds.around(set, true)) {
        if (grounds.broke(step) && ++broken >= raisesMost) return std::nullopt;
        if (grounds.seen(step) != nullptr || grounds.beyond(step)) continue;
        const double load = grounds.load(step);
        const double gain = (grounds.picture(step) - grounds.picture(set)) / (std::max(0.0, load - now) + leastCost);
        if (load > hopeless || gain <= worth) continue;
        worth = gain;
        best = std::move(step);
    }
    return best;
}

} // namespace

std::string_view keyOf(WalkSchool walk) {
    return keys.at(static_cast<std::size_t>(walk));
}

std::optional<WalkSchool> walkSchoolOf(std::string_view key) {
    for (const auto walk : allWalkSchools)
        if (keyOf(walk) == key) return walk;
    return std::nullopt;
}

Stride strideOf(WalkSchool walk, const Chooser& chooser, const Room& room, const std::vector<Walked>& runs,
                const WalkGround& ground) {
    const Grounds grounds(chooser, room, runs, ground.skipped);
    Stride out;
    const Walked* nearest = nullptr; // of those that broke the target
    bool found = false;              // a set of the walk's own holds
    for (const auto& run : runs) {
        if (!chooser.allowed().has(run.set)) continue;
        if (!run.holds() && (nearest == nullptr || run.load < nearest->load)) nearest = &run;
        if (!run.holds()) continue;
        found = found || run.set != ground.start;
        if (!out.stands || grounds.picture(run.set) > grounds.picture(*out.stands)) out.stands = run.set;
    }
    for (const auto& opening : openingOf(walk, grounds, ground)) {
        if (!grounds.open(opening.set)) continue;
        const auto* run = grounds.seen(opening.set);
        if (run == nullptr) {
            out.move = opening.move;
            out.next = opening.set;
            return out;
        }
        if (!run->holds()) continue;
        found = true;
        break;
    }
    if (!found && nearest != nullptr) {
        out.move = Move::Lower;
        out.from = nearest->set;
        out.next = down(walk, grounds, nearest->set);
        if (out.next && !(out.stands && grounds.picture(*out.next) <= grounds.picture(*out.stands))) return out;
    }
    // What is in use holds, and shows as much as the next step down would.
    out.move = Move::Raise;
    out.from = out.stands;
    out.next = out.stands ? raised(grounds, *out.stands) : std::nullopt;
    return out;
}

} // namespace impasto::choose
