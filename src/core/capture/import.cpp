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

namespace {

/// What the reader makes of the unpacked text.
template <class Read>
Result<Capture> fromBytes(std::string_view bytes, Read read) {
    const auto plain = unpacked(bytes);
    if (!plain) return tl::unexpected(plain.error());
    Result<Capture> capture = read(plain->text(bytes));
    if (capture && !plain->how.empty()) capture->notes["packing"] = plain->how;
    return capture;
}

template <class Read>
Result<Capture> fromFile(const std::filesystem::path& path, Read read) {
    const auto bytes = readFile(path);
    if (!bytes) return tl::unexpected(bytes.error());
    auto capture = fromBytes(*bytes, read);
    if (capture) return capture;
    Error error = capture.error();
    error.where.file = path.string();
    return tl::unexpected(error);
}

} // namespace

Result<Capture> readLogText(std::string_view bytes) {
    return fromBytes(bytes, readPlain);
}

Result<Capture> readLog(const std::filesystem::path& path) {
    return fromFile(path, readPlain);
}

Result<Capture> readLogAs(const std::filesystem::path& path, const Dialect& dialect) {
    return fromFile(path, [&dialect](std::string_view text) { return importText(text, dialect); });
}

} // namespace impasto::capture
