// The Kit step by mouse and keys: layers added, swapped, decided for single strokes, printed; cells struck and laid.

#include <QAbstractButton>
#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QDropEvent>
#include <QMimeData>
#include <cmath>
#include <fstream>
#include <thread>

#include "app/window_fixture.h"
#include "document/cells_desk.h"
#include "document/key_desk.h"
#include "document/kit_desk.h"
#include "document/note_out_desk.h"
#include "document/print_desk.h"
#include "edits/insert_edits.h"
#include "edits/track_edits.h"
#include "kit/slices.h"
#include "lanes/lanes_view.h"
#include "loupe/loupe_view.h"
#include "steps/kit/cell_grid.h"
#include "steps/kit/kit_step.h"
#include "steps/kit/layer_card.h"
#include "steps/kit/strength_graph.h"
#include "terms/general_midi.h"

namespace ochron {
namespace {

struct KitSteps : test::Window {
  void SetUp() override {
    Window::SetUp();
    import();
    for (const char* name : {"a", "b", "c"}) {
      std::vector<float> x(6'000);
      const double hz = 150 + 60 * (name[0] - 'a');
      for (std::size_t i = 0; i < x.size(); ++i) {
        const double t = static_cast<double>(i) / 48'000;
        x[i] = static_cast<float>(0.5 * std::exp(-t / 0.03) * std::cos(2 * M_PI * hz * t));
      }
      test::writeWav(sounds / (std::string(name) + ".wav"), x);
    }
    run("step.7");
    QTest::qWait(0);
  }
  KitDesk& desk() { return doc().kitDesk(); }
  CellsDesk& cells() { return doc().cellsDesk(); }
  void add(const char* name = "a.wav") {
    desk().add(sounds / name);
    doc().jobs().finishAll();
    QTest::qWait(0);
    ASSERT_NE(desk().layer(), nullptr);
  }
  const Layer& layer() { return *desk().layer(); }
  void press(const char* name) { QTest::mouseClick(find<QAbstractButton>(name), Qt::LeftButton); }
  /// What a track plays of the song, as it is exported.
  std::vector<float> stem(const std::string& name) {
    ExportSettings s;
    s.what = ExportWhat::tracks;
    s.samples = SampleFormat::float32;
    s.range = {Frames{}, doc().song().end()};
    const auto folder = scratch / "stems";
    std::filesystem::remove_all(folder);
    doc().printDesk().exportTo(s, folder);
    doc().jobs().finishAll();
    auto r = AudioFileReader::open(folder / (name + ".wav"));
    EXPECT_TRUE(r) << name;
    if (!r) return {};
    std::vector<float> all(static_cast<std::size_t>(r->info().length.value * r->info().channels));
    EXPECT_TRUE(r->read(all));
    return all;
  }
  /// Where a stroke's stem stands on the lanes.
  QPointF stemOf(const LayerStroke& s) {
    auto& lanes = window->lanes();
    const auto box = lanes.layout().laneBox(lanes.layout().laneOf(layer().track));
    return {window->view().xOf(s.at), box.center().y()};
  }

  test::Scratch sounds;
};

TEST_F(KitSteps, ASoundIsLaidOnEverySnareAndUndoneInOneStep) {
  const auto before = doc().song();
  add();
  EXPECT_EQ(doc().song().tracks.size(), 5U);
  EXPECT_EQ(layer().name, "a");
  EXPECT_EQ(desk().strokesOf(layer().id).size(), performance.of({DrumClass::snare}).size());
  EXPECT_FALSE(find<LayerCard>("layer a")->accessibleName().isEmpty());
  const auto heard = stem("a");
  double energy = 0;
  for (const float v : heard) energy += static_cast<double>(v) * static_cast<double>(v);
  EXPECT_GT(energy, 0.1);
  doc().undo();
  EXPECT_EQ(doc().song().tracks, before.tracks);
  EXPECT_TRUE(doc().song().layers.empty());
  doc().redo();
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song().layers.size(), 1U);
  EXPECT_EQ(stem("a"), heard);
}

TEST_F(KitSteps, ASoundThatIsNotThereAnyMoreIsSaidOnItsCard) {
  add();
  const auto folder = scratch / "song.ochron";
  ASSERT_TRUE(doc().files().save(folder));
  std::filesystem::rename(sounds / "a.wav", sounds / "gone.wav");
  std::filesystem::remove_all(folder / "cache");
  ASSERT_TRUE(doc().files().open(folder));
  doc().jobs().finishAll();
  run("step.7");
  QTest::qWait(0);
  const auto* card = find<LayerCard>("layer a");
  EXPECT_TRUE(card->accessibleDescription().contains("recording missing"))
      << card->accessibleDescription().toStdString();
  EXPECT_TRUE(card->toolTip().contains("a.wav")) << card->toolTip().toStdString();
}

TEST_F(KitSteps, TheFolderIsGoneThroughByKeyWhileTheSongPlaysAtEqualLoudness) {
  add();
  const double loudness = layer().sounds->fullDb;
  doc().transport().playStop();
  ASSERT_TRUE(hear(Frames{2000}));
  EXPECT_TRUE(run("kit.next"));
  doc().jobs().finishAll();
  EXPECT_EQ(layer().sounds->name, "b");
  EXPECT_EQ(layer().name, "b") << "the layer is called as its sound";
  EXPECT_EQ(layer().sounds->fullDb, loudness);
  EXPECT_TRUE(run("kit.next"));
  doc().jobs().finishAll();
  EXPECT_TRUE(run("kit.next"));
  doc().jobs().finishAll();
  EXPECT_EQ(layer().name, "a") << "and around";
  EXPECT_TRUE(run("kit.previous"));
  doc().jobs().finishAll();
  EXPECT_EQ(layer().name, "c");
  EXPECT_TRUE(playing());
  doc().transport().playStop();
}

TEST_F(KitSteps, OneStrokesLevelIsDraggedAndKeptThroughANewTimingPlan) {
  add();
  const auto stroke = desk().strokesOf(layer().id).at(6);
  window->view().reveal(stroke.at);
  const auto at = stemOf(stroke);
  drag(&window->lanes(), at, at - QPointF(0, 24));
  ASSERT_TRUE(layer().wishes.contains(stroke.hit));
  const double db = layer().wishes.at(stroke.hit).gainDb;
  EXPECT_NEAR(db, 6, 1.6);
  auto s = doc().timingDesk().settings();
  s.strength = 40;
  doc().timingDesk().setSettings("strength", s);
  doc().jobs().finishAll();
  EXPECT_EQ(layer().wishes.at(stroke.hit).gainDb, db);
  // And by keys: the stroke is chosen, switched off, given back.
  ASSERT_NE(desk().stroke(), nullptr);
  EXPECT_TRUE(run("kit.strokeoff"));
  EXPECT_FALSE(desk().stroke()->heard);
  EXPECT_TRUE(run("kit.strokerelease"));
  EXPECT_TRUE(layer().wishes.empty());
}

TEST_F(KitSteps, EscapeTakesBackWhatIsDragged) {
  add();
  const auto stroke = desk().strokesOf(layer().id).at(4);
  window->view().reveal(stroke.at);
  const auto at = stemOf(stroke);
  drag(&window->lanes(), at, at - QPointF(0, 20), {}, false);
  EXPECT_FALSE(layer().wishes.empty());
  QTest::keyClick(&window->lanes(), Qt::Key_Escape);
  EXPECT_TRUE(layer().wishes.empty());
  QTest::mouseRelease(&window->lanes(), Qt::LeftButton, {}, at.toPoint());
}

TEST_F(KitSteps, ControlsOfThePanelChangeTheLayer) {
  add();
  find<QComboBox>("polarity")->setCurrentIndex(2);
  emit find<QComboBox>("polarity")->activated(2);
  EXPECT_EQ(layer().turned, std::optional(true));
  EXPECT_EQ(doc().undoName(), "Change the layer's polarity");
  find<QComboBox>("line up")->setCurrentIndex(1);
  emit find<QComboBox>("line up")->activated(1);
  EXPECT_EQ(layer().lineUp, LineUp::whole);
  for (auto* c : window->findChild<KitStep*>()->findChildren<SettingControl*>()) {
    emit c->changed(1);
    EXPECT_TRUE(doc().undoName().contains("layer")) << doc().undoName().toStdString();
  }
  EXPECT_EQ(layer().settings.blend, 1);
  EXPECT_EQ(layer().settings.threshold, 1);
}

TEST_F(KitSteps, ThePrintOfALayerNullsWithWhatWasHeard) {
  add();
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  const auto heard = stem("a");
  press("print layer");
  doc().jobs().finishAll();
  EXPECT_FALSE(layer().on);
  EXPECT_EQ(doc().song().tracks.back().name, "a print");
  const auto printed = stem("a print");
  ASSERT_EQ(printed.size(), heard.size());
  EXPECT_EQ(printed, heard);
  EXPECT_TRUE(run("kit.onoff"));
  doc().jobs().finishAll();
  EXPECT_EQ(stem("a"), heard) << "the layer is as it was";
}

TEST_F(KitSteps, ThePrintOfALayerStandsInTheMixAsTheLayerDid) {
  add();
  ASSERT_TRUE(doc().files().save(scratch / "song.ochron"));
  auto track = *doc().song().find(layer().track);
  track.gainDb = -7.5, track.pan = 30;
  ASSERT_TRUE(doc().edit("mix", setTrack(doc().song(), track)));
  Insert gone;
  gone.effect = "urn:example:reverb", gone.name = "Reverb", gone.values = {{"wet", 0.5}};
  ASSERT_TRUE(doc().edit("effect", addInsert(doc().song(), {track.id, {}}, gone)));
  auto ofSet = gone;
  ofSet.name = "Echo";
  ASSERT_TRUE(doc().edit("effect", addInsert(doc().song(), {{}, doc().song().setOf(track.id)->id}, ofSet)));
  press("print layer");
  doc().jobs().finishAll();
  const auto& print = doc().song().tracks.back();
  EXPECT_EQ(print.name, "a print");
  EXPECT_EQ(print.gainDb, -7.5);
  EXPECT_EQ(print.pan, 30);
  ASSERT_EQ(print.inserts->size(), 2U) << "the track's and its set's";
  EXPECT_EQ(print.inserts->back().name, "Echo");
  EXPECT_EQ(print.inserts->front().values, gone.values);
  EXPECT_NE(print.inserts->front().id, doc().song().find(layer().track)->inserts->front().id);
  EXPECT_TRUE(brokenRules(doc().song()).empty());
}

TEST_F(KitSteps, OwnStrokesBecomeALayer) {
  press("add own layer");
  doc().jobs().finishAll();
  ASSERT_NE(desk().layer(), nullptr);
  EXPECT_EQ(layer().name, "own snare");
  EXPECT_TRUE(layer().sounds->origin.empty());
  EXPECT_TRUE(status().contains("own"));
}

TEST_F(KitSteps, WhatCannotBeReadIsSaidAndNothingIsHalfDone) {
  const auto before = doc().song();
  std::ofstream(sounds / "bad.wav") << "no sound";
  desk().add(sounds / "bad.wav");
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("bad.wav")) << status().toStdString();
  std::ofstream(sounds / "kit.sfz") << "<region> sample=gone.wav";
  desk().add(sounds / "kit.sfz");
  doc().jobs().finishAll();
  EXPECT_TRUE(status().contains("gone.wav")) << status().toStdString();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(KitSteps, TheLevelCurveIsDrawnOverTheStrokes) {
  add();
  auto* graph = window->findChild<StrengthGraph*>();
  ASSERT_TRUE(graph->isVisible());
  QTest::mouseDClick(graph, Qt::LeftButton, {}, QPoint(graph->width() / 2, graph->height() * 3 / 4));
  EXPECT_EQ(layer().curve.size(), 5U);
  const auto softest = layer().curve[2].db;
  graph->setFocus();
  QTest::keyClick(graph, Qt::Key_Up);
  EXPECT_EQ(layer().curve[2].db, softest + 1);
  QTest::keyClick(graph, Qt::Key_Delete);
  EXPECT_EQ(layer().curve.size(), 4U);
}

TEST_F(KitSteps, ANewlyFoundStrokeGetsItsSoundToo) {
  add();
  const auto count = desk().strokesOf(layer().id).size();
  auto settings = doc().song().find(doc().selection().set())->hits;
  settings.sensitivity = 20;
  doc().hitDesk().setSettings(settings, {});
  doc().jobs().finishAll();
  EXPECT_LE(desk().strokesOf(layer().id).size(), count);
  settings.sensitivity = 90;
  doc().hitDesk().setSettings(settings, {});
  doc().jobs().finishAll();
  EXPECT_GE(desk().strokesOf(layer().id).size(), count);
  const auto name = doc().undoName();
  EXPECT_TRUE(name.contains("hit")) << "listening is no step of its own: " << name.toStdString();
}

TEST_F(KitSteps, SixteenCellsArePlayedByTheSimulatedKeyboardAndLaidOnTheLanes) {
  ASSERT_GE(cells().cells().size(), 16U) << "the timing plan has cut the kit";
  auto keyboard = std::make_unique<SimulatedKeyboard>();
  auto* keys = keyboard.get();
  doc().keyDesk().useKeyboard(std::move(keyboard));
  press("cells counted in");
  press("record cells");
  EXPECT_TRUE(cells().recording());
  EXPECT_FALSE(doc().transport().player().engine().playing());
  const auto before = doc().song();
  doc().transport().playFrom(Frames{});
  ASSERT_TRUE(hear(Frames{4000}));
  for (int cell = 0; cell < 16; ++cell) {
    ASSERT_TRUE(keys->press(CellsDesk::kFirstKey + cell, 100));
    ASSERT_TRUE(until([&] { return cells().struckLast() == cell; })) << cell;
    ASSERT_TRUE(hear(Frames{7000}));
  }
  EXPECT_EQ(cells().recorded(), 16U);
  doc().transport().playStop();
  press("record cells");
  EXPECT_EQ(doc().undoName(), "Lay what was struck");
  const auto& clips = *doc().song().find(desk().set())->clips;
  EXPECT_NE(clips, *before.find(desk().set())->clips);
  EXPECT_TRUE(brokenRules(doc().song()).empty());
  doc().undo();
  EXPECT_EQ(doc().song(), before);
}

TEST_F(KitSteps, ARecordingIsCountedInABarBeforeThePlayLineAndItsStrokesAreFromThereOn) {
  const auto& map = doc().song().tempo;
  const auto from = map.toFrames(map.barStart(2));
  doc().transport().setCursor(from);
  const auto& engine = doc().transport().player().engine();
  press("record cells");
  ASSERT_TRUE(until([&] { return engine.playing(); }));
  EXPECT_TRUE(doc().transport().click());
  EXPECT_LT(engine.position(), from);
  EXPECT_GE(engine.position(), map.toFrames(map.barStart(1)));
  ASSERT_TRUE(cells().strike(2)) << "in the bar that is counted";
  EXPECT_EQ(cells().recorded(), 0U);
  ASSERT_TRUE(until([&] { return engine.position() > from + Frames{9'000}; }));
  ASSERT_TRUE(cells().strike(3));
  EXPECT_EQ(cells().recorded(), 1U);
  press("record cells");
  EXPECT_TRUE(until([&] { return !engine.playing(); }));
  EXPECT_FALSE(doc().transport().click()) << "as it was";
  EXPECT_EQ(doc().transport().cursor(), from);
  EXPECT_EQ(doc().undoName(), "Lay what was struck");
  // Before the song's first bar there is a bar to count, too.
  doc().transport().setCursor(map.origin());
  press("record cells");
  ASSERT_TRUE(until([&] { return engine.position() > map.origin() + Frames{2'000}; }));
  press("record cells");
  EXPECT_TRUE(status().contains("Nothing was struck")) << status().toStdString();
}

TEST_F(KitSteps, AKeyIsHeardWhileTheWindowIsBusy) {
  auto keyboard = std::make_unique<SimulatedKeyboard>();
  auto* keys = keyboard.get();
  doc().keyDesk().useKeyboard(std::move(keyboard));
  ASSERT_TRUE(until([&] { return cells().ready(); }));
  QTest::qWait(20);
  auto& engine = doc().transport().player().engine();
  engine.takeMasterPeak(0);
  ASSERT_TRUE(keys->press(CellsDesk::kFirstKey + 1, 127));
  float heard = 0;
  const auto giveUp = std::chrono::steady_clock::now() + std::chrono::seconds(5);
  while (heard <= 1e-4F && std::chrono::steady_clock::now() < giveUp) {  // no event of the window is handled meanwhile
    std::this_thread::sleep_for(std::chrono::milliseconds(5));
    heard = std::max(heard, engine.takeMasterPeak(0));
  }
  EXPECT_GT(heard, 1e-4F);
  EXPECT_NE(cells().struckLast(), 1);
  EXPECT_TRUE(until([&] { return cells().struckLast() == 1; })) << "and it is seen afterwards";
}

TEST_F(KitSteps, ACellIsTheClipItself) {
  auto* grid = window->findChild<CellGrid*>();
  ASSERT_TRUE(grid->isVisible());
  const auto clip = cells().cells()[3]->id;
  QTest::mouseClick(grid, Qt::LeftButton, {}, grid->boxOf(3).center().toPoint());
  EXPECT_EQ(cells().struckLast(), 3);
  EXPECT_TRUE(doc().selection().isChosen(clip));
  EXPECT_TRUE(run("clips.mute"));
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().song().find(clip)->muted) << "a cell is not a copy";
  // Letters strike while the grid has the focus, and are the window's elsewhere.
  QTest::keyClick(grid, Qt::Key_T);
  EXPECT_EQ(cells().struckLast(), 4);
  EXPECT_EQ(doc().step(), Step::kit);
}

TEST_F(KitSteps, ASoundDroppedOnACellPlaysInItsPlaceAndTheRecordingComesBackByCommand) {
  run("clips.splithits");
  doc().jobs().finishAll();
  const auto before = doc().song();
  auto* grid = window->findChild<CellGrid*>();
  const auto cell = cells().cells()[3]->id;
  const auto drop = [&](const std::filesystem::path& file) {
    QMimeData mime;
    mime.setUrls({QUrl::fromLocalFile(QString::fromStdString(file.string()))});
    const auto at = grid->boxOf(3).center();
    QDragEnterEvent enter(at.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(grid, &enter);
    QDragMoveEvent move(at.toPoint(), Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(grid, &move);
    QDropEvent event(at, Qt::CopyAction, &mime, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(grid, &event);
    doc().jobs().finishAll();
  };
  drop(sounds / "a.wav");
  const auto* now = doc().song().find(cell);
  ASSERT_TRUE(now && now->extras->sound) << status().toStdString();
  EXPECT_TRUE(status().contains("a plays in 1 cell")) << status().toStdString();
  EXPECT_TRUE(doc().pool().contains(now->extras->sound->media));
  const auto items = grid->readItems();
  EXPECT_TRUE(
      std::any_of(items.begin(), items.end(), [](const ReadItem& i) { return i.name.contains("its own sound a"); }));
  // It is heard there, and struck as any cell.
  const auto range = now->range();
  const auto& first = doc().song().find(doc().song().setOf(cell)->tracks.front())->name;
  const auto heard = stem(first);
  float loudest = 0;
  for (auto i = range.start.value; i < range.end.value; ++i)
    loudest = std::max(loudest, std::abs(heard[static_cast<std::size_t>(i)]));
  EXPECT_GT(loudest, 0.3F);
  EXPECT_TRUE(cells().strike(3));
  drop(sounds / "nothing.txt");
  EXPECT_TRUE(doc().song().find(cell)->extras->sound) << "what cannot be read changes nothing";
  doc().selection().choose({cell});
  EXPECT_TRUE(run("kit.cellback"));
  EXPECT_FALSE(doc().song().find(cell)->extras->sound);
  EXPECT_EQ(doc().song().media, before.media);
  doc().undo();
  EXPECT_TRUE(doc().song().find(cell)->extras->sound);
}

TEST_F(KitSteps, CellsAreWrittenAsTheyAreHeardWithAnInstrumentAndTheirOrder) {
  doc().setStep(Step::clips);
  ASSERT_TRUE(run("clips.splithits"));
  doc().jobs().finishAll();
  run("step.7");
  const auto all = *doc().song().find(desk().set())->clips;
  ASSERT_GT(all.size(), 8U);
  doc().selection().choose({all[2].id, all[3].id});
  ASSERT_TRUE(run("kit.choke"));
  EXPECT_EQ(doc().song().find(all[2].id)->extras->choke, 1);
  doc().jobs().finishAll();
  const auto folder = scratch / "cells";
  std::filesystem::create_directories(folder);
  const auto name = doc().song().find(desk().set())->name;
  std::ofstream(folder / (name + ".sfz")) << "somebody else's";
  int asked = 0;
  bool yes = false;
  doc().setAsker([&](const QString&, const QString&, const QString&) { return ++asked, yes; });
  doc().printDesk().writeCells(desk().set(), folder);
  doc().jobs().finishAll();
  EXPECT_EQ(asked, 1);
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder), std::filesystem::directory_iterator()), 1)
      << "refused: nothing is touched";
  yes = true;
  doc().printDesk().writeCells(desk().set(), folder);
  doc().jobs().finishAll();
  std::size_t written = 0;
  std::filesystem::path third;
  for (const auto& e : std::filesystem::directory_iterator(folder)) {
    if (e.path().extension() != ".wav") continue;
    ++written;
    if (e.path().stem().string().find("-03-") != std::string::npos ||
        e.path().stem().string().find("-003-") != std::string::npos)
      third = e.path();
  }
  const auto& now = *doc().song().find(desk().set())->clips;
  EXPECT_EQ(written, now.size());
  EXPECT_NE(third.stem().string().find(std::string(kDrumClassNames[static_cast<std::size_t>(
                doc().song().hitAtStart(*doc().song().find(desk().set()), now[2])->drum)])),
            std::string::npos);
  ASSERT_FALSE(third.empty());
  auto r = AudioFileReader::open(third);
  ASSERT_TRUE(r);
  ASSERT_EQ(r->info().length, now[2].length);
  std::vector<float> both(static_cast<std::size_t>(2 * r->info().length.value));
  ASSERT_TRUE(r->read(both));
  const auto heard = exported(now[2].range());
  ASSERT_EQ(heard.size() * 2, both.size());
  for (std::size_t i = 0; i + 200 < heard.size(); ++i) ASSERT_NEAR(both[2 * i], heard[i], 2e-7) << i;
  std::ifstream in(folder / (name + ".sfz"));
  const std::string sfz((std::istreambuf_iterator<char>(in)), {});
  EXPECT_NE(sfz.find("key=38"), std::string::npos) << sfz.substr(0, 300);
  EXPECT_NE(sfz.find("group=1"), std::string::npos);
  EXPECT_TRUE(std::filesystem::exists(folder / (name + ".mid")));
  ASSERT_TRUE(doc().files().save(scratch / "choked.ochron"));
  ASSERT_TRUE(doc().files().open(scratch / "choked.ochron"));
  EXPECT_EQ(doc().song().find(all[2].id)->extras->choke, 1);
}

TEST_F(KitSteps, ALayerIsSentAsMidiWhileTheSongPlaysAndKeptSo) {
  add();
  auto port = std::make_shared<SimulatedMidiOutput>();
  doc().noteOutDesk().use(port);
  auto* sent = find<QCheckBox>("layer sent");
  sent->click();
  EXPECT_TRUE(layer().midi);
  doc().jobs().finishAll();
  run("transport.play");
  ASSERT_TRUE(until([&] { return port->sent().size() >= 4; })) << "notes while it plays";
  run("transport.play");
  for (const auto& e : port->sent()) EXPECT_EQ(e.bytes[1], keyOfDrum(*layer().drum));
  ASSERT_TRUE(doc().files().save(scratch / "sent.ochron"));
  ASSERT_TRUE(doc().files().open(scratch / "sent.ochron"));
  EXPECT_TRUE(doc().song().layers.front().midi);
  sent->click();
  EXPECT_FALSE(doc().song().layers.front().midi);
  doc().noteOutDesk().use(nullptr);
  EXPECT_TRUE(doc().noteOutDesk().port().isEmpty());
}

TEST_F(KitSteps, TheLoupeShowsDrumAndSoundAndEverythingPaintsAtEverySize) {
  add();
  EXPECT_TRUE(run("kit.nextstroke"));
  ASSERT_NE(desk().stroke(), nullptr);
  for (const auto& size : {QSize(1280, 800), QSize(1024, 700)}) {
    window->resize(size);
    QTest::qWait(0);
    EXPECT_FALSE(window->grab().isNull());
  }
}

}  // namespace
}  // namespace ochron
