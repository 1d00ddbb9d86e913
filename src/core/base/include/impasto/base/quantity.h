// SPDX-License-Identifier: GPL-3.0-or-later
// Units as types. A Quantity holds one finite double in the unit its name says; it never converts by itself.
#pragma once

#include <compare>

namespace impasto {

template <class Tag>
class Quantity {
  public:
    constexpr Quantity() = default;
    constexpr explicit Quantity(double value) : m_value(value) {}
    [[nodiscard]] constexpr double value() const { return m_value; }

    friend constexpr auto operator<=>(Quantity, Quantity) = default;
    friend constexpr Quantity operator+(Quantity a, Quantity b) { return Quantity(a.m_value + b.m_value); }
    friend constexpr Quantity operator-(Quantity a, Quantity b) { return Quantity(a.m_value - b.m_value); }
    friend constexpr Quantity operator*(Quantity a, double k) { return Quantity(a.m_value * k); }
    friend constexpr Quantity operator*(double k, Quantity a) { return Quantity(a.m_value * k); }
    friend constexpr Quantity operator/(Quantity a, double k) { return Quantity(a.m_value / k); }
    /// The ratio of two quantities of one unit is a plain number.
    friend constexpr double operator/(Quantity a, Quantity b) { return a.m_value / b.m_value; }

  private:
    double m_value = 0.0;
};

using Milliseconds = Quantity<struct MillisecondsTag>;
using Fps = Quantity<struct FpsTag>;
using Hertz = Quantity<struct HertzTag>;
using Mebibytes = Quantity<struct MebibytesTag>;
using Watts = Quantity<struct WattsTag>;
using Celsius = Quantity<struct CelsiusTag>;
using Megapixels = Quantity<struct MegapixelsTag>;

/// The time one frame may take at a rate: 1000 / rate. The rate must be above zero.
constexpr Milliseconds budgetOf(Fps rate) {
    return Milliseconds(1000.0 / rate.value());
}
/// The rate at a frame time: 1000 / time. The time must be above zero.
constexpr Fps rateOf(Milliseconds frame) {
    return Fps(1000.0 / frame.value());
}

} // namespace impasto
