// SPDX-License-Identifier: GPL-3.0-or-later
// Every sentence of the program, in one place. Pure functions of data; the window, the command line and reports call
// them.
#pragma once

#include <fmt/core.h>
#include <impasto/capture/import.h>
#include <impasto/report/numbers.h>
#include <impasto/session/next_step.h>
#include <impasto/stats/compare.h>

namespace impasto::report {

/// Gives a sentence in the reader's language; identity for none. Placeholders {} keep their order or carry numbers.
using Translate = std::function<std::string(const char*)>;
Translate english();

struct ErrorText {
    std::string what, where, kept, advice;
    [[nodiscard]] std::string all() const; // one paragraph, without empty parts
};

class Wording {
  public:
    explicit Wording(Translate translate = english()) : m_tr(std::move(translate)) {}

    [[nodiscard]] ErrorText error(const Error& error) const;

    // names
    [[nodiscard]] std::string style(run::Style style) const;
    [[nodiscard]] std::string styleWants(run::Style style) const;
    [[nodiscard]] std::string styleGivesUp(run::Style style) const;
    [[nodiscard]] std::string school(run::LowSchool school) const;
    [[nodiscard]] std::string figure(stats::Figure figure) const;
    /// A figure in its unit, with the half width where there is one: "63.7 ± 1.1 fps".
    [[nodiscard]] std::string figureValue(stats::Figure figure, const stats::Interval& value, bool isDifference) const;
    /// One of the three words, "no difference larger than 0.8 fps" among them.
    /// Of two averages: in fps, in percent, and in ms of their frame times.
    [[nodiscard]] std::string averageDifference(const stats::FigureComparison& averages) const;
    [[nodiscard]] std::string verdict(const stats::FigureComparison& compared) const;
    struct Finding {
        std::string title, detail;
    };
    /// "every 1.2 s", "at the same places in each run"; empty where they are too few.
    [[nodiscard]] std::string hitchOrigin(const stats::HitchOrigin& origin) const;
    [[nodiscard]] Finding finding(const stats::Examined& examined) const;
    /// "2 more runs bring ± 1.9 to about ± 1.0 fps"; empty where the runs are alike or only one.
    [[nodiscard]] std::string moreRuns(stats::Figure figure, const stats::Family& family) const;
    [[nodiscard]] std::string schoolMeaning(run::LowSchool school) const;
    [[nodiscard]] std::string lane(run::Lane lane) const;
    [[nodiscard]] std::string edit(session::EditName name) const;
    [[nodiscard]] std::string stale(const session::Stale& names) const; // "stale: costs, brief"; empty for none
    [[nodiscard]] std::string capSchool(choose::CapSchool school) const;
    [[nodiscard]] std::string capSchoolRule(choose::CapSchool school, const choose::CapRules& rules) const;
    [[nodiscard]] std::string leftOut(session::LeftOut reason) const;
    [[nodiscard]] std::string purpose(const session::Session& session,
                                      const run::Order& order) const; // "cost, Shadows medium"
    [[nodiscard]] std::string runTitle(const session::Session& session,
                                       const run::Run& run) const;              // "Run 4 · baseline"
    [[nodiscard]] std::string dialect(const capture::Dialect& dialect) const;   // how a foreign log was read
    [[nodiscard]] std::string meanwhile(const capture::Capture& capture) const; // means of its slow readings; or empty
    [[nodiscard]] std::string part(const std::string& part) const;              // "whole run" for ""

    // next step
    [[nodiscard]] std::string action(const session::Session& session, const session::Results& results,
                                     const session::NextStep& step) const;
    [[nodiscard]] std::string reason(const session::Session& session, const session::Results& results,
                                     const session::NextStep& step) const;

    // verdicts
    [[nodiscard]] std::string brakeTitle(const limits::PartVerdict& verdict) const;
    [[nodiscard]] std::string brakeEvidence(const limits::PartVerdict& verdict, Fps target,
                                            const choose::UsableShares& shares) const;
    [[nodiscard]] std::string brakeTest(const limits::PartVerdict& verdict) const; // the test that would decide
    [[nodiscard]] std::string choice(const session::Session& session, const choose::Proposal& proposal) const;
    [[nodiscard]] std::string proven(const choose::Proposal& proposal) const;
    [[nodiscard]] std::string capPrediction(const choose::CapPrediction& prediction) const;
    [[nodiscard]] std::string wish(const session::WishOutcome& wish, const run::Brief& brief) const;
    [[nodiscard]] std::string wishState(session::WishState state) const;
    [[nodiscard]] std::string order(const session::Session& session,
                                    const run::Order& order) const; // by hand: what to set and do
    [[nodiscard]] std::vector<std::string> orderSteps(const session::Session& session, const run::Order& order) const;

    /// The changed settings of a choice, "Shadows: high → medium".
    struct ChangedLine {
        std::string setting, before, after;
    };
    [[nodiscard]] std::vector<ChangedLine> changes(const game::Game& game, const game::Values& before,
                                                   const game::Values& after) const;

    // why
    struct Why {
        std::string title, formula, inputs, sure, change;
    };
    [[nodiscard]] Why whyAverage(const stats::Summary& summary, std::size_t runs) const;
    [[nodiscard]] Why whyLow(const stats::Summary& summary, run::LowSchool school, std::size_t runs) const;
    [[nodiscard]] Why whyHitches(const stats::Summary& summary, const stats::HitchRule& rule) const;
    [[nodiscard]] Why whyCost(const game::Setting& setting, const std::string& level,
                              const choose::LaneCosts& lane) const;
    [[nodiscard]] Why whyChoice(const choose::Proposal& proposal) const;
    [[nodiscard]] Why whyCap(const choose::CapOffer& offer, const choose::CapRules& rules) const;

  private:
    [[nodiscard]] std::string lowsHere(const stats::Summary& summary) const;
    template <class... Args>
    std::string say(const char* text, Args&&... args) const {
        return fmt::vformat(m_tr(text), fmt::make_format_args(args...));
    }
    Translate m_tr;
};

} // namespace impasto::report
