// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

namespace impasto::document {

Edit chooseCap(ChosenCap cap) {
    return plain("choose-cap", [cap = std::move(cap)](Edits& e) { e.pacing.cap = cap; });
}

} // namespace impasto::document
