// The Print step by mouse and keys: clips and tracks committed to audio, said before, taken back after.

#include <QAbstractButton>
#include <QCheckBox>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>
#include <QMenu>
#include <QPushButton>
#include <QTableWidget>
#include <algorithm>
#include <cmath>
#include <span>

#include "app/window_fixture.h"
#include "document/export_choices.h"
#include "document/print_trial.h"
#include "document/sounding.h"
#include "edits/clip_edits.h"
#include "edits/print_edits.h"
#include "handover/handover.h"
#include "panel/choice.h"
#include "render/render.h"
#include "steps/print/export_panel.h"
#include "steps/print/loudness_view.h"
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

TEST_F(PrintSteps, ARangeIsPrintedAtADepthAndALevelThatTheTableSaysBefore) {
  auto plan = doc().timingDesk().settings();
  plan.on = false;
  doc().timingDesk().setSettings("plan", plan);
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  doc().jobs().finishAll();
  const auto before = doc().song();
  const auto heard = exported(whole());
  auto* what = find<QComboBox>("print what");
  auto* table = find<QTableWidget>("print table");
  setChoice(*what, 2);
  EXPECT_FALSE(table->isVisible());
  EXPECT_TRUE(find<QLabel>("print note")->text().contains("No range is chosen"));
  EXPECT_FALSE(find<QComboBox>("print depth")->isEnabled());
  const FrameRange range{Frames{30'000}, Frames{110'000}};
  doc().selection().setRange(range);
  setChoice(*find<QComboBox>("print samples"), PrintSamples::pcm16);
  QTest::mouseClick(find<QCheckBox>("print to peak"), Qt::LeftButton, {}, {8, 10});
  ASSERT_TRUE(find<QCheckBox>("print to peak")->isChecked());
  doc().jobs().finishAll();
  QTest::qWait(0);
  ASSERT_EQ(table->rowCount(), 4);
  EXPECT_TRUE(table->item(0, 1)->text().contains("16 bit, dithered"));
  const auto level = table->item(0, 2)->text();
  EXPECT_TRUE(level.contains("dB, clip")) << level.toStdString();
  for (int i = 1; i < 4; ++i) EXPECT_EQ(table->item(i, 2)->text(), level) << "all mics by one gain";
  EXPECT_TRUE(find<QLabel>("print note")->text().contains("makes up for the level"));
  press("print now");
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().prints.size(), 1U) << status().toStdString();
  const auto printed = [&] {
    for (const auto& c : *doc().song().sets.front().clips)
      if (c.take == doc().song().prints.front().take) return c.range();
    return FrameRange{};
  };
  const auto first = printed();
  EXPECT_EQ(first, range);
  const auto now = exported(whole());
  ASSERT_EQ(now.size(), heard.size());
  for (std::size_t i = 0; i < now.size(); ++i) ASSERT_NEAR(now[i], heard[i], 4e-4F) << i;
  // Made anew in the same manner, at the same place.
  ASSERT_TRUE(run("print.anew"));
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().prints.size(), 1U) << status().toStdString();
  EXPECT_EQ(doc().song().prints.front().manner.samples, PrintSamples::pcm16);
  EXPECT_EQ(printed(), first);
  press("take print back");
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song().sets.front().clips->size(), before.sets.front().clips->size());
  EXPECT_EQ(exported(whole()), heard) << "to the bit";
  doc().undo();
  doc().undo();
  doc().undo();
  EXPECT_EQ(*doc().song().sets.front().clips, *before.sets.front().clips);
}

TEST_F(PrintSteps, APrintIsComparedAndMadeAnewWhenWhatItCameFromIsAnotherOne) {
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  const auto heard = exported(whole());
  press("print now");
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().prints.size(), 1U);
  ASSERT_TRUE(run("print.compare"));
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("to the bit")) << status().toStdString();
  // The print was turned down since; what it came from is as it was: it is printed as that sounds, turned down.
  const auto set = doc().selection().set();
  doc().edit("quieter",
             changeClips(doc().song(), {doc().song().find(set)->clips->front().id}, [](Clip& c) { c.gainDb = -6; }));
  const auto first = doc().song().prints.front();
  ASSERT_TRUE(run("print.anew"));
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().prints.size(), 1U) << status().toStdString();
  EXPECT_NE(doc().song().prints.front().id, first.id);
  const auto now = exported(whole());
  ASSERT_EQ(now.size(), heard.size());
  for (std::size_t i = 0; i < now.size(); ++i) ASSERT_NEAR(now[i], heard[i] * std::pow(10, -0.3), 2e-6) << i;
  doc().undo();
  EXPECT_EQ(doc().song().prints.front(), first) << "one step";
}

/// Both sides of a second of the mix, one after the other.
std::vector<float> secondOf(const RenderPlan& plan, Frames at) {
  std::vector<float> out(96'000), scratch(48'000);
  const std::span all(out);
  addMix(plan, at, all.first(48'000), all.last(48'000), scratch, {});
  return out;
}

TEST_F(PrintSteps, WhatAPrintWasMadeOfIsHeardInItsPlaceByOneKeyAndNothingIsChanged) {
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  doc().jobs().finishAll();
  const Frames at{96'000};
  const auto heard = secondOf(doc().sounding().playPlan()->edited, at);
  EXPECT_FALSE(find<QAbstractButton>("hear unprinted")->isEnabled());
  press("print now");
  doc().jobs().finishAll();
  const auto set = doc().selection().set();
  doc().edit("quieter",
             changeClips(doc().song(), {doc().song().find(set)->clips->front().id}, [](Clip& c) { c.gainDb = -6; }));
  doc().jobs().finishAll();
  const auto before = doc().version();
  ASSERT_TRUE(run("print.hear"));
  EXPECT_TRUE(find<QAbstractButton>("hear unprinted")->isChecked());
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().sounding().heardInstead()) << status().toStdString();
  const auto alive = secondOf(doc().sounding().heardInstead()->edited, at);
  const auto print = secondOf(doc().sounding().playPlan()->edited, at);
  EXPECT_GT(*std::max_element(heard.begin(), heard.end()), 0.01F);
  for (std::size_t i = 0; i < heard.size(); ++i) {
    ASSERT_NEAR(alive[i], heard[i] * std::pow(10, -0.3), 2e-6) << "turned down since, as the print was";
    ASSERT_NEAR(alive[i], print[i], 2e-6);
  }
  EXPECT_EQ(doc().version(), before);
  ASSERT_TRUE(run("print.hear"));
  EXPECT_FALSE(doc().sounding().heardInstead());
  // Escape and every change of the song end it.
  ASSERT_TRUE(run("print.hear"));
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().sounding().heardInstead());
  ASSERT_TRUE(run("edit.norange"));
  EXPECT_FALSE(doc().sounding().heardInstead());
  ASSERT_TRUE(run("print.hear"));
  doc().jobs().cancelTasks();
  doc().jobs().finishAll();
  EXPECT_FALSE(doc().printTrial().on()) << "cancelled while it was made";
  ASSERT_TRUE(run("print.hear"));
  doc().undo();
  doc().jobs().finishAll();
  EXPECT_FALSE(doc().sounding().heardInstead());
  EXPECT_FALSE(doc().printTrial().on());
  EXPECT_FALSE(find<QAbstractButton>("hear unprinted")->isChecked());
}

TEST_F(PrintSteps, AnExportSaysBeforeWhatItWritesAndDoesJustThat) {
  find<QComboBox>("print mode")->setCurrentIndex(0);
  auto* table = find<QTableWidget>("export table");
  find<QComboBox>("export what")->setCurrentIndex(1);
  find<QComboBox>("export depth")->setCurrentIndex(0);
  find<QComboBox>("export rate")->setCurrentIndex(1);
  find<QLineEdit>("export names")->setText("{number} {track}");
  for (auto* action : find<QPushButton>("export also")->menu()->actions())
    if (action->text() == "MP3") action->setChecked(true);
  ASSERT_EQ(table->rowCount(), 8) << "four tracks in two formats";
  EXPECT_EQ(table->item(0, 0)->text(), "01 Kick In.wav");
  EXPECT_EQ(table->item(0, 1)->text(), "mono, 44.1 kHz, 16 bit, dithered");
  EXPECT_EQ(table->item(1, 0)->text(), "01 Kick In.mp3");
  auto* panel = window->findChild<ExportPanel*>();
  doc().printDesk().exportTo(panel->settings(), scratch / "out");
  doc().jobs().finishAll();
  for (int row = 0; row < table->rowCount(); ++row) {
    const auto file = AudioFileReader::open(scratch / "out" / table->item(row, 0)->text().toStdString());
    ASSERT_TRUE(file) << table->item(row, 0)->text().toStdString();
    EXPECT_EQ(file->info().rate, 44'100);
    EXPECT_EQ(file->info().channels, 1);
  }
  find<QLineEdit>("export names")->setText("{nmber}");
  EXPECT_EQ(table->rowCount(), 0);
  bool said = false;
  for (const auto* label : panel->findChildren<QLabel*>()) said = said || label->text().contains("{nmber}");
  EXPECT_TRUE(said) << "why nothing can be written";
}

TEST_F(PrintSteps, ChosenClipsBecomeFiles) {
  find<QComboBox>("print mode")->setCurrentIndex(0);
  auto* panel = window->findChild<ExportPanel*>();
  auto* what = find<QComboBox>("export what");
  what->setCurrentIndex(what->findText("Each clip"));
  auto* table = find<QTableWidget>("export table");
  doc().selection().choose({});
  const auto all = table->rowCount();
  EXPECT_EQ(static_cast<std::size_t>(all), exportStems(doc().song(), panel->settings(), "x")->size());
  const auto& clips = *doc().song().sets.front().clips;
  doc().selection().choose({clips.front().id});
  EXPECT_EQ(table->rowCount(), 1);
  const auto folder = scratch / "clips";
  std::filesystem::create_directories(folder);
  doc().printDesk().exportTo(panel->settings(), folder);
  doc().jobs().finishAll();
  const std::filesystem::directory_iterator written(folder);
  EXPECT_EQ(std::distance(begin(written), end(written)), 1);
}

TEST_F(PrintSteps, ChoicesOfAnExportComeBackAsTheyWereKept) {
  find<QComboBox>("print mode")->setCurrentIndex(0);
  auto* panel = window->findChild<ExportPanel*>();
  ExportSettings s = panel->settings();
  s.what = ExportWhat::sections;
  s.format = FileFormat::flac;
  s.also = {FileFormat::opus};
  s.samples = SampleFormat::pcm16;
  s.dither = false;
  s.quality = 55;
  s.rate = 96'000;
  s.mono = true;
  s.names = "{section} \"x\"";
  s.loudness = -23.5;
  s.midi = true;
  ASSERT_TRUE(ExportChoices::keep({"for Mara", s}));
  const auto kept = ExportChoices::all();
  const auto mine = std::find_if(kept.begin(), kept.end(), [](const auto& k) { return k.name == "for Mara"; });
  ASSERT_NE(mine, kept.end());
  panel->show(mine->settings);
  const auto now = panel->settings();
  EXPECT_EQ(now.what, s.what);
  EXPECT_EQ(now.format, s.format);
  EXPECT_EQ(now.also, s.also);
  EXPECT_EQ(now.samples, s.samples);
  EXPECT_EQ(now.dither, s.dither);
  EXPECT_EQ(now.quality, s.quality);
  EXPECT_EQ(now.rate, s.rate);
  EXPECT_EQ(now.mono, s.mono);
  EXPECT_EQ(now.names, s.names);
  EXPECT_EQ(now.loudness, s.loudness);
  EXPECT_EQ(now.midi, s.midi);
  ASSERT_TRUE(ExportChoices::drop("for Mara"));
  for (const auto& k : ExportChoices::all()) EXPECT_NE(k.name, "for Mara");
}

TEST_F(PrintSteps, LoudnessIsMeasuredAndAnExportIsBroughtThere) {
  find<QComboBox>("print mode")->setCurrentIndex(0);
  auto* view = find<LoudnessView>("loudness view");
  EXPECT_TRUE(view->words().contains("not been measured"));
  press("measure loudness");
  doc().jobs().finishAll();
  ASSERT_NE(doc().printDesk().loudness(), nullptr);
  EXPECT_TRUE(view->words().contains("LUFS")) << view->words().toStdString();
  find<QCheckBox>("export to loudness")->setChecked(true);
  find<QDoubleSpinBox>("export loudness")->setValue(-32);
  EXPECT_TRUE(view->words().contains("for -32.0 LUFS")) << view->words().toStdString();
  const auto file = scratch / "quiet.wav";
  doc().printDesk().exportTo(window->findChild<ExportPanel*>()->settings(), file);
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("for -32.0 LUFS")) << status().toStdString();
  auto r = AudioFileReader::open(file);
  ASSERT_TRUE(r);
  std::vector<float> x(static_cast<std::size_t>(r->info().length.value * 2));
  ASSERT_TRUE(r->read(x));
  LoudnessMeter meter(r->info().rate, 2);
  meter.add(x);
  EXPECT_NEAR(meter.report().integrated.value_or(0), -32, 0.1);
  auto s = doc().timingDesk().settings();
  s.strength = 12;
  doc().timingDesk().setSettings("strength", s);
  EXPECT_TRUE(view->words().contains("before the latest change"));
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
