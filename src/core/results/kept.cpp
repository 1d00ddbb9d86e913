// SPDX-License-Identifier: GPL-3.0-or-later
#include "kept.h"

#include <bit>
#include <impasto/base/fingerprint.h>

#include "method_mark.h"
#include "packed.h"

namespace impasto::results {

// A member more or less does not compile: each is named.
template <class T, class Of>
concept Is = std::is_same_v<std::remove_const_t<T>, Of>;

template <class A, Is<stats::Low> T>
static void fields(A& a, T& value) {
    auto& [rate, frames] = value;
    a(rate, frames);
}
template <class A, Is<frames::Lows> T>
static void fields(A& a, T& value) {
    auto& [onePercent, tenthPercent] = value;
    a(onePercent, tenthPercent);
}
template <class A, Is<frames::Hitch> T>
static void fields(A& a, T& value) {
    auto& [frame, atMs, frameMs, medianMs] = value;
    a(frame, atMs, frameMs, medianMs);
}
template <class A, Is<frames::Stall> T>
static void fields(A& a, T& value) {
    auto& [fromMs, toMs, frames, lostMs] = value;
    a(fromMs, toMs, frames, lostMs);
}
template <class A, Is<frames::Dip> T>
static void fields(A& a, T& value) {
    auto& [lowest, atMs, lengthMs] = value;
    a(lowest, atMs, lengthMs);
}
template <class A, Is<frames::Summary> T>
static void fields(A& a, T& value) {
    auto& [frames, durationMs, average, lows, medianMs, p95Ms, p99Ms, p999Ms, worstMs, stepMs, spreadMs, slowest,
           fastest, onTime, halfRate, worstDip, hitches, lostMs, stalls] = value;
    a(frames, durationMs, average, lows, medianMs, p95Ms, p99Ms, p999Ms, worstMs, stepMs, spreadMs, slowest, fastest,
      onTime, halfRate, worstDip, hitches, lostMs, stalls);
}
template <class A, Is<frames::PartMeans> T>
static void fields(A& a, T& value) {
    auto& [part, frames, periodMs, cpuMs, gpuMs] = value;
    a(part, frames, periodMs, cpuMs, gpuMs);
}
template <class A, Is<frames::PartHeld> T>
static void fields(A& a, T& value) {
    auto& [part, frames, average, onTime, slowestSecond] = value;
    a(part, frames, average, onTime, slowestSecond);
}
template <class A, Is<capture::Span> T>
static void fields(A& a, T& value) {
    auto& [fromMs, toMs] = value;
    a(fromMs, toMs);
}
template <class A, Is<frames::Examined> T>
static void fields(A& a, T& value) {
    auto& [finding, found, figure, sure, where] = value;
    a(finding, found, figure, sure, where);
}
template <class A, Is<frames::Measured> T>
static void fields(A& a, T& value) {
    auto& [mean, least, most] = value;
    a(mean, least, most);
}
template <class A, Is<frames::Second> T>
static void fields(A& a, T& value) {
    auto& [atMs, average, medianMs, worstMs] = value;
    a(atMs, average, medianMs, worstMs);
}
template <class A, Is<stats::Doubt> T>
static void fields(A& a, T& value) {
    auto& [standardError, low, high] = value;
    a(standardError, low, high);
}
template <class A, Is<frames::RunDoubt> T>
static void fields(A& a, T& value) {
    auto& [average, onePercentLow, tenthPercentLow, median, p95, p99, p999, blockLength] = value;
    a(average, onePercentLow, tenthPercentLow, median, p95, p99, p999, blockLength);
}

namespace {

tl::unexpected<Error> noSuchResult() {
    return fail(ErrorCode::BadValue, "a kept result");
}

template <class Values>
bool within(const Values& values, std::size_t most) {
    return values.size() <= most;
}

} // namespace

std::uint64_t methodMark() {
    return Fingerprint()
        .add(std::string_view(methodSources))
        .add(std::uint64_t{std::endian::native == std::endian::big})
        .value();
}

std::string packShape(const RunShape& shape) {
    Packer out;
    out(shape.seconds, shape.pollution);
    return out.take();
}

Maybe<RunShape> unpackShape(std::string_view bytes, const Inputs& in) {
    const auto whole = in.of<RunParts>(in.run())->capture;
    RunShape out;
    Unpacker from(bytes);
    from(out.seconds, out.pollution);
    if (!from.whole() || !within(out.seconds, whole->frames())) return noSuchResult();
    out.whole = whole;
    out.pyramid = capture::Pyramid(whole->framesMs);
    return std::make_shared<const RunShape>(std::move(out));
}

std::string packFigures(const RunFigures& figures) {
    const auto& [id, summary, parts, held, examined, distribution, measured, shape] = figures;
    Packer out;
    out(summary, parts, held, examined, measured);
    return out.take();
}

Maybe<RunFigures> unpackFigures(std::string_view bytes, const Inputs& in) {
    const auto* frames = in.of<RunFrames>(in.run());
    auto shape = in.sharedOf<RunShape>(in.run());
    if (frames == nullptr || !shape) return std::shared_ptr<const RunFigures>();
    RunFigures out;
    Unpacker from(bytes);
    from(out.summary, out.parts, out.held, out.examined, out.measured);
    const auto& all = out.summary;
    if (!from.whole() || all.frames != frames->capture->frames() || !within(all.hitches, all.frames) ||
        std::any_of(all.hitches.begin(), all.hitches.end(), [&](const auto& h) { return h.frame >= all.frames; }))
        return noSuchResult();
    out.id = in.run();
    out.distribution = frames::Distribution(frames->capture->framesMs);
    out.shape = std::move(shape);
    return std::make_shared<const RunFigures>(std::move(out));
}

std::string packDoubt(const RunDoubt& doubt) {
    return packed(doubt.doubt);
}

Maybe<RunDoubt> unpackDoubt(std::string_view bytes, const Inputs&) {
    RunDoubt out;
    Unpacker from(bytes);
    from(out.doubt);
    if (!from.whole()) return noSuchResult();
    return std::make_shared<const RunDoubt>(out);
}

} // namespace impasto::results
