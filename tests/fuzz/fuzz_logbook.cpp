// SPDX-License-Identifier: GPL-3.0-or-later
// What a logbook from a stranger may hold: JSON of edits, orders and captures, packed frames, a log beside the file.
// The first byte says which.
#include <cstring>
#include <fstream>
#include <impasto/capture/check.h>
#include <impasto/frames/summary.h>
#include <impasto/logbook/edits_json.h>
#include <logbook/chunk.h>
#include <logbook/facts_json.h>
#include <logbook/wal.h>
#include <unistd.h>

using namespace impasto;

namespace {

void tryEdits(std::string_view text) {
    const auto read = logbook::editsFromJson(text);
    if (!read) return;
    const auto again = logbook::editsFromJson(logbook::toJson(*read));
    if (!again) __builtin_trap(); // what was read can be written and read again
}

void tryFacts(std::string_view text) {
    if (const auto order = logbook::orderFromJson(text); order && !logbook::orderFromJson(logbook::toJson(*order)))
        __builtin_trap();
    static_cast<void>(logbook::captureFromHead(text));
    static_cast<void>(logbook::aboutFromJson(text));
}

void tryFrames(std::string_view bytes) {
    capture::Capture c;
    c.framesMs.resize(std::min<std::size_t>(bytes.size() / sizeof(double), 400));
    if (!c.framesMs.empty()) std::memcpy(c.framesMs.data(), bytes.data(), c.framesMs.size() * sizeof(double));
    std::vector<double> unpacked;
    static_cast<void>(logbook::unpack(bytes, 100, unpacked));
    if (capture::faultOf(c) || c.frames() == 0) return;
    static_cast<void>(impasto::frames::summarize(c.framesMs)); // what passes the check can be computed
}

void tryLog(std::string_view bytes) {
    const std::string file = "/tmp/impasto-fuzz-" + std::to_string(::getpid());
    std::string head(100, '\0');
    head[16] = 2; // pages of 512 bytes
    std::ofstream(file, std::ios::binary) << head;
    std::ofstream(file + "-wal", std::ios::binary) << bytes;
    static_cast<void>(logbook::lostTransactions(file));
}

} // namespace

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    if (size == 0) return 0;
    const std::string_view rest(reinterpret_cast<const char*>(data) + 1, size - 1);
    switch (data[0] % 4) {
    case 0:
        tryEdits(rest);
        break;
    case 1:
        tryFacts(rest);
        break;
    case 2:
        tryFrames(rest);
        break;
    default:
        tryLog(rest);
    }
    return 0;
}
