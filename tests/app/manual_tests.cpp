// The guide inside the program: every page, by step, by words, by links.

#include <QDir>
#include <QFile>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>
#include <filesystem>
#include <set>

#include "app/window_fixture.h"
#include "guide/manual.h"

namespace ochron {
namespace {

struct ManualWindow : test::Driven {
  ManualWindow() { show(); }
  Manual* opened() {
    EXPECT_TRUE(run("help.guide"));
    return dynamic_cast<Manual*>(window->findChild<QDialog*>("manual"));
  }
};

TEST(ManualPages, EveryPageOfTheUserGuideIsInIt) {
  std::set<QString> pages;
  for (const auto& part : manualParts()) {
    pages.insert(part.page);
    EXPECT_FALSE(part.title.isEmpty()) << part.page.toStdString();
  }
  for (const auto& e : std::filesystem::directory_iterator(std::string(OCHRON_SOURCE_DIR) + "/docs/user"))
    EXPECT_TRUE(pages.contains("user/" + QString::fromStdString(e.path().filename().string()))) << e.path();
  EXPECT_TRUE(pages.contains("keys.md"));
  EXPECT_TRUE(pages.contains("glossary.md"));
}

TEST(ManualPages, WordsAreFoundInAnyOrderAndHeadingsComeFirst) {
  const auto found = findInManual("drift pocket");
  ASSERT_FALSE(found.empty());
  EXPECT_EQ(findInManual("pocket DRIFT").size(), found.size());
  for (const auto& p : found) {
    const auto all = p.title + p.heading + p.text;
    EXPECT_TRUE(all.contains("drift", Qt::CaseInsensitive) && all.contains("pocket", Qt::CaseInsensitive));
  }
  ASSERT_FALSE(findInManual("tempo").empty());
  EXPECT_TRUE(findInManual("tempo").front().title.contains("Tempo"));
  EXPECT_TRUE(findInManual("qwertzuiop").empty());
}

TEST_F(ManualWindow, OpensAtThePageOfTheStep) {
  const char* kPages[] = {"takes", "tempo", "hits", "timing", "seams", "clips", "kit", "pitch", "print"};
  for (int i = 0; i < 9; ++i) {
    ASSERT_TRUE(run(qPrintable(QStringLiteral("step.%1").arg(i + 1))));
    auto* manual = opened();
    ASSERT_TRUE(manual);
    EXPECT_EQ(manual->page(), QStringLiteral("user/%1.md").arg(kPages[i]));
    auto* text = manual->findChild<QTextBrowser*>("manual text");
    EXPECT_TRUE(text->toPlainText().startsWith(QString::number(i + 1))) << "its heading";
  }
  QTest::keyClick(window.get(), Qt::Key_F1);
  EXPECT_TRUE(window->findChild<QDialog*>("manual")->isVisible());
}

TEST_F(ManualWindow, SearchingListsPartsAndShowsTheWords) {
  auto* manual = opened();
  auto* search = manual->findChild<QLineEdit*>("search manual");
  auto* list = manual->findChild<QListWidget*>("manual pages");
  auto* text = manual->findChild<QTextBrowser*>("manual text");
  const int pages = list->count();
  QTest::keyClicks(search, "crossfade");
  EXPECT_GT(list->count(), 0);
  EXPECT_FALSE(text->extraSelections().isEmpty()) << "the words stand out";
  QTest::keyClick(search, Qt::Key_Return);
  QTest::keyClick(list, Qt::Key_Down);
  EXPECT_FALSE(text->extraSelections().isEmpty());
  search->clear();
  EXPECT_EQ(list->count(), pages);
  QTest::keyClicks(search, "tempo");
  manual->open("user/hits.md");
  QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  QTest::keyClicks(search, "seam");  // what stood out lay in a page that is gone
  search->clear();
  EXPECT_TRUE(text->extraSelections().isEmpty());
  QTest::keyClicks(search, "zzzz");
  EXPECT_EQ(list->item(0)->text(), "No page holds these words.");
}

TEST_F(ManualWindow, LinksGoToTheirPagesAndPicturesAreThere) {
  auto* manual = opened();
  for (const auto& part : manualParts()) {
    if (!part.heading.isEmpty()) continue;
    manual->open(part.page);
    auto* text = manual->findChild<QTextBrowser*>("manual text");
    for (auto b = text->document()->begin(); b.isValid(); b = b.next())
      for (auto at = b.begin(); !at.atEnd(); ++at) {
        const auto format = at.fragment().charFormat();
        if (!format.isImageFormat()) continue;
        const auto picture = text->document()->resource(QTextDocument::ImageResource, format.toImageFormat().name());
        EXPECT_FALSE(picture.value<QImage>().isNull()) << format.toImageFormat().name().toStdString();
      }
  }
  manual->open("user/README.md");
  emit manual->findChild<QTextBrowser*>("manual text")->anchorClicked(QUrl("tempo.md"));
  EXPECT_EQ(manual->page(), "user/tempo.md");
  emit manual->findChild<QTextBrowser*>("manual text")->anchorClicked(QUrl("../figures.md"));
  EXPECT_EQ(manual->page(), "user/tempo.md") << "a page that is not in the guide";
}

}  // namespace
}  // namespace ochron
