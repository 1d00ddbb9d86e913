// SPDX-License-Identifier: GPL-3.0-or-later
#include "stations/why.h"

#include "stations/station.h"

namespace impasto::app {
namespace {

/// "cost.shadows": the topic of a station, and the rest.
std::pair<const Topic*, QString> topicOf(const QString& id) {
    const auto dot = id.indexOf(QLatin1Char('.'));
    const QString head = dot < 0 ? id : id.left(dot), rest = dot < 0 ? QString() : id.mid(dot + 1);
    for (const auto& station : stations())
        for (const auto& topic : station.topics)
            if (head == QLatin1String(topic.id)) return {&topic, rest};
    return {nullptr, {}};
}

} // namespace

bool hasReason(const QString& id) {
    return id.contains(QLatin1Char('.')) && topicOf(id).first != nullptr;
}

Drawing layoutWhy(const View& view, QSizeF size) {
    Sheet sheet(size);
    const double x = 16, w = size.width() - 44;
    const auto [topic, rest] = topicOf(view.whyTopic);
    const auto why = topic == nullptr ? std::nullopt : topic->why(view, rest);
    if (!why) {
        sheet.text(x, 16, say("Why"), Type::Heading);
        sheet.wrapped(x, 42, w,
                      say("Put the focus on a figure with a reason of its own: an average, a low, a slab, the choice, "
                          "a cap or a plan. Then press F1."),
                      Type::Body, Ink::Muted);
    } else {
        sheet.text(x, 16, qs(why->title), Type::Heading, Ink::Ink, Align::Left, w);
        double y = 46;
        const auto block = [&](const char* head, const std::string& text) {
            if (text.empty() || y + 40 > size.height() - 50) return;
            sheet.text(x, y, say(head), Type::Note, Ink::Muted);
            y = sheet.wrapped(x, y + 17, w, qs(text), Type::Body, Ink::Ink,
                              static_cast<int>((size.height() - y - 60) / 18)) +
                10;
        };
        block("How it is computed", why->formula);
        block("From", why->inputs);
        block("How sure", why->sure);
        block("What would change it", why->change);
        if (topic->below != nullptr) topic->below(sheet, view, y);
    }
    sheet.button(QRectF(x, size.height() - 44, w, 30), QStringLiteral("why.close"), say("Back"), say("Esc"));
    return sheet.take();
}

} // namespace impasto::app
