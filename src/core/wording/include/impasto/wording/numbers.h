// SPDX-License-Identifier: GPL-3.0-or-later
// Every number format of the program. Digits, signs and percent only, the same in every language.
#pragma once

#include <impasto/base/quantity.h>
#include <impasto/display/display.h>
#include <optional>
#include <string>

namespace impasto::wording {

/// Two decimals under 10 ms, one above.
std::string ms(double value);
/// Whole from 100 fps, one decimal below.
std::string fps(double value);
/// A wish as typed: "60", "59.5".
std::string wishFps(Fps rate);
/// One decimal of GiB.
std::string gib(double mebibytes);
/// Whole percent of a share; with a decimal where it would say 0 or 100 and is neither.
std::string percent(double share);
/// "63.7 ± 1.1": the decimals follow the half width (one significant digit of it, two where the first is 1), at most
/// `most`. Without a half width the figure alone with `most` decimals.
std::string plusMinus(double value, std::optional<double> halfWidth, int most);
/// The same with a sign before a positive figure and a real minus.
std::string signedPlusMinus(double value, std::optional<double> halfWidth, int most);
/// "2560×1440".
std::string resolution(display::Resolution r);
/// "4,814"
std::string count(std::size_t n);

} // namespace impasto::wording
