// SPDX-License-Identifier: GPL-3.0-or-later
// The why drawer: where the figure of a topic comes from; the topics are the stations' own.
#pragma once

#include "stations/view.h"

namespace impasto::app {

/// A shape with such an id has a reason of its own: "cap.even", "generation.3".
bool hasReason(const QString& id);
Drawing layoutWhy(const View& view, QSizeF size);

} // namespace impasto::app
