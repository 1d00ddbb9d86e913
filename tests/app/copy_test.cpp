// SPDX-License-Identifier: GPL-3.0-or-later
// Pictures as tab-separated text, and what the finder finds.
#include "pictures/copy.h"
#include "shell/finder.h"

#include <QtCore/QXmlStreamReader>
#include <gtest/gtest.h>

using namespace impasto::app;

namespace {

/// What an XML reader finds in an SVG.
struct ReadSvg {
    explicit ReadSvg(const QByteArray& svg) {
        QXmlStreamReader reader(svg);
        while (!reader.atEnd()) {
            reader.readNext();
            if (reader.isStartElement() && reader.name() == QStringLiteral("svg"))
                viewBox = reader.attributes().value(QStringLiteral("viewBox")).toString();
            if (reader.isStartElement() &&
                (reader.name() == QStringLiteral("path") || reader.name() == QStringLiteral("polyline") ||
                 reader.name() == QStringLiteral("rect")))
                ++shapes;
            if (reader.isCharacters()) texts += reader.text();
        }
        wellFormed = !reader.hasError();
    }
    bool wellFormed = false;
    int shapes = 0;
    QString texts, viewBox;
};

} // namespace

TEST(CopyTest, TextsOnOneLineAreCellsFromLeftToRight) {
    Sheet sheet(QSizeF(400, 200));
    sheet.text(200, 40, QStringLiteral("54.1 fps"), Type::Figure);
    sheet.text(10, 10, QStringLiteral("wish"), Type::Small);
    sheet.text(10, 42, QStringLiteral("60 fps in every part"), Type::Small);
    sheet.text(200, 10, QStringLiteral("before"), Type::Small);
    sheet.text(10, 70, QStringLiteral("two  spaces\tand a tab"), Type::Body);
    sheet.text(10, 90, QString(), Type::Body);
    EXPECT_EQ(tableOf(sheet.take()).toStdString(),
              "wish\tbefore\n60 fps in every part\t54.1 fps\ntwo spaces and a tab\n");
    EXPECT_EQ(tableOf(Drawing{}).toStdString(), "\n");
}

TEST(CopyTest, AnSvgHoldsItsTextsAndLines) {
    Sheet sheet(QSizeF(300, 120));
    sheet.text(20, 20, QStringLiteral("54.1 fps"), Type::Figure);
    sheet.line({10, 60}, {200, 60}, Ink::Over, 2);
    sheet.hatch(QRectF(10, 70, 50, 30), Ink::Muted, 5);
    const auto svg = svgOf(sheet.take(), gesso(), QSizeF(300, 120), QStringLiteral("Easel"));
    const ReadSvg document(svg);
    EXPECT_TRUE(document.wellFormed) << svg.toStdString();
    EXPECT_TRUE(document.texts.contains(QStringLiteral("54.1 fps")));
    EXPECT_GE(document.shapes, 3);
    EXPECT_EQ(document.viewBox, QStringLiteral("0 0 300 120"));
}

TEST(FinderTest, EveryWordMustBeThereAndBeginningsComeFirst) {
    const auto named = [](const char* kind, const char* name) {
        return Findable{QString::fromUtf8(kind), QString::fromUtf8(name), {}, [] {}};
    };
    const std::vector<Findable> all{named("setting", "Water reflections"), named("setting", "Shadows"),
                                    named("run", "Run 2 · cost, Shadows low"), named("action", "Read a frame log"),
                                    named("setting", "Reeds")};
    const auto names = [&](const char* text) {
        std::string out;
        for (const auto& f : matching(all, QString::fromUtf8(text))) out += f.name.toStdString() + "|";
        return out;
    };
    EXPECT_EQ(names("re"), "Read a frame log|Reeds|Water reflections|");
    EXPECT_EQ(names("SHADOWS"), "Shadows|Run 2 · cost, Shadows low|");
    EXPECT_EQ(names("run shadows"), "Run 2 · cost, Shadows low|");
    EXPECT_EQ(names("shadows run"), "Run 2 · cost, Shadows low|");
    EXPECT_EQ(names("  "), names(""));
    EXPECT_EQ(matching(all, QString()).size(), all.size());
    EXPECT_EQ(names("nothing"), "");
}
