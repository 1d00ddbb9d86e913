// SPDX-License-Identifier: GPL-3.0-or-later
#include "clock.h"

#include "number.h"

#include <array>
#include <chrono>
#include <impasto/base/text.h>

namespace impasto::logs {
namespace {

/// Reads from the front of a text.
class Front {
  public:
    explicit Front(std::string_view text) : m_rest(text) {}
    [[nodiscard]] bool empty() const { return m_rest.empty(); }
    [[nodiscard]] std::string_view rest() const { return m_rest; }
    bool take(char c) {
        if (m_rest.empty() || m_rest.front() != c) return false;
        m_rest.remove_prefix(1);
        return true;
    }
    /// A number of at least `least` and at most `most` digits.
    std::optional<int> digits(std::size_t least, std::size_t most) {
        int value = 0;
        std::size_t n = 0;
        while (n < most && n < m_rest.size() && m_rest[n] >= '0' && m_rest[n] <= '9')
            value = 10 * value + m_rest[n++] - '0';
        if (n < least) return std::nullopt;
        m_rest.remove_prefix(n);
        return value;
    }
    /// Decimals behind a point or a comma.
    std::optional<double> fraction() {
        if (!take('.') && !take(',')) return 0;
        double value = 0, place = 0.1;
        std::size_t n = 0;
        for (; n < m_rest.size() && m_rest[n] >= '0' && m_rest[n] <= '9'; ++n, place /= 10)
            value += place * (m_rest[n] - '0');
        if (n == 0) return std::nullopt;
        m_rest.remove_prefix(n);
        return value;
    }

  private:
    std::string_view m_rest;
};

/// Whether "AM" or "PM" stands there: hours to be added to those said.
std::optional<int> halfDay(Front& in, int hours) {
    if (in.empty()) return 0;
    Front look = in;
    look.take(' ');
    const bool am = look.take('A') || look.take('a'), pm = !am && (look.take('P') || look.take('p'));
    if (!am && !pm) return 0;
    if ((!look.take('M') && !look.take('m')) || hours < 1 || hours > 12) return std::nullopt;
    in = look;
    return pm ? (hours == 12 ? 0 : 12) : (hours == 12 ? -12 : 0);
}

/// "12:34:56.789", "12:34:56,789", "12:34:56", each also with AM or PM.
std::optional<double> timeOfDay(Front& in) {
    const auto hours = in.digits(1, 2);
    if (!hours || *hours > 24 || !in.take(':')) return std::nullopt;
    const auto minutes = in.digits(2, 2);
    if (!minutes || *minutes > 59 || !in.take(':')) return std::nullopt;
    const auto seconds = in.digits(2, 2);
    const auto fraction = seconds ? in.fraction() : std::nullopt;
    if (!seconds || *seconds > 60 || !fraction) return std::nullopt;
    const auto half = halfDay(in, *hours);
    return half ? std::optional(3600.0 * (*hours + *half) + 60.0 * *minutes + *seconds + *fraction) : std::nullopt;
}

/// "Z", "+02:00", "-0530" or nothing, in seconds.
std::optional<double> offsetOf(Front& in) {
    if (in.empty() || in.take('Z') || in.take('z')) return 0;
    const double sign = in.take('+') ? 1 : in.take('-') ? -1 : 0;
    const auto hours = sign != 0 ? in.digits(2, 2) : std::nullopt;
    if (!hours) return std::nullopt;
    in.take(':');
    const auto minutes = in.empty() ? std::optional(0) : in.digits(2, 2);
    return minutes ? std::optional(sign * (3600.0 * *hours + 60.0 * *minutes)) : std::nullopt;
}

/// The day of "2031-04-05" or "2031/04/05", in seconds since 1970.
std::optional<double> dayOf(Front& in) {
    using namespace std::chrono;
    const auto y = in.digits(4, 4);
    if (!y) return std::nullopt;
    const char separator = in.take('-') ? '-' : in.take('/') ? '/' : '\0';
    const auto m = separator == '\0' ? std::nullopt : in.digits(2, 2);
    const auto d = m && in.take(separator) ? in.digits(2, 2) : std::nullopt;
    if (!d) return std::nullopt;
    const year_month_day date{year(*y), month(static_cast<unsigned>(*m)), day(static_cast<unsigned>(*d))};
    if (!date.ok()) return std::nullopt;
    return 86400.0 * static_cast<double>(sys_days(date).time_since_epoch().count());
}

/// "5.4.2031", "04/05/2031", "5-4-2031": day and month in either order.
std::optional<std::array<int, 3>> localDate(Front& in) {
    const auto first = in.digits(1, 2);
    if (!first) return std::nullopt;
    const char separator = in.take('.') ? '.' : in.take('/') ? '/' : in.take('-') ? '-' : '\0';
    const auto second = separator == '\0' ? std::nullopt : in.digits(1, 2);
    const auto year = second && in.take(separator) ? in.digits(4, 4) : std::nullopt;
    if (!year || *first < 1 || *second < 1 || std::min(*first, *second) > 12 || std::max(*first, *second) > 31)
        return std::nullopt;
    return std::array{*first, *second, *year};
}

/// Days from one local date to another in the order that makes them fewest, and not before.
std::optional<int> daysBetween(const std::array<int, 3>& from, const std::array<int, 3>& to) {
    using namespace std::chrono;
    std::optional<int> fewest;
    for (const std::size_t dayAt : {std::size_t{0}, std::size_t{1}}) {
        const auto dayOf = [dayAt](const std::array<int, 3>& d) {
            return year_month_day{year(d[2]), month(static_cast<unsigned>(d[1 - dayAt])),
                                  day(static_cast<unsigned>(d[dayAt]))};
        };
        const auto a = dayOf(from), b = dayOf(to);
        if (!a.ok() || !b.ok()) continue;
        const auto days = static_cast<int>((sys_days(b) - sys_days(a)).count());
        if (days >= 0 && (!fewest || days < *fewest)) fewest = days;
    }
    return fewest;
}

/// Seconds since the first day that was read.
std::optional<double> localTime(Front in, Clock& clock) {
    const auto date = localDate(in);
    if (!date || (!in.take(' ') && !in.take('T'))) return std::nullopt;
    in.take(' ');
    const auto time = timeOfDay(in);
    if (!time || !in.empty()) return std::nullopt;
    if (clock.date[2] != 0 && clock.date != *date) {
        const auto days = daysBetween(clock.date, *date);
        if (!days) return std::nullopt;
        clock.days += 86400.0 * *days;
    }
    clock.date = *date;
    clock.used = true;
    return clock.days + *time;
}

} // namespace

std::optional<double> parseClock(std::string_view cell, Clock& clock) {
    cell = trimmed(cell);
    if (cell.size() > 2 && cell.front() == '"' && cell.back() == '"') cell = cell.substr(1, cell.size() - 2);
    if (cell.size() < 7 || cell.find(':') == std::string_view::npos) return std::nullopt;
    Front in(cell);
    if (const auto day = dayOf(in)) {
        if (!in.take('T') && !in.take('t') && !in.take(' ')) return std::nullopt;
        const auto time = timeOfDay(in);
        const auto offset = time ? offsetOf(in) : std::nullopt;
        if (!offset || !in.empty()) return std::nullopt;
        clock.used = true;
        return *day + *time - *offset;
    }
    if (const auto local = localTime(Front(cell), clock)) return local;
    Front alone(cell);
    const auto time = timeOfDay(alone);
    if (!time || !alone.empty()) return std::nullopt;
    clock.used = true;
    if (clock.last - *time > 80000) clock.days += 86400; // over midnight
    clock.last = *time;
    return clock.days + *time;
}

std::optional<double> parseTime(std::string_view cell, bool decimalComma, bool units, Clock& clock) {
    if (const auto number = parseNumber(cell, decimalComma, units)) return number;
    return parseClock(cell, clock);
}

bool saysNothing(std::string_view cell) {
    cell = trimmed(cell);
    if (cell == "\"\"") return true;
    if (cell.size() > 4) return false;
    const auto word = lowered(cell);
    constexpr std::array<std::string_view, 9> words{"", "na", "n/a", "-", "--", "null", "none", "nan", "nil"};
    return std::find(words.begin(), words.end(), word) != words.end();
}

} // namespace impasto::logs
