// The command line against what hurts: outputs over inputs, failing runs, hostile files, odd folders, odd numbers.
#include <gtest/gtest.h>
#include <signal.h>
#include <sndfile.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fstream>
#include <nlohmann/json.hpp>
#include <random>
#include <sstream>

#include "edits/take_edits.h"
#include "files/content_id.h"
#include "media/audio_file.h"
#include "store/project.h"
#include "support/cli.h"
#include "support/performance.h"
#include "support/process.h"
#include "support/scratch.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using Json = nlohmann::json;
using test::cli;
using test::Outcome;
using test::Scratch;

std::string bytesOf(const fs::path& file) {
  std::stringstream s;
  s << std::ifstream(file, std::ios::binary).rdbuf();
  return s.str();
}

void expectOneLine(const Outcome& r, int status = 2) {
  EXPECT_EQ(r.status, status) << r.out << r.err;
  EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), 1) << r.err;
}

std::size_t countIn(const fs::path& folder) {
  return static_cast<std::size_t>(std::distance(fs::directory_iterator(folder), {}));
}

struct Takes : ::testing::Test {
  void SetUp() override {
    test::Style style;
    style.bars = 4;
    performance = test::perform(style);
    write("K.wav", performance.mics[0]);
    write("S.wav", performance.mics[1]);
  }
  void write(const std::string& name, const std::vector<float>& samples, FileFormat format = FileFormat::wav) {
    auto w = AudioFileWriter::create(scratch / name, {format, SampleFormat::pcm16, 48'000, 1});
    ASSERT_TRUE(w && w->write(samples) && w->finish());
  }
  std::vector<std::string> quantize(std::vector<std::string> more) const {
    std::vector<std::string> args{"quantize", path("K.wav"), "--tempo", "120", "--grid", "1/16", "--start", "0.5"};
    args.insert(args.end(), more.begin(), more.end());
    return args;
  }
  std::string path(const std::string& name) const { return (scratch / name).string(); }
  /// A project folder with both recordings in its media folder.
  fs::path project() {
    auto folder = scratch / "P.ochron";
    fs::create_directories(folder / "media");
    Song song;
    std::vector<IncomingFile> files;
    for (const char* name : {"K", "S"}) {
      fs::copy_file(scratch / (std::string(name) + ".wav"), folder / "media" / (std::string(name) + ".wav"));
      IncomingFile f;
      f.name = name;
      f.path = (folder / "media" / (std::string(name) + ".wav")).string();
      f.length = Frames{std::ssize(performance.mics[0])};
      files.push_back(f);
    }
    song = *importTake(song, files, {"take", {}, true, {}});
    EXPECT_TRUE(saveProject(song, folder));
    return folder;
  }
  Scratch scratch;
  test::Performance performance;
};

TEST_F(Takes, RenderNeverWritesOverTheSongsOwnRecordings) {
  const auto p = project();
  const auto before = bytesOf(p / "media" / "K.wav");
  fs::create_symlink(p / "media" / "K.wav", scratch / "link.wav");
  fs::create_hard_link(p / "media" / "K.wav", scratch / "hard.wav");
  for (const auto& out : {(p / "media" / "K.wav").string(), path("link.wav"), path("hard.wav"),
                          (p / "media" / ".." / "media" / "K.wav").string()})
    expectOneLine(cli({"render", p.string(), "--out", out}));
  expectOneLine(cli({"render", p.string(), "--stems", "--out", (p / "media").string()}));
  EXPECT_EQ(bytesOf(p / "media" / "K.wav"), before);
  EXPECT_EQ(countIn(p / "media"), 2u);
}

TEST_F(Takes, NoOutputOfACallIsARecordingItReads) {
  const auto before = bytesOf(scratch / "K.wav");
  for (const auto& more : std::vector<std::vector<std::string>>{{"--out", path("out"), "--report", path("K.wav")},
                                                                {"--out", path("out"), "--take-groove", path("K.wav")},
                                                                {"--out", scratch.path().string()}})
    expectOneLine(cli(quantize(more)));
  EXPECT_EQ(bytesOf(scratch / "K.wav"), before);
  EXPECT_FALSE(fs::exists(scratch / "out")) << "nothing half done";
}

TEST_F(Takes, AFailingRunLeavesTheOutputsOfAnEarlierOne) {
  ASSERT_EQ(cli(quantize({"--out", path("out"), "--report", path("r.json")})).status, 0);
  const auto sound = bytesOf(scratch / "out" / fs::path("K.wav"));
  const auto report = bytesOf(scratch / "r.json");
  ASSERT_FALSE(sound.empty());
  std::ofstream(scratch / "nodir") << "a file";
  expectOneLine(cli(quantize({"--out", path("out"), "--strength", "50", "--report", path("nodir/r.json")})));
  EXPECT_EQ(bytesOf(scratch / "out" / fs::path("K.wav")), sound);
  EXPECT_EQ(bytesOf(scratch / "r.json"), report);
  EXPECT_EQ(countIn(scratch / "out"), 1u);
}

TEST_F(Takes, AReportWithoutAFolderIsWrittenWhereTheCallIs) {
  const auto r = test::run({"/bin/sh", "-c",
                            "cd " + scratch.path().string() + " && " + OCHRON_CLI +
                                " quantize K.wav --tempo 120 --grid 1/16 --out out --report r.json"});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_TRUE(Json::accept(bytesOf(scratch / "r.json")));
}

TEST_F(Takes, TwoRecordingsOfOneLengthWithSilentEndsKeepTheirSound) {
  std::vector<float> a(1'200'000, 0.0F), b = a;
  for (std::size_t i = 0; i < 2000; ++i) a[600'000 + i] = 0.5F, b[650'000 + i] = -0.25F;
  write("a.wav", a), write("b.wav", b);
  const auto r = cli({"quantize", path("a.wav"), path("b.wav"), "--tempo", "120", "--grid", "1/16", "--strength", "0",
                      "--out", path("out")});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_EQ(bytesOf(scratch.path() / "out" / "b.wav"), bytesOf(scratch / "b.wav"));
  EXPECT_EQ(bytesOf(scratch.path() / "out" / "a.wav"), bytesOf(scratch / "a.wav"));
}

TEST_F(Takes, NumbersThatAreNoneAreWrongUse) {
  const std::vector<std::string> bad{"nan", "inf", "-inf", "1e999", "", "12x", "0x10", "1,5"};
  for (const char* option : {"--strength", "--tempo", "--start", "--keep-drift", "--keep-pocket", "--keep-scatter",
                             "--swing", "--sensitivity"})
    for (const auto& value : bad) {
      const auto r = cli(quantize({std::string(option) + "=" + value, "--out", path("out")}));
      EXPECT_EQ(r.status, 1) << option << "=" << value << r.err;
    }
  EXPECT_FALSE(fs::exists(scratch / "out"));
}

TEST_F(Takes, ARangeIsBoundedByTheSong) {
  const auto p = project();
  for (const char* range : {"1-1000000", "900-901", "0-3", "3-1", "-5--2", "1-99999999999999999999"}) {
    const auto r = cli({"render", p.string(), "--out", path("x.wav"), "--range", range});
    EXPECT_NE(r.status, 0) << range;
    EXPECT_FALSE(fs::exists(scratch / "x.wav")) << range;
  }
  EXPECT_EQ(cli({"render", p.string(), "--out", path("x.wav"), "--range", "1-2"}).status, 0);
}

TEST_F(Takes, MidiIsKnownHoweverItsNameIsWritten) {
  for (const char* name : {"g.midi", "g.MID"}) {
    ASSERT_EQ(cli(quantize({"--out", path("out"), "--take-groove", path(name)})).status, 0);
    EXPECT_EQ(bytesOf(scratch / name).substr(0, 4), "MThd") << name;
    EXPECT_EQ(cli(quantize({"--out", path("out"), "--groove", path(name)})).status, 0) << name;
  }
}

TEST_F(Takes, AFormatIsWhatIsInsideNotWhatTheNameSays) {
  SF_INFO info{};
  info.samplerate = 48'000, info.channels = 1, info.format = SF_FORMAT_MPEG | SF_FORMAT_MPEG_LAYER_III;
  SNDFILE* mp3 = sf_open(path("x.flac").c_str(), SFM_WRITE, &info);
  ASSERT_NE(mp3, nullptr) << sf_strerror(nullptr);
  sf_writef_float(mp3, performance.mics[0].data(), 96'000);
  sf_close(mp3);
  const auto r = cli({"quantize", path("x.flac"), "--tempo", "120", "--grid", "1/16", "--out", path("out")});
  expectOneLine(r);
  EXPECT_FALSE(fs::exists(scratch.path() / "out" / "x.flac"));
}

TEST_F(Takes, OddFoldersAreOneSentence) {
  const auto p = project();
  const auto inside = test::run({"/bin/sh", "-c", "cd " + p.string() + " && " + OCHRON_CLI + " info song.json"});
  EXPECT_EQ(inside.status, 0) << inside.err;
  expectOneLine(cli({"render", "", "--out", path("x.wav")}));
  expectOneLine(test::run({"/usr/bin/env", "TMPDIR=" + path("none"), OCHRON_CLI, "hits", path("K.wav")}));
  fs::create_directory(scratch / "\xff\xfe");
  fs::copy_file(scratch / "K.wav", scratch / fs::path("\xff\xfe") / "\xe9.wav");
  const auto r = cli({"hits", (scratch / fs::path("\xff\xfe") / "\xe9.wav").string(), "--json"});
  EXPECT_EQ(r.status, 0) << r.err;
  EXPECT_TRUE(Json::accept(r.out)) << "names that are no text do not break the JSON";
}

TEST_F(Takes, NamesOf250BytesComeOut) {
  const auto name = std::string(246, 'n') + ".wav";
  fs::copy_file(scratch / "K.wav", scratch / name);
  const auto r = cli({"quantize", path(name), "--tempo", "120", "--grid", "1/16", "--out", path("out")});
  ASSERT_EQ(r.status, 0) << r.err;
  EXPECT_TRUE(fs::exists(scratch.path() / "out" / name));
}

TEST_F(Takes, AMidiGrooveWithHugeTicksIsRefused) {
  std::string track;
  const auto put = [&](std::initializer_list<int> bytes) {
    for (const int b : bytes) track.push_back(static_cast<char>(b));
  };
  for (int i = 0; i < 20'000; ++i) put({0xff, 0xff, 0xff, 0x7f, 0x90, 36, 100});
  put({0, 0xff, 0x2f, 0});
  std::string file("MThd\0\0\0\6\0\0\0\1\0\1MTrk", 18);
  for (int i = 3; i >= 0; --i) file.push_back(static_cast<char>(track.size() >> (8 * i)));
  std::ofstream(scratch / "huge.mid", std::ios::binary) << file + track;
  expectOneLine(cli(quantize({"--out", path("out"), "--groove", path("huge.mid")})));
}

TEST_F(Takes, CutFilesAreRefusedUnlessDamageIsAccepted) {
  auto bytes = bytesOf(scratch / "K.wav");
  std::ofstream(scratch / "cut.wav", std::ios::binary) << bytes.substr(0, bytes.size() / 2);
  const auto r = cli({"hits", path("cut.wav")});
  expectOneLine(r);
  EXPECT_NE(r.err.find("--accept-damaged"), std::string::npos) << r.err;
  const auto taken = cli({"hits", path("cut.wav"), "--accept-damaged", "--json"});
  EXPECT_EQ(taken.status, 0) << taken.err;
  EXPECT_GT(Json::parse(taken.out)["hits"].size(), 0u);
}

TEST_F(Takes, ARecordingThatWasReplacedIsNotPlayedInItsPlace) {
  const auto p = project();
  ASSERT_EQ(cli({"render", p.string(), "--out", path("x.wav")}).status, 0);
  auto song = *openProject(p);
  Progress progress;
  for (auto& m : song.media) m.fingerprint = *contentId(m.path, progress);
  ASSERT_TRUE(saveProject(song, p));
  ASSERT_EQ(cli({"render", p.string(), "--out", path("x.wav")}).status, 0);
  fs::copy_file(scratch / "S.wav", p / "media" / "K.wav", fs::copy_options::overwrite_existing);
  const auto r = cli({"render", p.string(), "--out", path("y.wav")});
  expectOneLine(r);
  EXPECT_NE(r.err.find("K.wav"), std::string::npos);
  EXPECT_FALSE(fs::exists(scratch / "y.wav"));
}

TEST_F(Takes, AReadOnlyProjectRendersWithItsCacheElsewhere) {
  const auto p = project();
  const auto before = countIn(p);
  fs::permissions(p, fs::perms::owner_read | fs::perms::owner_exec);
  const auto r = test::run({"/usr/bin/env", "XDG_CACHE_HOME=" + path("cache home"), OCHRON_CLI, "render", p.string(),
                            "--out", path("x.wav")});
  fs::permissions(p, fs::perms::owner_all);
  EXPECT_EQ(r.status, 0) << r.err;
  EXPECT_TRUE(fs::exists(scratch / "x.wav"));
  if (::geteuid() != 0) EXPECT_EQ(countIn(p), before);
}

TEST_F(Takes, AnInterruptedRunLeavesNothingAndEndsByItsSignal) {
  // Long enough to be caught under way.
  std::vector<float> lasting;
  for (int i = 0; i < 60; ++i) lasting.insert(lasting.end(), performance.mics[0].begin(), performance.mics[0].end());
  write("long.wav", lasting);
  fs::create_directory(scratch / "tmp");
  const auto child = ::fork();
  if (child == 0) {
    ::setenv("TMPDIR", path("tmp").c_str(), 1);
    ::execl(OCHRON_CLI, OCHRON_CLI, "quantize", path("long.wav").c_str(), "--tempo", "120", "--grid", "1/16", "--out",
            path("out").c_str(), nullptr);
    ::_exit(127);
  }
  // Until it has begun to write something.
  for (int i = 0; i < 500 && countIn(scratch / "tmp") == 0; ++i) ::usleep(10'000);
  ::kill(child, SIGINT);
  int status = 0;
  ::waitpid(child, &status, 0);
  EXPECT_TRUE(WIFSIGNALED(status) && WTERMSIG(status) == SIGINT) << status;
  EXPECT_EQ(countIn(scratch / "tmp"), 0u);
  EXPECT_TRUE(!fs::exists(scratch / "out") || fs::is_empty(scratch / "out"));
}

TEST_F(Takes, HostileFilesAreRefusedQuietlyAndTakeNoSpace) {
  int tried = 0;
  for (const auto& entry : fs::directory_iterator(fs::path(OCHRON_SOURCE_DIR) / "fuzz" / "corpus" / "audio")) {
    ++tried;
    for (const auto& more : {std::vector<std::string>{}, std::vector<std::string>{"--accept-damaged"}}) {
      fs::create_directories(scratch / "tmp");
      std::vector<std::string> args{"/usr/bin/env", "TMPDIR=" + path("tmp"), OCHRON_CLI, "hits", entry.path().string()};
      args.insert(args.end(), more.begin(), more.end());
      const auto r = test::run(args);
      EXPECT_TRUE(r.status == 0 || r.status == 2) << entry.path() << r.status << r.err;
      EXPECT_EQ(std::count(r.err.begin(), r.err.end(), '\n'), r.status == 0 ? 0 : 1) << entry.path() << r.err;
      EXPECT_TRUE(fs::is_empty(scratch / "tmp"));
    }
  }
  EXPECT_GT(tried, 5);
}

}  // namespace
}  // namespace ochron
