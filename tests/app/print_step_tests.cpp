// The Print step by mouse and keys: clips and tracks committed to audio, said before, taken back after.

#include <QAbstractButton>
#include <QComboBox>
#include <QTableWidget>

#include "app/window_fixture.h"
#include "edits/print_edits.h"
#include "handover/handover.h"
#include "steps/print/print_step.h"

namespace ochron {
namespace {

struct PrintSteps : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    run("step.9");
    find<QComboBox>("print mode")->setCurrentIndex(1);
    QTest::qWait(0);
  }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
  FrameRange whole() { return {Frames{}, doc().song().end()}; }
};

TEST_F(PrintSteps, SayBeforeWhatTheyWillDoThenDoItAndTakeItBack) {
  auto* table = find<QTableWidget>("print table");
  ASSERT_TRUE(table->isVisible());
  ASSERT_EQ(table->rowCount(), 4);
  EXPECT_TRUE(find<QLabel>("print note")->text().contains("timing"));
  EXPECT_TRUE(find<QLabel>("print note")->text().contains("level is not changed"));
  press("print now");
  EXPECT_TRUE(status().contains("Save the song first")) << status().toStdString();
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  const auto before = doc().song();
  const auto heard = exported(whole());
  press("print now");
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().prints.size(), 1U) << status().toStdString();
  EXPECT_EQ(doc().song().sets.front().clips->size(), 1U);
  EXPECT_EQ(exported(whole()), heard) << "to the bit";
  // Kept through closing and opening.
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  ASSERT_TRUE(doc().files().open(scratch / "song.ochron"));
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().prints.size(), 1U);
  ASSERT_TRUE(find<QAbstractButton>("take print back")->isEnabled());
  press("take print back");
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().song().prints.empty());
  EXPECT_EQ(*doc().song().sets.front().clips, *before.sets.front().clips);
  EXPECT_EQ(exported(whole()), heard);
  doc().undo();
  EXPECT_EQ(doc().song().prints.size(), 1U) << "taking back is undone like anything else";
}

TEST_F(PrintSteps, RefusalsStandWhereTheTableWould) {
  auto* depth = find<QComboBox>("print depth");
  depth->setCurrentIndex(0);
  auto* table = find<QTableWidget>("print table");
  EXPECT_FALSE(table->isVisible());
  EXPECT_TRUE(find<QLabel>("print note")->text().contains("used whole"));
  depth->setCurrentIndex(2);
  EXPECT_TRUE(table->isVisible());
  EXPECT_TRUE(find<QLabel>("print note")->text().contains("pan"));
}

TEST_F(PrintSteps, AHandOverIsWrittenAndWhole) {
  doc().printDesk().handOver(scratch / "hand over", true);
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("Handed over")) << status().toStdString();
  Progress progress;
  const auto wrong = checkHandover(scratch / "hand over", progress);
  ASSERT_TRUE(wrong);
  EXPECT_TRUE(wrong->empty());
  EXPECT_TRUE(std::filesystem::exists(scratch / "hand over" / "recordings"));
  // Once more over it is refused.
  doc().printDesk().handOver(scratch / "hand over", false);
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("not empty")) << status().toStdString();
}

TEST_F(PrintSteps, RecordingsThatLieElsewhereAreGatheredAndHeardAsBefore) {
  EXPECT_TRUE(run("song.gather"));
  EXPECT_TRUE(status().contains("Save the song first"));
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  const auto heard = exported(whole());
  EXPECT_TRUE(run("song.gather"));
  doc().jobs().finishAll();
  for (const auto& m : doc().song().media)
    EXPECT_TRUE(m.path.starts_with((scratch / "song.ochron").string())) << m.path;
  EXPECT_EQ(exported(whole()), heard);
  EXPECT_TRUE(run("song.gather"));
  EXPECT_TRUE(status().contains("All recordings lie"));
}

}  // namespace
}  // namespace ochron
