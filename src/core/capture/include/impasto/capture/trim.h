// SPDX-License-Identifier: GPL-3.0-or-later
// Stretches of a recording that do not count: loading, menus, a switch to another window. The recording itself is never
// touched.
#pragma once

#include <impasto/capture/capture.h>
#include <span>

namespace impasto::capture {

/// Ms from the first frame's start.
struct Span {
    double fromMs = 0, toMs = 0;
    friend auto operator<=>(const Span&, const Span&) = default;
};
/// In order, those that touch as one; empty and reversed ones dropped.
std::vector<Span> joined(std::vector<Span> spans);
/// The frames that end outside the spans, with their marks and readings; times go on as if nothing had been between.
Capture without(const Capture& capture, std::span<const Span> spans);
/// The time in the whole recording of a time in the trimmed one; to within a frame.
double timeInWhole(std::span<const Span> spans, double trimmedMs);

} // namespace impasto::capture
