// SPDX-License-Identifier: GPL-3.0-or-later
// No two texts of a picture overlap, and none leaves it.
#pragma once

#include "app/harness.h"

namespace impasto::app {

void expectTidy(const Drawing& drawing, QSizeF size, const std::string& where);
/// The pictures in sight at every station and every size, each with the words that say where it is.
void overEveryPicture(Driven& d, const std::string& when, const std::vector<QSize>& sizes,
                      const std::function<void(const Picture&, const std::string& where)>& look);
/// All of them, at the window's sizes.
void expectAllTidy(Driven& d, const std::string& when);
/// A practice session from nothing to kept, looked at on the way.
void lookOnTheWay(Driven& d, const std::function<void(const std::string& when)>& look);

} // namespace impasto::app
