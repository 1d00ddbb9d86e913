// SPDX-License-Identifier: GPL-3.0-or-later
#pragma once

#include "stations/station.h"

namespace impasto::app {

Drawing layoutProof(const View& view, QSizeF size);
Drawing layoutProofColumn(const View& view, QSizeF size);
Station proofStation();

} // namespace impasto::app
