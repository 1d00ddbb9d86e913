// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

#include <impasto/base/keys.h>

namespace impasto::document {
namespace {

constexpr Keys<LeftOut, 8> reasons{{{LeftOut::WarmUp, "warm-up"},
                                    {LeftOut::Interrupted, "interrupted"},
                                    {LeftOut::Damaged, "damaged"},
                                    {LeftOut::Crashed, "crashed"},
                                    {LeftOut::Mismatch, "mismatch"},
                                    {LeftOut::Beside, "beside"},
                                    {LeftOut::Odd, "odd"},
                                    {LeftOut::ByHand, "by-hand"}}};

} // namespace

std::string_view keyOf(LeftOut reason) {
    return keyIn(reasons, reason);
}
std::optional<LeftOut> leftOutOf(std::string_view key) {
    return valueIn(reasons, key);
}

Edit leaveOut(RunId run, LeftOut reason) {
    return plain("leave-out", [run, reason](Edits& e) {
        e.runs.leftOut[run] = reason;
        e.runs.counted.erase(run);
    });
}

Edit countRun(RunId run) {
    return plain("count-run", [run](Edits& e) {
        e.runs.leftOut.erase(run);
        e.runs.counted.insert(run);
    });
}

Edit trimRun(RunId run, std::vector<capture::Span> spans) {
    return plain("trim-run", [run, spans = capture::joined(std::move(spans))](Edits& e) {
        if (spans.empty())
            e.runs.trims.erase(run);
        else
            e.runs.trims[run] = spans;
    });
}

Edit trimRuns(std::map<RunId, std::vector<capture::Span>> runs) {
    for (auto& [run, spans] : runs) spans = capture::joined(std::move(spans));
    std::erase_if(runs, [](const auto& one) { return one.second.empty(); });
    return plain("trim-runs", [runs = std::move(runs)](Edits& e) {
        for (const auto& [run, spans] : runs) e.runs.trims[run] = spans;
    });
}

Edit hideRun(RunId run) {
    return plain("hide-run", [run](Edits& e) { e.runs.hidden.insert(run); });
}

Edit arrive(RunId run) {
    return plain("add-runs", [run](Edits& e) { e.runs.arrived.insert(run); });
}

Edit useReading(RunId first, RunId reading) {
    return plain("use-reading", [first, reading](Edits& e) { e.runs.readings[first] = reading; });
}

Edit withdrawOrder(OrderId order) {
    return plain("withdraw-order", [order](Edits& e) { e.runs.withdrawn.insert(order); });
}

Edit answerOrder(RunId run, OrderId order) {
    return plain("answer-order", [run, order](Edits& e) {
        e.runs.answers[run] = order;
        e.runs.leftOut.erase(run);
    });
}

Edit nameVariant(RunId run, std::string name) {
    constexpr std::size_t longest = 60;
    return {"name-variant", [run, name = std::move(name)](const Edits& before) -> Result<Edits> {
                if (name.size() > longest)
                    return fail(ErrorCode::OutOfRange, "1/60", {{}, {}, {}, "variant"}, Kept::AllAsBefore);
                Edits after = before;
                if (name.empty())
                    after.runs.variants.erase(run);
                else
                    after.runs.variants[run] = name;
                if (const auto it = after.runs.leftOut.find(run);
                    it != after.runs.leftOut.end() && it->second == LeftOut::Beside)
                    after.runs.leftOut.erase(it);
                return after;
            }};
}

Edit setPartColumn(std::string column) {
    return plain("set-part-column", [column = std::move(column)](Edits& e) { e.runs.partColumn = column; });
}

Edit setFollowRest(double seconds) {
    return {"set-follow-rest", [seconds](const Edits& before) -> Result<Edits> {
                if (const auto ok = within(seconds, 0.2, 3600, "rest of a log"); !ok) return tl::unexpected(ok.error());
                Edits after = before;
                after.runs.followRestS = seconds;
                return after;
            }};
}

Edit setFollowSensors(bool read) {
    return plain("set-follow-sensors", [read](Edits& e) { e.runs.followSensors = read; });
}

Edit setHitchRule(frames::HitchRule rule) {
    return {"set-hitch-rule", [rule](const Edits& before) -> Result<Edits> {
                for (const auto& ok :
                     {within(rule.ratio, 1, 10, "hitch ratio"), within(rule.excessMs, 0, 1000, "hitch excess, ms"),
                      within(rule.outrightMs, 0.1, 1000, "hitch at any ratio, ms"),
                      within(static_cast<double>(rule.neighbours), 3, 301, "neighbours")})
                    if (!ok) return tl::unexpected(ok.error());
                if (rule.neighbours % 2 == 0)
                    return fail(ErrorCode::BadValue, "an odd number", {{}, {}, {}, "neighbours"}, Kept::AllAsBefore);
                Edits after = before;
                after.runs.hitchRule = rule;
                return after;
            }};
}

} // namespace impasto::document
