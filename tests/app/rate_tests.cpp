// A song at the rate of its recordings, from the sheet of the import to the file that is exported.

#include <QComboBox>
#include <QLabel>
#include <QPushButton>

#include "dsp/resample.h"
#include "import_dialog.h"
#include "window_fixture.h"

namespace ochron::test {
namespace {

struct Rates : Driven {
  void SetUp() override {
    QSettings().clear();
    show();
  }
  /// A kit of four mics at a rate, written as files.
  QStringList kitAt(int rate, const char* folder) {
    Style style;
    style.rate = rate;
    style.bars = 10;
    performance = perform(style);
    QStringList out;
    std::filesystem::create_directories(scratch / folder);
    const char* names[] = {"Kick In.wav", "Snare Top.wav", "Hat.wav", "Overhead.wav"};
    for (std::size_t i = 0; i < 4; ++i) {
      const auto file = scratch / folder / names[i];
      auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, rate, 1});
      EXPECT_TRUE(w && w->write(performance.mics[i]) && w->finish());
      out << QString::fromStdString(file.string());
    }
    return out;
  }
  void import(const QStringList& names) {
    window->takeIn(names, false);
    doc().jobs().finishAll();
  }
};

TEST_F(Rates, ASongTakesTheRateOfItsFirstRecordingsAndPlaysThemToTheBit) {
  for (const int rate : {44'100, 96'000}) {
    import(kitAt(rate, "kit"));
    ASSERT_EQ(doc().song().rate, rate);
    EXPECT_EQ(doc().transport().player().rate(), rate);
    ASSERT_EQ(doc().song().tracks.size(), 4U);
    const auto& media = doc().song().media.front();
    auto file = AudioFileReader::open(media.path);
    ASSERT_TRUE(file);
    EXPECT_EQ(media.length, file->info().length);
    std::vector<float> recorded(static_cast<std::size_t>(file->info().length.value));
    ASSERT_TRUE(file->read(recorded));
    EXPECT_EQ(doc().pool().at(media.id)->channel(0).copy(), recorded) << rate;
    doc().files().leave();
    doc().files().newSong();
    doc().jobs().finishAll();
  }
}

TEST_F(Rates, HitsAt44100LieOnTheirAttacksToTheEndAndTheLockedSongIsExportedAtItsRate) {
  import(kitAt(44'100, "kit"));
  auto& song = doc().song();
  const auto& hits = *song.hitsOf(song.takes.front().id, song.sets.front().id);
  std::vector<Frames> found;
  for (const auto& h : activeHits(hits, song.sets.front().hits, song.rate)) found.push_back(h.at);
  std::vector<Frames> truth;
  for (const auto& h : performance.of({DrumClass::kick, DrumClass::snare}))
    if (h.at.value > std::ssize(performance.mics[0]) * 3 / 4) truth.push_back(h.at);
  std::erase_if(found, [&](Frames f) { return f < truth.front() - Frames{441}; });
  EXPECT_GT(compare(truth, found, 44'100, 1).recall, 0.97);
  doc().edit("tempo", setTempoMap(doc().song(), performance.map));
  auto s = doc().timingDesk().settings();
  s.on = true;
  doc().timingDesk().setSettings("plan", s);
  doc().jobs().finishAll();
  const auto out = exported({Frames{0}, doc().song().end()});
  const auto file = AudioFileReader::open(scratch / "out.wav");
  ASSERT_TRUE(file);
  EXPECT_EQ(file->info().rate, 44'100);
  EXPECT_EQ(file->info().length, doc().song().end());
  EXPECT_GT(out.size(), 44'100U);
}

TEST_F(Rates, TheSheetSaysWhichFilesAreConvertedAndTheMostFrequentRateLeads) {
  auto mixed = kitAt(44'100, "a");
  mixed << kitAt(48'000, "b").front();
  ImportDialog sheet(mixed, "Take", std::nullopt, window.get());
  auto* rate = sheet.findChild<QComboBox*>("song rate");
  auto* note = sheet.findChild<QLabel*>("rates");
  ASSERT_TRUE(rate && note);
  EXPECT_EQ(sheet.rate(), 44'100);
  EXPECT_TRUE(note->text().contains("1 file of 48 kHz")) << note->text().toStdString();
  rate->setCurrentIndex(rate->findData(48'000));
  EXPECT_EQ(sheet.rate(), 48'000);
  EXPECT_TRUE(note->text().contains("4 files of 44.1 kHz")) << note->text().toStdString();
  ImportDialog later(mixed, "Take", 96'000, window.get());
  EXPECT_EQ(later.findChild<QComboBox*>("song rate"), nullptr);
  EXPECT_EQ(later.rate(), 96'000);
}

TEST_F(Rates, AFullSongGoesToAnotherRateAndBackByUndo) {
  import(kitAt(48'000, "kit"));
  doc().edit("tempo", setTempoMap(doc().song(), performance.map));
  auto s = doc().timingDesk().settings();
  s.on = true;
  doc().timingDesk().setSettings("plan", s);
  doc().jobs().finishAll();
  const auto before = doc().version();
  doc().transport().setCursor(Frames{96'000});
  doc().selection().setRange({Frames{48'000}, Frames{144'000}});
  doc().setStep(Step::takes);
  auto* rate = find<QComboBox>("Song rate");
  rate->setCurrentIndex(rate->findData(96'000));
  emit rate->activated(rate->currentIndex());
  doc().jobs().finishAll();
  ASSERT_EQ(doc().song().rate, 96'000);
  EXPECT_EQ(doc().transport().player().rate(), 96'000);
  EXPECT_EQ(doc().transport().cursor(), Frames{192'000});
  EXPECT_EQ(doc().selection().range(), (FrameRange{Frames{96'000}, Frames{288'000}}));
  EXPECT_TRUE(doc().recordings().complete());
  EXPECT_EQ(doc().pool().begin()->second->rate(), 96'000);
  EXPECT_EQ(doc().song().sets.front().clips->size(), before->sets.front().clips->size());
  EXPECT_TRUE(brokenRules(doc().song()).empty());
  doc().undo();
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song(), *before);
  EXPECT_EQ(doc().transport().player().rate(), 48'000);
  EXPECT_EQ(doc().pool().begin()->second->rate(), 48'000);
}

TEST_F(Rates, WhatWasCopiedAtAnotherRateIsNotPasted) {
  import(kitAt(48'000, "kit"));
  doc().selection().choose({doc().song().sets.front().clips->front().id});
  ASSERT_TRUE(run("edit.copy"));
  EXPECT_TRUE(doc().clipDesk().canPaste());
  doc().takesDesk().setRate(44'100);
  EXPECT_FALSE(doc().clipDesk().canPaste());
}

}  // namespace
}  // namespace ochron::test
