// SPDX-License-Identifier: GPL-3.0-or-later
// Elementary functions from + - * / sqrt only, so that a simulated run is the same to the bit on every processor and C
// library. Each is within 2 ulp of the correctly rounded value on the ranges the simulator uses.
#pragma once

namespace impasto::portable {

/// e^x for |x| <= 700; 0 below and +inf above. NaN gives NaN.
double exp(double x);
/// Natural logarithm of a normal x > 0; -inf at 0, NaN below.
double log(double x);
/// x^y = exp(y log x) with a two-part product, for x > 0 and |y log x| <= 100.
double pow(double x, double y);
/// cos and sin for |x| <= 1000, in radians. Near a zero of the function the error is 2 ulp of 1e-3, not of the result.
double cos(double x);
double sin(double x);

} // namespace impasto::portable
