// SPDX-License-Identifier: GPL-3.0-or-later
// What a panel never shows is told before anything is measured.
#include "support/support.h"

#include <impasto/wording/path.h>

using namespace impasto;
using namespace impasto::document;
using namespace impasto::path;
using namespace impasto::support;

TEST(PanelTest, AShownRateThatNoPanelShowsIsToldBeforeAnythingIsMeasured) {
    const auto stepOn = [](const char* machine, double target, double shown) {
        SessionStore store = demoStore();
        const auto game = gameNamed("saltmarsh-courier.toml");
        run::Brief brief;
        brief.target = Fps(target);
        brief.shown = Fps(shown);
        for (const auto& edit :
             {useMachine(store.addMachine(machineNamed(machine))), useGame(store.addGame(game), game), setBrief(brief)})
            EXPECT_TRUE(store.apply(edit).has_value());
        Walk walk(store);
        const auto step = walk.next();
        return step.reason == Reason::ShownBeyondPanel
                   ? wording::reason(wording::Words(), walk.store.session(), walk.results(), step)
                   : std::string();
    };
    EXPECT_NE(stepOn("pocket-heron.toml", 30, 96).find("at most 60 fps"), std::string::npos);
    EXPECT_EQ(stepOn("pocket-heron.toml", 30, 60), "") << "as fast as it shows";
    EXPECT_EQ(stepOn("curlew-pocket.toml", 40, 90), "") << "in its fastest mode";
    EXPECT_NE(stepOn("curlew-pocket.toml", 40, 96), "");
    EXPECT_NE(stepOn("fenwick-duo.toml", 60, 400), "");
    EXPECT_NE(stepOn("plover-headset.toml", 72, 144).find("runtime"), std::string::npos);
}
