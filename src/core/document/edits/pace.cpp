// SPDX-License-Identifier: GPL-3.0-or-later
#include "edits/make.h"

namespace impasto::document {

Edit chooseCap(ChosenCap cap) {
    return plain("choose-cap", [cap = std::move(cap)](Edits& e) { e.pacing.cap = cap; });
}

Edit setUpkeep(Upkeep upkeep) {
    return {"set-upkeep", [upkeep](Edits e) -> Result<Edits> {
                if (!(upkeep.hoursAWeek >= 0 && upkeep.hoursAWeek <= 168))
                    return fail(ErrorCode::OutOfRange, "0 to 168", {{}, {}, {}, "hours a week"});
                if (!(upkeep.pricePerKwh >= 0 && upkeep.pricePerKwh <= 1000))
                    return fail(ErrorCode::OutOfRange, "0 to 1000", {{}, {}, {}, "price of a kWh"});
                if (!(upkeep.restShare >= 0 && upkeep.restShare <= 1))
                    return fail(ErrorCode::OutOfRange, "0 to 100%", {{}, {}, {}, "at rest"});
                e.pacing.upkeep = upkeep;
                return e;
            }};
}

} // namespace impasto::document
