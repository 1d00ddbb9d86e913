// SPDX-License-Identifier: GPL-3.0-or-later
#include <impasto/capture/import.h>

#include <cmath>
#include <impasto/base/file.h>
#include <impasto/base/text.h>

#include "importer.h"
#include "packed.h"

namespace impasto::capture {

Result<Capture> importText(std::string_view text, const Dialect& dialect) {
    if (auto fault = faultOfText(text)) return tl::unexpected(*fault);
    Importer importer(dialect);
    Lines lines(text);
    while (const auto line = lines.next()) {
        if (const auto fault = faultOfLength(*line)) return tl::unexpected(*fault);
        if (line->number < dialect.firstDataLine || isComment(line->text)) continue;
        const auto fault = importer.row(*line);
        if (fault && !line->ended) break; // cut while being written
        if (fault) return tl::unexpected(*fault);
    }
    Capture capture = importer.take();
    if (capture.framesMs.empty()) return tl::unexpected(noFrames(lines));
    capture.notes["dialect"] = textOf(dialect);
    return capture;
}

namespace {

Result<Capture> readPlain(std::string_view text) {
    if (text.substr(0, 17) == "# impasto capture") return readCsv(text);
    const auto dialect = guessDialect(text);
    if (!dialect) return tl::unexpected(dialect.error());
    return importText(text, *dialect);
}

} // namespace

Result<Capture> readLogText(std::string_view bytes) {
    const auto plain = unpacked(bytes);
    if (!plain) return tl::unexpected(plain.error());
    auto capture = readPlain(plain->text(bytes));
    if (capture && !plain->how.empty()) capture->notes["packing"] = plain->how;
    return capture;
}

Result<Capture> readLog(const std::filesystem::path& path) {
    const auto bytes = readFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    auto capture = readLogText(*bytes);
    if (capture) return capture;
    Error error = capture.error();
    error.where.file = path.string();
    return tl::unexpected(error);
}

} // namespace impasto::capture
