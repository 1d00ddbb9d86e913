// SPDX-License-Identifier: GPL-3.0-or-later
// Every text of the window goes through the translator, whole, and finds room when it is longer by a third.
#include "app/tidy.h"

#include <QtCore/QCoreApplication>
#include <QtCore/QRegularExpression>
#include <QtCore/QTranslator>
#include <set>

using namespace impasto;
using namespace impasto::app;

namespace {

/// The window in a language that does not exist: wording::pseudo.
class Pseudo : public QTranslator {
  public:
    Pseudo() { QCoreApplication::installTranslator(this); }
    ~Pseudo() override { QCoreApplication::removeTranslator(this); }
    Pseudo(const Pseudo&) = delete;
    Pseudo& operator=(const Pseudo&) = delete;
    QString translate(const char* /*context*/, const char* text, const char* /*comment*/,
                      int /*count*/) const override {
        static const auto pseudo = wording::pseudo();
        return QString::fromStdString(pseudo(text));
    }
    [[nodiscard]] bool isEmpty() const override { return false; }
};

/// Words that belong to the data, not to the window.
std::set<QString> wordsOfTheData(const View& view, const std::filesystem::path& logbook) {
    std::set<QString> out{QStringLiteral("Impasto")};
    const auto add = [&out](const std::string& name) {
        const auto words = QString::fromStdString(name).split(QRegularExpression(QStringLiteral("[ ,;:()]+")));
        for (const auto& word : words) out.insert(word);
    };
    add(logbook.string());
    for (const auto& game : view.session.facts->games) {
        add(game->name);
        for (const auto& setting : game->settings) {
            add(setting.label);
            for (const auto& level : setting.levels) add(level.name);
        }
        for (const auto& preset : game->presets) add(preset.name);
        for (const auto& route : game->routes) {
            add(route.name);
            for (const auto& part : route.parts) add(part.name);
        }
    }
    for (const auto& machine : view.session.facts->machines)
        for (const auto& name : {machine->name, machine->cpu, machine->gpu}) add(name);
    for (const auto& run : view.session.facts->runs) {
        add(run.name);
        for (const auto& other : run.capture->others) {
            add(other.name);
            for (const auto& word : other.words) add(word);
        }
    }
    for (const auto& head : view.logbookSessions) add(head.name);
    if (const auto& reading = view.state<RunsState>().reading) {
        add(reading->file.string());
        for (const auto& name : reading->preview.heading) add(name);
        for (const auto& row : reading->preview.rows)
            for (const auto& cell : row) add(cell);
    }
    return out;
}

/// Every word with a vowel has an accent, or is of the data; one that was cut is looked for by its begin.
void expectTranslated(const Drawing& drawing, const std::set<QString>& names, const std::string& where) {
    static const QRegularExpression vowel(QStringLiteral("[aeiouAEIOU]")),
        between(QStringLiteral("[ ,;:\\[\\]~\u201c\u201d\"()]+"));
    for (const auto& shape : drawing.shapes) {
        if (shape.kind != ShapeKind::Text) continue;
        for (const auto& word : shape.text.split(between)) {
            if (!word.contains(vowel) || names.contains(word)) continue;
            const bool cut = word.endsWith(u'\u2026') && std::any_of(names.begin(), names.end(), [&](const QString& n) {
                                 return n.startsWith(word.chopped(1));
                             });
            EXPECT_TRUE(cut) << where << ": \"" << shape.text.toStdString() << "\"";
        }
    }
}

void expectWhole(Driven& d, const std::string& when) {
    overEveryPicture(
        d, when, {QSize(1280, 800), QSize(1024, 640)}, [&](const Picture& picture, const std::string& where) {
            expectTidy(picture.drawing(), QSizeF(picture.size()), where);
            expectTranslated(picture.drawing(), wordsOfTheData(d.view(), d.studio.options().logbook), where);
        });
}

} // namespace

TEST(WordsTest, EveryStationInALongerLanguage) {
    const Pseudo pseudo;
    const support::TemporaryFolder folder;
    Driven d(folder);
    lookOnTheWay(d, [&](const std::string& when) { expectWhole(d, when); });
    ASSERT_EQ(d.view().step.action, path::Action::Done);
}

TEST(WordsTest, LogsOrdersAndReasonsInALongerLanguage) {
    const Pseudo pseudo;
    const support::TemporaryFolder folder;
    Driven d(folder);
    d.drop({support::testFile("logs/real-program-slow.csv"), support::dataFile("example-log.csv")});
    d.key(Qt::Key_C);
    for (int picture = 0; picture < 3; ++picture) {
        d.studio.go(StationId{"runs"});
        d.key(Qt::Key_K);
        d.key(Qt::Key_V);
        expectWhole(d, "logs, picture " + std::to_string(picture));
    }
    for (const char* topic : {"average", "low", "hitches"}) {
        d.studio.go(StationId{"runs"});
        d.studio.why(QLatin1String(topic));
        expectWhole(d, topic);
        d.studio.why({});
    }
    openReading(d.studio, support::dataFile("example-log.csv"));
    d.rest();
    expectWhole(d, "a log that is looked at");
    d.key(Qt::Key_Escape);
    d.key(Qt::Key_N, Qt::ControlModifier); // another session
    d.rest();
    for (int i = 0; i < 4; ++i) d.key(Qt::Key_Space); // a goal, the start values and that they are right, orders
    ASSERT_FALSE(path::openOrders(d.view().session).empty());
    expectWhole(d, "an order waits");
}
