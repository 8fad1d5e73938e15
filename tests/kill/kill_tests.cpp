// The program ended at every call that changes the disk, and the disk full from every such call on: afterwards the
// project opens, and nothing that was on the disk before is gone.
#include <gtest/gtest.h>

#include <algorithm>
#include <fstream>
#include <sstream>

#include "edits/clip_edits.h"
#include "edits/mark_edits.h"
#include "edits/take_edits.h"
#include "files/content_id.h"
#include "media/audio_file.h"
#include "store/kept_copies.h"
#include "store/project.h"
#include "support/performance.h"
#include "support/process.h"
#include "support/scratch.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using test::Outcome;
using test::Scratch;

std::string bytesOf(const fs::path& file) {
  std::stringstream s;
  s << std::ifstream(file, std::ios::binary).rdbuf();
  return s.str();
}

bool holds(const Song& song, const std::string& marker) {
  return std::any_of(song.markers.begin(), song.markers.end(), [&](const Marker& m) { return m.name == marker; });
}

enum class How { kill, full };
std::ostream& operator<<(std::ostream& out, How how) { return out << (how == How::kill ? "kill" : "full"); }

struct Stopped : ::testing::TestWithParam<How> {
  void SetUp() override {
    test::Style style;
    style.bars = 2;
    const auto performance = test::perform(style);
    for (const char* name : {"K", "S"}) {
      fs::create_directories(home("pristine/P.ochron/media"));
      auto w = AudioFileWriter::create(home("pristine/P.ochron/media/") / (std::string(name) + ".wav"), {});
      ASSERT_TRUE(w && w->write(performance.mics[name[0] == 'K' ? 0 : 1]) && w->finish());
    }
  }
  /// A fresh project with a saved marker "old", where the runs work.
  fs::path fresh() {
    fs::remove_all(home("work"));
    fs::create_directories(home("work"));
    fs::copy(home("pristine"), home("work"), fs::copy_options::recursive);
    auto folder = home("work/P.ochron");
    Song song;
    std::vector<IncomingFile> files;
    for (const char* name : {"K", "S"}) {
      IncomingFile f;
      f.name = name;
      f.path = (folder / "media" / (std::string(name) + ".wav")).string();
      Progress progress;
      f.fingerprint = *contentId(f.path, progress);
      f.channels = 2;
      f.length = AudioFileReader::open(f.path)->info().length;
      files.push_back(f);
    }
    song = *importTake(song, files, {"take", {}, true, {}});
    song = *addMarker(song, Ticks{0}, Ticks{}, "old");
    EXPECT_TRUE(saveProject(song, folder));
    return folder;
  }
  fs::path home(const std::string& name) const { return scratch.path() / name; }

  Outcome run(std::vector<std::string> command, long at) {
    std::vector<std::string> all{"/usr/bin/env", std::string("LD_PRELOAD=") + OCHRON_STOP_LIBRARY,
                                 "OCHRON_STOP_AT=" + std::to_string(at),
                                 "OCHRON_STOP_HOW=" + std::string(GetParam() == How::kill ? "kill" : "full"),
                                 "OCHRON_STOP_IN=" + home("work").string()};
    for (const char* variable : {"XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "HOME", "TMPDIR"})
      all.push_back(std::string(variable) + "=" + home("work").string());
    all.insert(all.end(), command.begin(), command.end());
    return test::run(all);
  }
  Outcome free(const std::vector<std::string>& command) { return run(command, 1'000'000); }

  /// Runs the command stopped at its first, second... call until one run is not stopped; `check(run)` after each.
  template <class Prepare, class Check>
  void everywhere(const std::vector<std::string>& command, const Prepare& prepare, const Check& check) {
    int stops = 0;
    for (long at = 1;; ++at) {
      ASSERT_LT(at, 400) << "it never comes to its end";
      prepare();
      const auto r = run(command, at);
      const bool stopped = r.err.find("stopped") != std::string::npos;
      check(r, at);
      if (HasFatalFailure() || HasNonfatalFailure()) FAIL() << GetParam() << " at call " << at << ": " << r.err;
      if (!stopped) {
        EXPECT_EQ(r.status, 0) << "nothing stopped it: " << r.err;
        break;
      }
      ++stops;
    }
    EXPECT_GE(stops, 3) << "the calls were not seen";
  }
  void expectRecordingsAreWhole(const fs::path& folder) {
    for (const char* name : {"K.wav", "S.wav"})
      EXPECT_EQ(bytesOf(folder / "media" / name), bytesOf(home("pristine/P.ochron/media") / name));
  }
  Scratch scratch;
};

TEST_P(Stopped, SavingLeavesTheOldSongOrTheNewOneAndTheEdit) {
  fs::path folder;
  everywhere(
      {OCHRON_KEEPING_DRIVER, "save", home("work/P.ochron").string(), "new"}, [&] { folder = fresh(); },
      [&](const Outcome& r, long) {
        const auto song = openProject(folder);
        ASSERT_TRUE(song) << song.error().message;
        EXPECT_TRUE(holds(*song, "old"));
        if (r.status == 0) EXPECT_TRUE(holds(*song, "new"));
        expectRecordingsAreWhole(folder);
        // Once the autosave stood, the edit is in it or in the song.
        if (r.status != 4) return;
        const auto left = findAutosave(folder);
        EXPECT_TRUE(holds(*song, "new") || (left.song && holds(*left.song, "new")) || GetParam() == How::full);
      });
}

TEST_P(Stopped, AutosavingLeavesTheSavedSongAndTheAutosaveBefore) {
  fs::path folder;
  everywhere(
      {OCHRON_KEEPING_DRIVER, "edit", home("work/P.ochron").string(), "second"},
      [&] {
        folder = fresh();
        Song edited = *openProject(folder);
        edited = *addMarker(edited, Ticks{0}, Ticks{}, "first");
        ASSERT_TRUE(autosaveProject(edited, folder));
      },
      [&](const Outcome&, long) {
        const auto song = openProject(folder);
        ASSERT_TRUE(song) << song.error().message;
        EXPECT_TRUE(holds(*song, "old"));
        const auto left = findAutosave(folder);
        ASSERT_TRUE(left.song) << left.why;
        EXPECT_TRUE(holds(*left.song, "first") || holds(*left.song, "second"));
      });
}

TEST_P(Stopped, RecoveryNeverLosesTheSongThatWasNotSaved) {
  std::string out;
  everywhere(
      {OCHRON_KEEPING_DRIVER, "recover"},
      [&] {
        const auto folder = fresh();
        const auto r = free({OCHRON_KEEPING_DRIVER, "unsaved", (folder / "media" / "K.wav").string(), "mine"});
        ASSERT_EQ(r.status, 0) << r.err;
      },
      [&](const Outcome&, long) {
        // Whatever happened, the next start finds it.
        const auto r = free({OCHRON_KEEPING_DRIVER, "recover"});
        EXPECT_EQ(r.status, 0) << r.err;
        EXPECT_NE(r.out.find("mine"), std::string::npos);
      });
}

TEST_P(Stopped, AnExportIsThereWholeOrTheEarlierOneStays) {
  fs::path folder;
  std::string whole;
  everywhere(
      {OCHRON_KEEPING_DRIVER, "export", home("work/P.ochron").string(), home("work/mix.wav").string()},
      [&] {
        folder = fresh();
        ASSERT_EQ(free({OCHRON_CLI, "render", folder.string(), "--out", home("work/mix.wav").string()}).status, 0);
        whole = bytesOf(home("work/mix.wav"));
        std::ofstream(home("work/mix.wav")) << "the earlier mix";
        fs::remove_all(folder / "cache");
      },
      [&](const Outcome&, long) {
        const auto now = bytesOf(home("work/mix.wav"));
        EXPECT_TRUE(now == "the earlier mix" || now == whole) << now.size();
        expectRecordingsAreWhole(folder);
        ASSERT_TRUE(openProject(folder));
        // What the cache holds after that is good, or not used.
        fs::remove(home("work/mix.wav"));
        ASSERT_EQ(free({OCHRON_CLI, "render", folder.string(), "--out", home("work/mix.wav").string()}).status, 0);
        EXPECT_EQ(bytesOf(home("work/mix.wav")), whole);
      });
}

TEST_P(Stopped, TheCommandLinesOutputsAreAllThereOrTheEarlierOnesStay) {
  fs::path folder;
  std::map<std::string, std::string> good;
  const auto out = home("work/out");
  const std::vector<std::string> command{OCHRON_CLI,
                                         "quantize",
                                         home("work/P.ochron/media/K.wav").string(),
                                         home("work/P.ochron/media/S.wav").string(),
                                         "--tempo",
                                         "120",
                                         "--grid",
                                         "1/16",
                                         "--start",
                                         "0.5",
                                         "--out",
                                         out.string(),
                                         "--report",
                                         (out / "r.json").string()};
  fresh();
  ASSERT_EQ(free(command).status, 0);
  for (const char* name : {"K.wav", "S.wav", "r.json"}) good[name] = bytesOf(out / name);
  everywhere(
      command,
      [&] {
        folder = fresh();
        fs::create_directories(out);
        for (const char* name : {"K.wav", "S.wav", "r.json"}) std::ofstream(out / name) << "earlier " << name;
      },
      [&](const Outcome& r, long) {
        int fresh = 0, earlier = 0;
        for (const char* name : {"K.wav", "S.wav", "r.json"}) {
          const auto now = bytesOf(out / name);
          fresh += now == good[name] ? 1 : 0;
          earlier += now == std::string("earlier ") + name ? 1 : 0;
        }
        EXPECT_EQ(fresh + earlier, 3) << "each is whole";
        if (r.status == 0) EXPECT_EQ(fresh, 3);
        if (GetParam() == How::full && r.status != 0) EXPECT_EQ(earlier, 3) << "none of a run that failed";
        expectRecordingsAreWhole(folder);
      });
}

/// What a project sounds like now, to the bit.
struct StoppedPrint : Stopped {
  std::vector<float> mixOf(const fs::path& folder) {
    const auto file = home("work/heard.wav");
    fs::remove(file);
    const auto r = free({OCHRON_CLI, "render", folder.string(), "--out", file.string(), "--bits", "float"});
    EXPECT_EQ(r.status, 0) << r.err;
    auto reader = AudioFileReader::open(file);  // not its bytes: the file tells when it was written
    EXPECT_TRUE(reader);
    if (!reader) return {};
    std::vector<float> out(static_cast<std::size_t>(reader->info().length.value * reader->info().channels));
    EXPECT_TRUE(reader->read(out));
    return out;
  }
  std::vector<std::string> command(const std::string& what, const std::vector<std::string>& more = {}) {
    std::vector<std::string> out{OCHRON_CLI, what, home("work/P.ochron").string()};
    out.insert(out.end(), more.begin(), more.end());
    return out;
  }
  /// A project whose take is cut and moved apart, so that a print has something to do.
  fs::path edited() {
    const auto folder = fresh();
    auto song = openProject(folder);
    EXPECT_TRUE(song);
    song = splitAt(*song, song->sets.front().id, {Frames{30'000}}, Frames{480});
    EXPECT_TRUE(song);
    song = changeClips(*song, {song->sets.front().clips->at(1).id}, [](Clip& c) { c.gainDb = -6; });
    EXPECT_TRUE(song && saveProject(*song, folder));
    return folder;
  }
};

TEST_P(StoppedPrint, APrintIsThereOrTheEditsAreAndItSoundsTheSame) {
  fs::path folder;
  std::vector<float> heard;
  everywhere(
      command("print", {"--what", "all", "--depth", "clip"}),
      [&] {
        folder = edited();
        if (heard.empty()) heard = mixOf(folder);
      },
      [&](const Outcome&, long) {
        EXPECT_TRUE(mixOf(folder) == heard);
        expectRecordingsAreWhole(folder);
      });
}

TEST_P(StoppedPrint, TakingAPrintBackLeavesThePrintOrTheEdits) {
  fs::path folder;
  std::vector<float> heard;
  everywhere(
      command("unprint", {"--what", "all"}),
      [&] {
        folder = edited();
        if (heard.empty()) heard = mixOf(folder);
        ASSERT_EQ(free(command("print", {"--what", "all", "--depth", "clip"})).status, 0);
      },
      [&](const Outcome&, long) {
        EXPECT_TRUE(mixOf(folder) == heard);
        expectRecordingsAreWhole(folder);
      });
}

TEST_P(StoppedPrint, GatheringLeavesEveryRecordingWhereTheSongFindsIt) {
  fs::path folder;
  std::vector<float> heard;
  everywhere(
      command("gather"),
      [&] {
        folder = edited();
        fs::create_directories(home("work/elsewhere"));
        auto song = *openProject(folder);
        for (auto& m : song.media) {
          const auto there = home("work/elsewhere") / fs::path(m.path).filename();
          fs::rename(m.path, there);
          m.path = there.string();
        }
        ASSERT_TRUE(saveProject(song, folder));
        if (heard.empty()) heard = mixOf(folder);
      },
      [&](const Outcome&, long) {
        EXPECT_TRUE(mixOf(folder) == heard);
        for (const char* name : {"K.wav", "S.wav"})
          EXPECT_EQ(bytesOf(home("work/elsewhere") / name), bytesOf(home("pristine/P.ochron/media") / name));
      });
}

TEST_P(StoppedPrint, AHandOverIsThereWholeOrNotAtAll) {
  const auto out = home("work/over");
  everywhere(
      command("handover", {"--out", out.string(), "--recordings"}), [&] { edited(); },
      [&](const Outcome& r, long) {
        if (r.status == 0) EXPECT_TRUE(fs::exists(out));
        if (!fs::exists(out)) return;
        const auto check = free({OCHRON_CLI, "check-handover", out.string()});
        EXPECT_EQ(check.status, 0) << check.err;
      });
}

TEST_P(StoppedPrint, AnArchiveIsWholeOrTheEarlierOneStaysAndItsSongLikewise) {
  const auto file = home("work/P.zip");
  const auto again = home("work/again.ochron");
  std::vector<float> heard;
  everywhere(
      command("archive", {"--out", file.string()}),
      [&] {
        const auto folder = edited();
        if (heard.empty()) heard = mixOf(folder);
        std::ofstream(file) << "the earlier one";
      },
      [&](const Outcome&, long) {
        if (bytesOf(file) == "the earlier one") return;
        ASSERT_EQ(free({OCHRON_CLI, "from-archive", file.string(), "--out", again.string()}).status, 0);
        EXPECT_TRUE(mixOf(again) == heard);
        fs::remove_all(again);
      });
  everywhere(
      {OCHRON_CLI, "from-archive", file.string(), "--out", again.string()},
      [&] {
        edited();
        ASSERT_EQ(free(command("archive", {"--out", file.string()})).status, 0);
      },
      [&](const Outcome& r, long) {
        if (r.status == 0) EXPECT_TRUE(fs::exists(again));
        if (fs::exists(again / "song.json")) EXPECT_TRUE(mixOf(again) == heard);
      });
}

std::string nameOf(const ::testing::TestParamInfo<How>& p) { return p.param == How::kill ? "Killed" : "DiskFull"; }

INSTANTIATE_TEST_SUITE_P(Everywhere, StoppedPrint, ::testing::Values(How::kill, How::full), nameOf);
INSTANTIATE_TEST_SUITE_P(Everywhere, Stopped, ::testing::Values(How::kill, How::full), nameOf);

}  // namespace
}  // namespace ochron
