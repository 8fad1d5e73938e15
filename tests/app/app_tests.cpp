// The real main window, driven offscreen by mouse, keys and command ids.

#include <gtest/gtest.h>

#include <QApplication>
#include <QCheckBox>
#include <QComboBox>
#include <QDropEvent>
#include <QLabel>
#include <QLineEdit>
#include <QMimeData>
#include <QPushButton>
#include <QSettings>
#include <QStandardPaths>
#include <QTest>
#include <QTimer>
#include <QToolButton>
#include <cmath>
#include <filesystem>
#include <fstream>

#include "app/window_fixture.h"
#include "document/clip_desk.h"
#include "document/hit_desk.h"
#include "document/print_desk.h"
#include "document/seam_desk.h"
#include "document/selection.h"
#include "document/song_files.h"
#include "document/takes_desk.h"
#include "document/timing_desk.h"
#include "document/transport.h"
#include "edits/arrange.h"
#include "import_dialog.h"
#include "lanes/lanes_view.h"
#include "lanes/track_head.h"
#include "loupe/loupe_view.h"
#include "loupe/mic_name.h"
#include "main_window.h"
#include "media/audio_file.h"
#include "panel/controls.h"
#include "steps/print/export_panel.h"
#include "steps/timing/timing_graph.h"
#include "store/project.h"
#include "support/performance.h"
#include "support/scratch.h"
#include "theme/theme.h"

namespace ochron {
namespace {

using test::Window;
using test::writeWav;

TEST_F(Window, StartsEmptyAndSaysWhatToDo) {
  EXPECT_TRUE(doc().song().tracks.empty());
  EXPECT_EQ(status(), "Import recordings to begin");
  EXPECT_FALSE(run("hits.find"));
  EXPECT_FALSE(window->grab().isNull());
}

TEST_F(Window, ImportedMicsBecomeAKitWithGuidesAndHits) {
  import();
  ASSERT_EQ(doc().song().sets.size(), 1u);
  EXPECT_EQ(doc().song().sets[0].tracks.size(), 4u);
  EXPECT_EQ(doc().song().tracks[0].role, MicRole::kickIn);
  EXPECT_TRUE(doc().song().tracks[0].guide && doc().song().tracks[1].guide && !doc().song().tracks[2].guide);
  const auto truth = performance.of({DrumClass::kick, DrumClass::snare}).size();
  EXPECT_NEAR(static_cast<double>(doc().timingDesk().planned().hits.size()), static_cast<double>(truth), 3);
}

TEST_F(Window, TheImportSheetOffersTheKitAndCanBeCorrected) {
  bool seen = false;
  onSheet<ImportDialog>({}, [&](ImportDialog* sheet) {
    seen = true;
    const auto offered = sheet->files();
    EXPECT_TRUE(offered[0].inSet && offered[3].inSet);
    EXPECT_EQ(offered[3].role, MicRole::overhead);
    sheet->findChild<QLineEdit*>("take name")->setText("Evening");
    sheet->findChildren<QCheckBox*>().last()->setChecked(false);
    QTest::mouseClick(sheet->findChild<QPushButton*>("import now"), Qt::LeftButton);
  });
  window->takeIn(files);
  doc().jobs().finishAll();
  EXPECT_TRUE(seen);
  ASSERT_EQ(doc().song().takes.size(), 1u);
  EXPECT_EQ(doc().song().takes[0].name, "Evening");
  EXPECT_EQ(doc().song().sets.size(), 2u);
}

TEST_F(Window, FilesDroppedOnTheWindowAreOffered) {
  QMimeData data;
  data.setUrls({QUrl::fromLocalFile(files[0]), QUrl::fromLocalFile(files[1])});
  QDropEvent drop(QPointF(600, 400), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
  onSheet<ImportDialog>({}, [](ImportDialog* sheet) { sheet->accept(); });
  QDragEnterEvent enter(QPoint(600, 400), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(window.get(), &enter);
  EXPECT_TRUE(enter.isAccepted());
  QApplication::sendEvent(window.get(), &drop);
  EXPECT_TRUE(until([&] { return doc().song().tracks.size() == 2u; }));
}

TEST_F(Window, AFolderIsTakenAsTheRecordingsInItAndAnEmptyOneIsNamed) {
  const auto folder = scratch / "Session";
  std::filesystem::create_directories(folder / "deeper");
  for (const auto& file : files)
    std::filesystem::copy_file(file.toStdString(), folder / std::filesystem::path(file.toStdString()).filename());
  std::filesystem::rename(folder / "Hat.wav", folder / "Hat.WAV");
  std::ofstream(folder / "notes.txt") << "no recording";
  window->takeIn({QString::fromStdString(folder.string())}, false);
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song().tracks.size(), static_cast<std::size_t>(files.size()));
  QStringList warned;
  QObject::connect(&doc(), &Document::warned, [&](const QString& s) { warned << s; });
  // Without a sheet, which a test could not leave.
  window->takeIn({QString::fromStdString((folder / "deeper").string())});
  ASSERT_EQ(warned.size(), 1);
  EXPECT_TRUE(warned[0].contains("deeper")) << warned[0].toStdString();
  // A song among recordings is not mixed up with them.
  ASSERT_TRUE(doc().files().save(scratch / "Other.ochron"));
  window->takeIn({files[0], QString::fromStdString((scratch / "Other.ochron").string())}, false);
  doc().jobs().finishAll();
  ASSERT_EQ(warned.size(), 2);
  EXPECT_TRUE(warned[1].contains("Open it by itself")) << warned[1].toStdString();
  EXPECT_EQ(doc().song().tracks.size(), static_cast<std::size_t>(files.size()) + 1);
}

TEST_F(Window, ABadFileAmongGoodOnesIsNamedAndTheRestGoesIn) {
  QFile bad(QString::fromStdString((scratch / "broken.wav").string()));
  ASSERT_TRUE(bad.open(QIODevice::WriteOnly));
  bad.write("no sound");
  bad.close();
  QStringList told;
  QObject::connect(&doc(), &Document::told, [&](const QString& s) { told << s; });
  window->takeIn(files + QStringList{bad.fileName()}, false);
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song().tracks.size(), 4u);
  EXPECT_TRUE(told.join('\n').contains("broken.wav")) << told.join('\n').toStdString();
}

TEST_F(Window, EveryHitStandsOnItsGridFrameAfterFullQuantize) {
  import();
  const auto& hits = doc().timingDesk().planned().hits;
  int onGrid = 0;
  for (std::size_t i = 0; i < hits.size(); ++i)
    onGrid += hits[i].leader == i && hits[i].line && hits[i].to() == hits[i].line->frame ? 1 : 0;
  EXPECT_GT(onGrid, 25);
  EXPECT_NEAR(doc().timingDesk().planned().stats().spreadAfterMs, 0, 1e-9);
}

TEST_F(Window, ClickingAHitBringsItToTheLoupeAndKeysStepOn) {
  import();
  doc().setStep(Step::hits);
  auto& lanes = window->lanes();
  window->view().show(20'000, 300);
  const auto& h = doc().timingDesk().planned().hits[2];
  click(&lanes, {window->view().xOf(h.to()), lanes.layout().laneBox(0).top() + 5});
  ASSERT_TRUE(doc().selection().hit().has_value());
  EXPECT_EQ(doc().selection().hit()->hit, h.hit.id);
  const auto next = doc().timingDesk().planned().hits[3].hit.id;
  QTest::keyClick(window.get(), Qt::Key_Right);
  EXPECT_EQ(doc().selection().hit()->hit, next);
  QTest::keyClick(window.get(), Qt::Key_Left);
  EXPECT_EQ(doc().selection().hit()->hit, doc().timingDesk().planned().hits[2].hit.id);
}

TEST_F(Window, DoubleClickAddsAHitAndDeleteRemovesIt) {
  import();
  doc().setStep(Step::hits);
  window->view().show(0, 200);
  auto& lanes = window->lanes();
  const auto count = doc().timingDesk().planned().hits.size();
  const QPointF empty(window->view().xOf(Frames{9'000}), lanes.layout().laneBox(1).center().y());
  QTest::mouseDClick(&lanes, Qt::LeftButton, {}, empty.toPoint());
  EXPECT_EQ(doc().timingDesk().planned().hits.size(), count + 1);
  ASSERT_TRUE(doc().selection().hit());
  QTest::keyClick(window.get(), Qt::Key_Delete);
  EXPECT_EQ(doc().timingDesk().planned().hits.size(), count);
  EXPECT_EQ(doc().undoName(), "Remove hit");
}

TEST_F(Window, DraggingTheOnsetInTheLoupeMovesTheHitAsOneUndoStep) {
  import();
  doc().hitDesk().step(1);
  doc().hitDesk().step(1);
  auto* loupe = window->findChild<LoupeView*>();
  const auto* h = doc().selection().plannedHit();
  const auto before = h->hit.at;
  const double wide = loupe->width() - micNames() - 8;
  const QPoint centre(static_cast<int>(micNames() + wide / 2), loupe->height() / 2);
  QTest::mousePress(loupe, Qt::LeftButton, {}, centre);
  for (int x = 1; x <= 12; ++x) QTest::mouseMove(loupe, centre + QPoint(x, 0));
  QTest::mouseRelease(loupe, Qt::LeftButton, {}, centre + QPoint(12, 0));
  const auto after = doc().selection().plannedHit()->hit.at;
  const double perPixel = 80.0 * 48 / wide;
  EXPECT_NEAR(static_cast<double>((after - before).value), 12 * perPixel, perPixel + 1);
  EXPECT_EQ(doc().selection().plannedHit()->hit.origin, HitOrigin::user);
  doc().undo();
  EXPECT_EQ(doc().selection().plannedHit()->hit.at, before);
}

TEST_F(Window, SensitivityFiltersAtOnceAndADragIsOneUndoStep) {
  import();
  doc().setStep(Step::hits);
  auto* slider = find<LineSlider>("Sensitivity slider");
  const auto before = doc().timingDesk().planned().hits.size();
  const QPoint middle(slider->width() / 2, 9);
  QTest::mousePress(slider, Qt::LeftButton, {}, middle);
  for (int x = middle.x(); x > 12; x -= 6) QTest::mouseMove(slider, QPoint(x, 9));
  QTest::mouseRelease(slider, Qt::LeftButton, {}, QPoint(12, 9));
  EXPECT_LT(doc().timingDesk().planned().hits.size(), before);
  doc().undo();
  EXPECT_EQ(doc().timingDesk().planned().hits.size(), before);
}

TEST_F(Window, AFocusedSliderKeepsTheArrowKeysAndSpaceStillPlays) {
  import();
  doc().setStep(Step::timing);
  auto* slider = find<LineSlider>("Pocket slider");
  slider->setFocus();
  QTest::keyClick(slider, Qt::Key_Right);
  QTest::keyClick(slider, Qt::Key_Right);
  EXPECT_EQ(doc().timingDesk().settings().keepPocket, 2);
  EXPECT_FALSE(doc().selection().hit());
  QTest::keyClick(slider, Qt::Key_Space);
  EXPECT_TRUE(until([&] { return playing(); }));
  doc().transport().playStop();
}

TEST_F(Window, TheStretchMethodIsHeardOnceItIsRenderedAndExports) {
  import();
  auto* method = find<QComboBox>("method");
  emit method->activated(1);
  EXPECT_EQ(doc().timingDesk().settings().method, TimingMethod::stretch);
  EXPECT_EQ(doc().song().find(doc().selection().set())->clips->size(), 1u);
  doc().jobs().finishAll();
  window->view().show(20'000, 20);
  EXPECT_FALSE(window->grab().isNull());
  doc().printDesk().exportTo(window->findChild<ExportPanel*>()->settings(), scratch / "mix.wav");
  doc().jobs().finishAll();
  EXPECT_TRUE(std::filesystem::exists(scratch / "mix.wav"));
}

TEST_F(Window, TheMethodOfStretchingIsNamedChosenAndOneStep) {
  import();
  auto* method = find<QComboBox>("method");
  EXPECT_EQ(method->currentIndex(), 0);
  EXPECT_TRUE(method->itemText(1).contains("drums")) << "what it would take is said";
  const auto before = doc().song();
  emit method->activated(5);
  doc().jobs().finishAll();
  EXPECT_EQ(doc().timingDesk().settings().method, TimingMethod::stretch);
  EXPECT_EQ(doc().song().find(doc().selection().set())->method, StretchMethod::tape);
  EXPECT_EQ(method->currentIndex(), 5);
  EXPECT_TRUE(method->toolTip().contains("pitch goes along"));
  emit method->activated(1);
  EXPECT_FALSE(doc().song().find(doc().selection().set())->method);
  doc().undo();
  doc().undo();
  EXPECT_EQ(doc().song(), before);
  // Of one clip, in the Clips step.
  emit method->activated(2);
  doc().setStep(Step::clips);
  doc().selection().chooseAll();
  auto* own = find<QComboBox>("Stretched as");
  emit own->activated(4);
  for (const auto& c : *doc().song().find(doc().selection().set())->clips)
    EXPECT_EQ(c.extras->method, StretchMethod::tape);
  emit own->activated(0);
  for (const auto& c : *doc().song().find(doc().selection().set())->clips) EXPECT_FALSE(c.extras->method);
}

TEST_F(Window, TimingControlsChangeTheCutsAtOnce) {
  import();
  auto* strength = find<QDoubleSpinBox>("Strength");
  const auto full = *doc().song().find(doc().selection().set())->clips;
  strength->setFocus();
  strength->setValue(50);
  EXPECT_EQ(doc().timingDesk().settings().strength, 50);
  EXPECT_NE(*doc().song().find(doc().selection().set())->clips, full);
  auto* start = find<QComboBox>("start from");
  start->setCurrentIndex(2);
  emit start->activated(2);
  EXPECT_EQ(doc().timingDesk().settings().keepPocket, 100);
  EXPECT_EQ(doc().timingDesk().settings().keepScatter, 100);
  doc().undo();
  doc().undo();
  EXPECT_EQ(*doc().song().find(doc().selection().set())->clips, full);
}

TEST_F(Window, DraggingAHitSetsItsTargetAndEscapeTakesItBack) {
  import();
  doc().setStep(Step::timing);
  auto& lanes = window->lanes();
  window->view().show(20'000, 60);
  const auto h = doc().timingDesk().planned().hits[1];
  window->view().reveal(h.to());
  const QPoint at(static_cast<int>(std::lround(window->view().xOf(h.to()))),
                  static_cast<int>(lanes.layout().laneBox(0).top()) + 5);
  QTest::mousePress(&lanes, Qt::LeftButton, {}, at);
  QTest::mouseMove(&lanes, at + QPoint(5, 0));
  QTest::mouseMove(&lanes, at + QPoint(25, 0));
  EXPECT_TRUE(status().startsWith("Target to"));
  QTest::mouseRelease(&lanes, Qt::LeftButton, {}, at + QPoint(25, 0));
  EXPECT_NEAR(static_cast<double>((doc().selection().plannedHit()->to() - h.to()).value), 25 * 60, 121);
  QTest::mousePress(&lanes, Qt::LeftButton, {}, at + QPoint(25, 0));
  QTest::mouseMove(&lanes, at + QPoint(60, 0));
  const auto held = doc().song();
  QTest::keyClick(&lanes, Qt::Key_Escape);
  EXPECT_NE(doc().song(), held);
}

TEST_F(Window, SpacePlaysAndStopsAndTheVersionSwitchIsHeard) {
  import();
  QTest::keyClick(window.get(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return playing() && heardAt() > doc().transport().cursor(); }));
  QTest::keyClick(window.get(), Qt::Key_O);
  EXPECT_TRUE(doc().transport().original());
  ASSERT_TRUE(hear(Frames{2'400})) << "it plays on";
  QTest::keyClick(window.get(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return !playing(); }));
  click(find<QWidget>("version"), {150, 15});
  EXPECT_FALSE(doc().transport().original());
}

TEST_F(Window, LoopAndClickAndRangeWorkByMouseAndKeys) {
  import();
  auto& lanes = window->lanes();
  window->view().show(20'000, 300);
  QTest::mousePress(&lanes, Qt::LeftButton, {}, {300, 120});
  QTest::mouseMove(&lanes, {380, 120});
  QTest::mouseMove(&lanes, {460, 120});
  QTest::mouseRelease(&lanes, Qt::LeftButton, {}, {460, 120});
  EXPECT_NEAR(static_cast<double>(doc().selection().range().length().value), 160 * 300, 15 * 300);
  QTest::mouseClick(find<QToolButton>("Loop"), Qt::LeftButton);
  QTest::mouseClick(find<QToolButton>("Click"), Qt::LeftButton);
  EXPECT_TRUE(doc().transport().looping() && doc().transport().click());
  QTest::keyClick(window.get(), Qt::Key_Z);
  EXPECT_NEAR(static_cast<double>(window->view().visible().length().value),
              static_cast<double>(doc().selection().range().length().value), 3000);
}

TEST_F(Window, MuteAndSoloButtonsOfATrackWork) {
  import();
  auto* head = window->lanes().head(doc().song().tracks[1].id);
  QTest::mouseClick(head->findChild<QToolButton*>("mute"), Qt::LeftButton);
  EXPECT_TRUE(doc().song().tracks[1].muted);
  QTest::mouseClick(head->findChild<QToolButton*>("solo"), Qt::LeftButton);
  EXPECT_TRUE(doc().song().tracks[1].solo);
  doc().undo();
  EXPECT_FALSE(doc().song().tracks[1].solo);
}

TEST_F(Window, ZoomsToTheCursorFromTheWholeSongToSingleSamples) {
  import();
  auto& lanes = window->lanes();
  run("view.all");
  EXPECT_GT(window->view().visible().length(), doc().song().end());
  const QPoint at(500, 100);
  const auto under = window->view().frameAt(at.x());
  for (int i = 0; i < 60; ++i) {
    QWheelEvent wheel(at, lanes.mapToGlobal(at), {}, {0, 120}, Qt::NoButton, Qt::ControlModifier, Qt::NoScrollPhase,
                      false);
    QApplication::sendEvent(&lanes, &wheel);
  }
  EXPECT_LT(window->view().framesPerPixel(), 0.1);
  EXPECT_NEAR(static_cast<double>((window->view().frameAt(at.x()) - under).value), 0, 2000);
  EXPECT_FALSE(lanes.grab().isNull());
}

TEST_F(Window, SavedSongsOpenAgainAndAppearInTheRecentOnes) {
  import();
  const auto folder = scratch / "song.ochron";
  ASSERT_TRUE(doc().files().save(folder));
  const auto song = doc().song();
  EXPECT_FALSE(doc().files().modified());
  ASSERT_TRUE(doc().files().open(folder));
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song(), song);
  EXPECT_TRUE(doc().recordings().troubles().empty());
  EXPECT_EQ(doc().files().recent().front().toStdString(), folder.string());
  EXPECT_FALSE(doc().seamDesk().measures().empty()) << "the checks know the seams of a song that was opened";
}

TEST_F(Window, MissingRecordingsAreShownAndCanBeRelinked) {
  import();
  const auto folder = scratch / "song.ochron";
  ASSERT_TRUE(doc().files().save(folder));
  std::filesystem::rename(scratch / "Kick In.wav", scratch / "elsewhere.wav");
  std::filesystem::remove_all(folder / "cache");
  ASSERT_TRUE(doc().files().open(folder));
  doc().jobs().finishAll();
  ASSERT_EQ(doc().recordings().troubles().size(), 1u);
  const auto [missing, trouble] = *doc().recordings().troubles().begin();
  EXPECT_EQ(trouble.kind, MediaTrouble::Kind::missing);
  doc().setStep(Step::takes);
  EXPECT_TRUE(find<QPushButton>("relink")->isVisible());
  EXPECT_TRUE(find<QLabel>("notice")->text().contains("Kick In.wav")) << "it is said until it has been seen";
  doc().takesDesk().relink(missing, scratch / "elsewhere.wav");
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().recordings().troubles().empty());
  EXPECT_EQ(doc().pool().size(), 4u);
}

TEST_F(Window, WorkIsThereAgainAfterACrash) {
  import();
  const auto folder = scratch / "song.ochron";
  ASSERT_TRUE(doc().files().save(folder));
  auto s = doc().timingDesk().settings();
  s.strength = 33;
  doc().timingDesk().setSettings("strength", s);
  doc().jobs().finishAll();
  EXPECT_EQ(findAutosave(folder).state, Autosave::State::newer);  // what a crash now would leave behind
  Document after;
  ASSERT_TRUE(after.files().open(folder, SongFiles::Copy::autosaved));
  EXPECT_EQ(after.timingDesk().settings().strength, 33);
  EXPECT_TRUE(after.files().modified());
}

TEST_F(Window, ExportWritesEachTrackInTheBackground) {
  import();
  doc().setStep(Step::print);
  auto* step = window->findChild<ExportPanel*>();
  step->findChild<QComboBox*>("export what")->setCurrentIndex(1);
  step->findChild<QComboBox*>("export format")->setCurrentIndex(1);
  doc().printDesk().exportTo(step->settings(), scratch / "out");
  doc().jobs().finishAll();
  auto reader = AudioFileReader::open(scratch / "out" / "Snare Top.flac");
  ASSERT_TRUE(reader.has_value());
  EXPECT_EQ(reader->info().length, doc().song().end());
}

TEST_F(Window, CancelStopsTheImportAndNothingIsAdded) {
  window->takeIn(files, false);
  doc().jobs().cancelAll();
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().song().tracks.empty());
}

TEST_F(Window, UndoOfEverythingGivesBackTheEmptySong) {
  const Song empty = doc().song();
  import();
  int steps = 0;
  while (!doc().undoName().isEmpty() && ++steps < 50) doc().undo();
  EXPECT_EQ(doc().song(), empty);
  while (!doc().redoName().isEmpty()) doc().redo();
  EXPECT_EQ(doc().song().tracks.size(), 4u);
}

TEST_F(Window, EveryCommandHasATextAndNoTwoShareAKey) {
  QHash<QString, QString> keys;
  for (const auto& id : window->actions().ids()) {
    const auto* a = window->actions().action(id);
    EXPECT_FALSE(a->text().isEmpty());
    for (const auto& key : a->shortcuts()) {
      EXPECT_FALSE(keys.contains(key.toString())) << id.toStdString() << " and " << keys[key.toString()].toStdString()
                                                  << " share " << key.toString().toStdString();
      keys[key.toString()] = id;
    }
  }
}

TEST_F(Window, AllSheetsAndSmallAndLargeWindowsPaint) {
  import();
  for (const auto kind : {SheetKind::light, SheetKind::night, SheetKind::contrast})
    for (const auto& size : {QSize(1024, 700), QSize(1280, 800), QSize(3840, 2160)}) {
      Theme::get().setSheet(kind);
      window->resize(size);
      const auto picture = window->grab().toImage();
      EXPECT_EQ(picture.size(), window->size());
      EXPECT_EQ(window->size(), size);
    }
  Theme::get().setSheet(SheetKind::light);
}

TEST_F(Window, StepsOpenByClickAndByKey) {
  import();
  click(find<QWidget>("step Hits"), {60, 20});
  EXPECT_EQ(doc().step(), Step::hits);
  QTest::keyClick(window.get(), Qt::Key_9);
  EXPECT_EQ(doc().step(), Step::print);
  QTest::keyClick(window.get(), Qt::Key_1);
  EXPECT_EQ(doc().step(), Step::takes);
}

}  // namespace
}  // namespace ochron

int main(int argc, char** argv) {
  const ochron::test::Scratch home;
  for (const char* variable : {"XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "HOME"})
    qputenv(variable, QByteArray::fromStdString(home.path().string()));
  if (!qEnvironmentVariableIsSet("QT_QPA_PLATFORM")) qputenv("QT_QPA_PLATFORM", "offscreen");
  ::testing::InitGoogleTest(&argc, argv);
  QApplication app(argc, argv);
  QApplication::setApplicationName("orthochron-tests");
  QApplication::setOrganizationName("orthochron-tests");
  return RUN_ALL_TESTS();
}
