// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <cmath>
#include <impasto/logs/rates.h>
#include <numeric>

namespace impasto::logs {
namespace {

/// Rates at steps of less than a second, as means of a second each; others as they are.
std::vector<double> ofSeconds(const std::vector<double>& rates, double stepMs) {
    const auto rows = static_cast<std::ptrdiff_t>(std::max(1.0, std::round(1000 / stepMs)));
    std::vector<double> out;
    for (auto from = rates.begin(); from == rates.begin() || rates.end() - from >= rows;) {
        const auto to = from + std::min(rows, rates.end() - from);
        out.push_back(std::accumulate(from, to, 0.0) / static_cast<double>(to - from));
        from = to;
    }
    return out;
}

} // namespace

Result<RateTable> readRates(const std::filesystem::path& path, const ReadOptions& options) {
    const auto preview = previewLog(path, options);
    if (!preview) return tl::unexpected(preview.error());
    if (preview->begin) return fail(ErrorCode::BadValue, "a table of rates", {path.string(), {}, {}, {}});
    const auto& refused = preview->begin.error();
    const bool rates =
        refused.code == ErrorCode::NotFrames && refused.where.column && refused.what.starts_with("one rate");
    if (!rates) return tl::unexpected(refused);
    Dialect dialect;
    dialect.delimiter = preview->dialect.delimiter;
    dialect.decimalComma = preview->dialect.decimalComma;
    dialect.firstDataLine = preview->dialect.firstDataLine;
    dialect.columns = preview->dialect.columns;
    dialect.timeColumn = *refused.where.column - 1;
    dialect.meaning = TimeMeaning::Rate;
    ReadOptions how = options;
    how.dialect = dialect;
    const auto rows = readLog(path, how);
    if (!rows) return tl::unexpected(rows.error());
    RateTable out;
    out.stepMs = preview->rateStepMs;
    for (const double ms : rows->framesMs) out.rates.push_back(1000 / ms);
    const auto seconds = ofSeconds(out.rates, out.stepMs.value_or(1000));
    const auto [least, most] = std::minmax_element(seconds.begin(), seconds.end());
    out.least = Fps(*least);
    out.most = Fps(*most);
    out.average =
        Fps(std::clamp(std::accumulate(out.rates.begin(), out.rates.end(), 0.0) / static_cast<double>(out.rates.size()),
                       *least, *most));
    return out;
}

} // namespace impasto::logs
