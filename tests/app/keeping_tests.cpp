// What the window does with a user's work: locks, kept copies, recordings that changed, damaged libraries.
#include <sys/stat.h>

#include <QComboBox>
#include <QDialog>
#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QStandardPaths>
#include <QTableWidget>
#include <QTimer>
#include <QToolButton>
#include <fstream>

#include "app/window_fixture.h"
#include "document/fade_library.h"
#include "document/groove_library.h"
#include "document/print_desk.h"
#include "document/song_files.h"
#include "document/takes_desk.h"
#include "document/timing_desk.h"
#include "edits/mark_edits.h"
#include "files/atomic_file.h"
#include "head/notice_bar.h"
#include "keeping/damaged_settings.h"
#include "steps/print/print_step.h"
#include "store/project.h"
#include "support/process.h"
#include "support/recordings.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;

struct Keeping : test::Window {
  void SetUp() override {
    Window::SetUp();
    for (const auto& c : doc().files().keeper().kept().list()) KeptCopies::remove(c);
  }
  /// A song with an edit that is not saved, in this folder.
  fs::path saved() {
    import();
    auto folder = scratch / "song.ochron";
    EXPECT_TRUE(doc().files().save(folder));
    return folder;
  }
  void strength(double percent) {
    auto s = doc().timingDesk().settings();
    s.strength = percent;
    doc().timingDesk().setSettings("strength", s);
    doc().jobs().finishAll();
  }
  /// Presses the button with this text in the next dialog that opens; "" closes it.
  void answer(const QString& text) {
    QTimer::singleShot(0, this->window.get(), [this, text] {
      auto* dialog = QApplication::activeModalWidget();
      if (!dialog) return answer(text);
      asked << dialog->objectName() + "|" + dialog->windowTitle();
      if (text.isEmpty()) return dialog->close(), void();
      for (auto* b : dialog->findChildren<QPushButton*>())
        if (b->text().remove('&') == text) return b->click();
      ADD_FAILURE() << "no button " << text.toStdString();
      dialog->close();
    });
  }
  QString notice() {
    auto* bar = window->findChild<NoticeBar*>();
    return bar->isVisible() ? find<QLabel>("notice")->text() : QString();
  }
  void exportAll(const fs::path& file) {
    ExportSettings all;
    all.range = {Frames{}, doc().song().end()};
    doc().printDesk().exportTo(all, file);
    doc().jobs().finishAll();
  }
  QStringList asked;
};

TEST_F(Keeping, DecodedAndMadeSoundStaysWithinTheRoomTheUserGivesIt) {
  // Packed, so that it is decoded; a copy of it takes more than the least room there can be.
  const auto frames = static_cast<std::size_t>(kCacheRoomRange.low * 1e9 / sizeof(float) * 1.2);
  test::writeSound(scratch / "Long.flac", {FileFormat::flac, SampleFormat::pcm16, 48'000, 1}, test::crackle(frames));
  const auto folder = saved();
  window->takeIn({QString::fromStdString((scratch / "Long.flac").string())}, false);
  doc().jobs().finishAll();
  ASSERT_TRUE(doc().files().save(folder));
  doc().files().newSong();
  ASSERT_TRUE(doc().files().open(folder));
  doc().jobs().finishAll();
  const auto bytes = [&] {
    std::uintmax_t sum = 0;
    for (const auto& e : fs::directory_iterator(cacheFolderOf(folder))) sum += e.file_size();
    return sum;
  };
  ASSERT_GT(static_cast<double>(bytes()), kCacheRoomRange.low * 1e9) << "else nothing would have to give way";
  doc().files().setCacheRoom(kCacheRoomRange.low);
  doc().jobs().finishAll();
  EXPECT_LE(static_cast<double>(bytes()), kCacheRoomRange.low * 1e9);
  // What gave way is made again when it is needed.
  EXPECT_FALSE(exported({Frames{}, Frames{48'000}}).empty());
  doc().files().setCacheRoom(kCacheRoomRange.fallback);
}

TEST_F(Keeping, ClosingProperlyLeavesNoAutosaveAndNoLock) {
  const auto folder = saved();
  EXPECT_TRUE(fs::exists(folder / "open.lock"));
  strength(40);
  EXPECT_TRUE(fs::exists(folder / kAutosaveFile));
  answer("Discard");
  window->close();
  EXPECT_EQ(asked.size(), 1);
  EXPECT_FALSE(fs::exists(folder / kAutosaveFile));
  EXPECT_FALSE(fs::exists(folder / "open.lock"));
}

TEST_F(Keeping, ANewerAutosaveIsOfferedAndYesOpensIt) {
  const auto folder = saved();
  strength(40);
  const auto left = *readWholeFile(folder / kAutosaveFile, 1 << 24);
  doc().files().newSong();  // leaves properly
  std::ofstream(folder / kAutosaveFile) << left;
  answer("Yes");
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  EXPECT_EQ(doc().timingDesk().settings().strength, 40);
  EXPECT_TRUE(doc().files().modified());
}

TEST_F(Keeping, NoKeepsTheAutosaveNamedAndDated) {
  const auto folder = saved();
  strength(40);
  const auto left = *readWholeFile(folder / kAutosaveFile, 1 << 24);
  doc().files().newSong();
  std::ofstream(folder / kAutosaveFile) << left;
  answer("No");
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  EXPECT_EQ(doc().timingDesk().settings().strength, 100);
  const auto kept = doc().files().keeper().kept().list();
  ASSERT_EQ(kept.size(), 1u);
  EXPECT_EQ(kept[0].name, "song");
  EXPECT_FALSE(fs::exists(folder / kAutosaveFile));
  // It opens again from the list.
  QTimer::singleShot(0, window.get(),
                     [&] { QApplication::activeModalWidget()->findChild<QPushButton*>("open kept")->click(); });
  EXPECT_TRUE(run("song.kept"));
  EXPECT_EQ(doc().timingDesk().settings().strength, 40);
  EXPECT_TRUE(doc().files().modified());
  EXPECT_TRUE(doc().files().folder().empty());
  EXPECT_EQ(doc().files().keeper().kept().list().size(), 1u) << "it stays until it is removed by hand";
}

TEST_F(Keeping, WhileAnotherSongIsReadTheOpenOneStaysAndIsNotEdited) {
  const auto folder = saved();
  doc().files().newSong();
  ASSERT_TRUE(doc().edit("before", addMarker(doc().song(), Ticks{0}, Ticks{0}, "m")));
  doc().files().openSoon(folder, SongFiles::Copy::saved, OpenAs::owner);
  EXPECT_EQ(doc().song().markers.size(), 1u) << "still there";
  EXPECT_TRUE(doc().files().folder().empty());
  EXPECT_FALSE(doc().edit("meanwhile", addMarker(doc().song(), Ticks{9}, Ticks{0}, "n"))) << "it would be lost";
  doc().jobs().finishAll();
  EXPECT_EQ(doc().files().folder(), folder);
  EXPECT_EQ(doc().song().tracks.size(), 4u);
  EXPECT_TRUE(doc().edit("after", addMarker(doc().song(), Ticks{9}, Ticks{0}, "n")));
}

TEST_F(Keeping, ASongThatCannotBeReadLeavesTheOpenOneAsItIs) {
  ASSERT_TRUE(doc().edit("before", addMarker(doc().song(), Ticks{0}, Ticks{0}, "m")));
  const auto folder = scratch / "broken.ochron";
  fs::create_directories(folder);
  std::ofstream(folder / kSongFile) << "{ broken";
  doc().files().openSoon(folder, SongFiles::Copy::saved, OpenAs::owner);
  doc().jobs().finishAll();
  EXPECT_TRUE(notice().contains("song.json")) << notice().toStdString();
  EXPECT_EQ(doc().song().markers.size(), 1u);
  EXPECT_TRUE(doc().files().folder().empty());
  EXPECT_TRUE(doc().edit("after", addMarker(doc().song(), Ticks{9}, Ticks{0}, "n")));
}

TEST_F(Keeping, ABrokenAutosaveIsKeptAndTheGoodSongOpens) {
  const auto folder = saved();
  doc().files().newSong();
  std::ofstream(folder / kAutosaveFile) << "{ broken";
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  EXPECT_EQ(doc().song().tracks.size(), 4u);
  EXPECT_TRUE(notice().contains("damaged")) << notice().toStdString();
  ASSERT_EQ(doc().files().keeper().kept().list().size(), 1u);
  EXPECT_TRUE(doc().files().keeper().kept().list()[0].damaged);
}

TEST_F(Keeping, WhatARunThatDiedLeftIsKeptBeforeItIsOffered) {
  import();
  doc().jobs().finishAll();
  const auto own = doc().files().keeper().autosaveFolder();
  ASSERT_TRUE(fs::exists(own / kAutosaveFile)) << own;
  // As a process that is gone would have left it, two of them; one under a number that another process has now.
  auto gone = thisProcess();
  gone.started += 7;
  for (const auto& name : {"unsaved-" + shortText(gone), std::string("unsaved-999999999-5")})
    fs::copy(own, own.parent_path() / (name + kProjectEnding), fs::copy_options::recursive);
  doc().files().newSong();
  answer("Not now");
  window->offerRecovery();
  EXPECT_EQ(asked.size(), 1);
  EXPECT_EQ(doc().files().keeper().kept().list().size(), 2u) << "both are kept though none was opened";
  EXPECT_TRUE(doc().song().tracks.empty());
  EXPECT_TRUE(doc().files().keeper().abandoned().empty());
  window->offerRecovery();
  EXPECT_EQ(asked.size(), 1) << "they are not offered twice";
}

TEST_F(Keeping, AnotherWindowsSongIsLookedAtAndSavedElsewhere) {
  const auto folder = saved();
  doc().files().newSong();
  // Another process opens it.
  const auto driver = test::run({OCHRON_KEEPING_DRIVER, "hold", folder.string()});
  ASSERT_EQ(driver.status, 0) << driver.err;
  const auto before = *readWholeFile(folder / kSongFile, 1 << 24);
  answer("Look only");
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  ASSERT_EQ(asked.size(), 1);
  EXPECT_TRUE(asked[0].startsWith("open elsewhere"));
  EXPECT_EQ(doc().files().keeper().as(), OpenAs::looker);
  EXPECT_TRUE(window->windowTitle().contains("looked at only"));
  strength(20);
  EXPECT_FALSE(fs::exists(folder / kAutosaveFile)) << "nothing is written where another window works";
  EXPECT_FALSE(doc().files().save(folder));
  EXPECT_EQ(*readWholeFile(folder / kSongFile, 1 << 24), before);
  ASSERT_TRUE(doc().files().save(scratch / "mine.ochron"));
  EXPECT_EQ(doc().files().keeper().as(), OpenAs::owner);
  test::run({OCHRON_KEEPING_DRIVER, "let go", driver.out});
}

TEST_F(Keeping, ToldToEndTheProgramKeepsWhatNoSaveHolds) {
  const auto folder = saved();
  doc().files().newSong();
  const auto driver = test::run({OCHRON_KEEPING_DRIVER, "end", folder.string(), "the last word"});
  EXPECT_NE(driver.status, 3) << driver.err;
  const auto found = findAutosave(folder);
  ASSERT_TRUE(found.song) << found.why;
  ASSERT_FALSE(found.song->markers.empty());
  EXPECT_EQ(found.song->markers.back().name, "the last word");
}

TEST_F(Keeping, ASongThatWasTakenOverIsNotSavedOverTheOthersWork) {
  const auto folder = saved();
  strength(30);
  const auto driver = test::run({OCHRON_KEEPING_DRIVER, "hold", folder.string()});  // takes it over
  ASSERT_EQ(driver.status, 0) << driver.err;
  EXPECT_FALSE(doc().files().save(folder));
  EXPECT_TRUE(notice().contains("taken over")) << notice().toStdString();
  EXPECT_TRUE(doc().files().modified());
  test::run({OCHRON_KEEPING_DRIVER, "let go", driver.out});
}

TEST_F(Keeping, AReplacedRecordingIsSaidAndUsedOnlyWhenTheUserSaysSo) {
  const auto folder = saved();
  doc().files().newSong();
  fs::copy_file(scratch / "Snare Top.wav", scratch / "Kick In.wav", fs::copy_options::overwrite_existing);  // same size
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  ASSERT_EQ(doc().recordings().troubles().size(), 1u);
  const auto [media, trouble] = *doc().recordings().troubles().begin();
  EXPECT_EQ(trouble.kind, MediaTrouble::Kind::replaced);
  EXPECT_FALSE(doc().pool().contains(media)) << "not used without a word";
  EXPECT_TRUE(notice().contains("Kick In.wav"));
  // An export would have a hole: refused.
  exportAll(scratch / "mix.wav");
  EXPECT_FALSE(fs::exists(scratch / "mix.wav"));
  EXPECT_TRUE(notice().contains("Kick In.wav")) << notice().toStdString();
  // Asked and refused: nothing changes.
  bool yes = false;
  doc().setAsker([&](auto&, auto&, auto&) { return yes; });
  doc().takesDesk().relink(media, scratch / "Kick In.wav");
  doc().jobs().finishAll();
  EXPECT_FALSE(doc().pool().contains(media));
  yes = true;
  doc().takesDesk().relink(media, scratch / "Kick In.wav");
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().recordings().troubles().empty());
  EXPECT_TRUE(doc().pool().contains(media));
  doc().undo();
  doc().jobs().finishAll();
  EXPECT_EQ(doc().recordings().troubles().size(), 1u) << "undo brings the decision back";
}

TEST_F(Keeping, ARecordingThatIsWrittenToWhileTheSongIsOpenIsSaidAndNotExported) {
  saved();
  ASSERT_EQ(doc().pool().size(), 4u);
  const auto file = scratch / "Kick In.wav";
  fs::last_write_time(file, fs::last_write_time(file) + std::chrono::seconds(5));
  const auto comesBack = [&] {
    QEvent back(QEvent::WindowActivate);
    QApplication::sendEvent(window.get(), &back);
    doc().jobs().finishAll();
  };
  comesBack();
  EXPECT_EQ(doc().pool().size(), 4u) << "only touched: the same recording";
  EXPECT_TRUE(doc().recordings().troubles().empty());
  QStringList warnings;
  QObject::connect(&doc(), &Document::warned, window.get(), [&](const QString& text) { warnings << text; });
  std::fstream(file, std::ios::binary | std::ios::in | std::ios::out).seekp(5'000).write("other sound", 11);
  fs::last_write_time(file, fs::last_write_time(file) + std::chrono::seconds(9));
  exportAll(scratch / "mix.wav");
  EXPECT_FALSE(fs::exists(scratch / "mix.wav"));
  EXPECT_TRUE(warnings.join(' ').contains("was changed while it was in use")) << warnings.join('\n').toStdString();
  comesBack();
  ASSERT_EQ(doc().recordings().troubles().size(), 1u);
  EXPECT_EQ(doc().recordings().troubles().begin()->second.kind, MediaTrouble::Kind::replaced);
  EXPECT_EQ(doc().pool().size(), 3u);
}

TEST_F(Keeping, OneDamagedRecordingLeavesTheOthersAndItsOwnGoodPart) {
  const auto folder = saved();
  doc().files().newSong();
  fs::resize_file(scratch / "Hat.wav", fs::file_size(scratch / "Hat.wav") / 2);
  fs::remove(scratch / "Overhead.wav");
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  EXPECT_EQ(doc().pool().size(), 2u);
  std::map<QString, MediaTrouble::Kind> kinds;
  for (const auto& [id, t] : doc().recordings().troubles())
    kinds[QString::fromStdString(doc().song().find(id)->name)] = t.kind;
  EXPECT_EQ(kinds.size(), 2u);
  EXPECT_EQ(kinds["Hat"], MediaTrouble::Kind::replaced) << "shortened, so another content";
  EXPECT_EQ(kinds["Overhead"], MediaTrouble::Kind::missing);
  doc().setStep(Step::takes);
  const auto* table = find<QTableWidget>("recordings table");
  std::map<QString, QString> states;
  for (int row = 0; row < table->rowCount(); ++row) {
    states[table->item(row, 0)->text()] = table->item(row, table->columnCount() - 1)->text();
    EXPECT_FALSE(table->item(row, table->columnCount() - 1)->toolTip().isEmpty());
  }
  EXPECT_EQ(states["Hat"], "another file");
  EXPECT_EQ(states["Overhead"], "missing");
  EXPECT_EQ(states["Kick In"], "ready");
  doc().setAsker([](auto&, auto&, auto&) { return true; });
  for (const auto& [id, t] : std::map(doc().recordings().troubles()))
    if (t.kind == MediaTrouble::Kind::replaced) doc().takesDesk().relink(id, scratch / "Hat.wav");
  doc().jobs().finishAll();
  EXPECT_EQ(doc().pool().size(), 3u) << "its good part is used";
}

TEST_F(Keeping, TheRecordingsSheetOffersWhatCanBeDone) {
  const auto folder = saved();
  doc().files().newSong();
  fs::copy_file(scratch / "Snare Top.wav", scratch / "Kick In.wav", fs::copy_options::overwrite_existing);
  window->takeIn({QString::fromStdString(folder.string())});
  doc().jobs().finishAll();
  doc().setAsker([](auto&, auto&, auto&) { return true; });
  QTimer::singleShot(0, window.get(), [&] {
    auto* sheet = QApplication::activeModalWidget();
    ASSERT_NE(sheet, nullptr);
    auto* use = sheet->findChild<QPushButton*>("use Kick In");
    ASSERT_NE(use, nullptr);
    use->click();
    doc().jobs().finishAll();
    sheet->close();
  });
  EXPECT_TRUE(run("song.recordings"));
  EXPECT_TRUE(doc().recordings().troubles().empty());
}

TEST_F(Keeping, ADamagedImportIsAskedAboutAndTheRestGoesIn) {
  fs::resize_file(scratch / "Hat.wav", fs::file_size(scratch / "Hat.wav") / 2);
  std::ofstream(scratch / "noise.wav") << "no sound at all";
  files << QString::fromStdString((scratch / "noise.wav").string());
  QStringList questions;
  doc().setAsker([&](const QString& title, auto&, auto&) { return questions << title, false; });
  window->takeIn(files, false);
  doc().jobs().finishAll();
  EXPECT_EQ(questions.size(), 1);
  EXPECT_EQ(doc().song().tracks.size(), 3u);
  EXPECT_TRUE(notice().contains("noise.wav")) << notice().toStdString();
  window->findChild<NoticeBar*>()->dismiss();
  EXPECT_TRUE(notice().contains("BPM")) << "the offer of the tempo heard waits behind what failed";
}

TEST_F(Keeping, APipeIsRefusedInsteadOfWaitedFor) {
  const auto pipe = scratch / "pipe.wav";
  ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
  window->takeIn({QString::fromStdString(pipe.string())}, false);
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().song().tracks.empty());
  EXPECT_TRUE(notice().contains("pipe.wav"));
}

TEST_F(Keeping, ExportNeverWritesOverARecordingAndACancelledOneLeavesTheEarlier) {
  import();
  const auto before = *readWholeFile(scratch / "Kick In.wav", 1 << 28);
  ExportSettings s;
  s.range = {Frames{0}, doc().song().end()};
  doc().printDesk().exportTo(s, scratch / "Kick In.wav");
  doc().jobs().finishAll();
  EXPECT_EQ(*readWholeFile(scratch / "Kick In.wav", 1 << 28), before);
  EXPECT_TRUE(notice().contains("Kick In.wav"));
  s.what = ExportWhat::tracks;
  doc().printDesk().exportTo(s, scratch.path());
  doc().jobs().finishAll();
  EXPECT_EQ(*readWholeFile(scratch / "Kick In.wav", 1 << 28), before);
  std::ofstream(scratch / "mix.wav") << "an earlier mix";
  s.what = ExportWhat::mix;
  doc().printDesk().exportTo(s, scratch / "mix.wav");
  doc().jobs().cancelAll();
  doc().jobs().finishAll();
  EXPECT_EQ(*readWholeFile(scratch / "mix.wav", 1 << 28), "an earlier mix");
}

TEST_F(Keeping, ExportWhileRecordingsAreStillReadIsRefused) {
  const auto folder = saved();
  ASSERT_TRUE(doc().files().open(folder));
  ASSERT_FALSE(doc().recordings().complete());
  doc().printDesk().exportTo({}, scratch / "mix.wav");
  EXPECT_TRUE(notice().contains("still being read"));
  doc().jobs().finishAll();
  EXPECT_FALSE(fs::exists(scratch / "mix.wav"));
}

TEST_F(Keeping, ImportsOfAnEarlierSongDoNotReachTheNewOne) {
  window->takeIn(files, false);
  doc().files().newSong();
  doc().jobs().finishAll();
  EXPECT_TRUE(doc().song().tracks.empty());
  EXPECT_TRUE(doc().song().media.empty());
}

TEST_F(Keeping, DamagedLibrariesAreSetAsideAndNeverOverwritten) {
  const auto state = fs::path(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation).toStdString());
  fs::create_directories(state);
  std::ofstream(state / "fades.json") << "{ my fades, damaged";
  QString problem;
  EXPECT_TRUE(FadeLibrary::fades(&problem).empty());
  EXPECT_TRUE(problem.contains("damaged"));
  ASSERT_TRUE(FadeLibrary::keep({"new", {}}));
  EXPECT_EQ(FadeLibrary::fades().size(), 1u);
  int aside = 0;
  for (const auto& e : fs::directory_iterator(state))
    if (e.path().string().find("damaged") != std::string::npos) {
      ++aside;
      EXPECT_EQ(*readWholeFile(e.path(), 1000), "{ my fades, damaged");
      fs::remove(e.path());
    }
  EXPECT_EQ(aside, 1);
  ASSERT_TRUE(FadeLibrary::drop("new"));
  // A groove of the same file name as a damaged one.
  Groove g{"lazy", {8, StepKind::straight, 50}, {4, 4}, std::vector<double>(8, 1), std::vector<double>(8, 0.5)};
  ASSERT_TRUE(GrooveLibrary::keep(g));
  const auto file = fs::directory_iterator(GrooveLibrary::folder())->path();
  std::ofstream(file) << "{ damaged groove";
  ASSERT_TRUE(GrooveLibrary::keep(g));
  aside = 0;
  for (const auto& e : fs::directory_iterator(GrooveLibrary::folder()))
    if (*readWholeFile(e.path(), 1 << 20) == "{ damaged groove") ++aside;
  EXPECT_EQ(aside, 1);
  fs::remove_all(GrooveLibrary::folder());
}

TEST_F(Keeping, DamagedSettingsAreKeptBeforeTheyAreWritten) {
  QString file;
  {
    QSettings s;
    s.setValue("night", false);
    s.sync();
    file = s.fileName();
  }
  const std::string damaged = "[General]\nnight=false\nkeys/clips.split";
  std::ofstream(file.toStdString()) << damaged;
  const auto sentence = keepDamagedSettings();
  ASSERT_TRUE(sentence);
  EXPECT_TRUE(sentence->contains("damaged"));
  const auto folder = fs::path(file.toStdString()).parent_path();
  int aside = 0;
  for (const auto& e : fs::directory_iterator(folder))
    if (e.path().string().find("damaged") != std::string::npos) {
      ++aside;
      EXPECT_EQ(*readWholeFile(e.path(), 1000), damaged);
      fs::remove(e.path());
    }
  EXPECT_EQ(aside, 1);
}

TEST_F(Keeping, NoticesStayUntilTheyAreSeenOneByOne) {
  doc().warn("first", "Kept copies", "song.kept");
  doc().warn("second");
  doc().warn("first", "Kept copies", "song.kept");
  EXPECT_EQ(notice(), "first");
  click(find<QToolButton>("notice seen"), {5, 5});
  EXPECT_EQ(notice(), "second");
  click(find<QToolButton>("notice seen"), {5, 5});
  EXPECT_TRUE(notice().isEmpty());
}

}  // namespace
}  // namespace ochron
