// SPDX-License-Identifier: GPL-3.0-or-later
#include <algorithm>
#include <impasto/capture/pyramid.h>

namespace impasto::capture {
namespace {

void widen(Pyramid::Range& range, const Pyramid::Range& by) {
    range.least = std::min(range.least, by.least);
    range.most = std::max(range.most, by.most);
}

} // namespace

Pyramid::Pyramid(std::span<const double> frameMs) : m_frames(frameMs) {
    if (frameMs.empty()) return;
    auto& blocks = m_levels.emplace_back();
    double at = 0;
    for (std::size_t i = 0; i < frameMs.size(); ++i) {
        if (i % block == 0) blocks.push_back({frameMs[i], frameMs[i]});
        widen(blocks.back(), {frameMs[i], frameMs[i]});
        at += frameMs[i];
        if ((i + 1) % block == 0 || i + 1 == frameMs.size()) m_endMs.push_back(at);
    }
    while (m_levels.back().size() > fold) {
        std::vector<Range> coarser;
        const auto& finer = m_levels.back();
        for (std::size_t i = 0; i < finer.size(); ++i) {
            if (i % fold == 0) coarser.push_back(finer[i]);
            widen(coarser.back(), finer[i]);
        }
        m_levels.push_back(std::move(coarser));
    }
}

std::size_t Pyramid::frameAt(double ms) const {
    const auto it = std::lower_bound(m_endMs.begin(), m_endMs.end(), ms);
    if (it == m_endMs.end()) return m_frames.size();
    double at = it == m_endMs.begin() ? 0 : *(it - 1);
    std::size_t frame = static_cast<std::size_t>(it - m_endMs.begin()) * block;
    while (frame + 1 < m_frames.size() && at + m_frames[frame] < ms) at += m_frames[frame++];
    return frame;
}

double Pyramid::startOf(std::size_t frame) const {
    const std::size_t whole = std::min(frame, m_frames.size()) / block;
    double at = whole == 0 ? 0 : m_endMs[whole - 1];
    for (std::size_t i = whole * block; i < std::min(frame, m_frames.size()); ++i) at += m_frames[i];
    return at;
}

Pyramid::Range Pyramid::range(std::size_t first, std::size_t last) const {
    Range out{m_frames[first], m_frames[first]};
    const auto frames = [&](std::size_t a, std::size_t b) {
        for (; a < b; ++a) widen(out, {m_frames[a], m_frames[a]});
    };
    std::size_t a = (first + block - 1) / block, b = last / block;
    if (a >= b) {
        frames(first, last);
        return out;
    }
    frames(first, a * block);
    frames(b * block, last);
    // Blocks a to b: what does not fill a coarser one at either side, then the coarser ones.
    for (const auto& level : m_levels) {
        while (a < b && (a % fold != 0 || &level == &m_levels.back())) widen(out, level[a++]);
        while (a < b && b % fold != 0) widen(out, level[--b]);
        a /= fold;
        b /= fold;
    }
    return out;
}

} // namespace impasto::capture
