// Who runs, who has a folder open, and what killed processes leave behind.
#include <gtest/gtest.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fstream>

#include "files/folder_lock.h"
#include "files/process_id.h"
#include "files/temporary.h"
#include "support/scratch.h"

namespace ochron {
namespace {
namespace fs = std::filesystem;
using test::Scratch;

/// A process that runs `body` and then waits until the test ends it.
class Other {
 public:
  template <class Body>
  explicit Other(const Body& body) {
    int ends[2];
    EXPECT_EQ(::pipe(ends), 0);
    pid_ = ::fork();
    if (pid_ == 0) {
      body();
      (void)!::write(ends[1], "r", 1);
      for (;;) ::pause();
    }
    char ready = 0;
    EXPECT_EQ(::read(ends[0], &ready, 1), 1);
    ::close(ends[0]), ::close(ends[1]);
  }
  ~Other() { kill(); }
  void kill() {
    if (pid_ <= 0) return;
    ::kill(pid_, SIGKILL);
    ::waitpid(pid_, nullptr, 0);
    pid_ = -1;
  }
  pid_t pid() const { return pid_; }

 private:
  pid_t pid_ = -1;
};

TEST(ProcessId, ThisProcessRunsAndIsReadBackFromItsText) {
  EXPECT_EQ(lifeOf(thisProcess()), Life::running);
  const auto back = fromShortText(shortText(thisProcess()));
  ASSERT_TRUE(back);
  EXPECT_EQ(*back, thisProcess());
  for (const char* bad : {"", "12", "x-y", "12-", "-5-3", "12-3-4", "99999999999999999999-1"})
    EXPECT_FALSE(fromShortText(bad)) << bad;
}

TEST(ProcessId, ANumberThatAnotherProcessHasNowIsNotTheSameProcess) {
  auto other = thisProcess();
  other.started += 1;
  EXPECT_EQ(lifeOf(other), Life::gone);
}

TEST(ProcessId, AProcessOfAnotherMachineIsUnknownAndOneOfAnEarlierStartIsGone) {
  auto far = thisProcess();
  far.host += "-elsewhere";
  EXPECT_EQ(lifeOf(far), Life::unknown);
  auto early = thisProcess();
  early.boot += "0";
  EXPECT_EQ(lifeOf(early), Life::gone);
}

TEST(FolderLock, IsSeenByOtherProcessesAndGoneWithItsOwner) {
  const Scratch scratch;
  Other other([&] { static auto lock = FolderLock::take(scratch.path()); });
  const auto holder = FolderLock::holderOf(scratch.path());
  ASSERT_TRUE(holder);
  EXPECT_EQ(holder->process.number, other.pid());
  EXPECT_NE(holder->described().find("since"), std::string::npos) << holder->described();
  other.kill();
  EXPECT_FALSE(FolderLock::holderOf(scratch.path())) << "a lock of a process that is gone is stale";
}

TEST(FolderLock, TakingItOverIsNoticedByTheOneThatHadIt) {
  const Scratch scratch;
  auto mine = FolderLock::take(scratch.path());
  ASSERT_TRUE(mine && mine->held());
  EXPECT_FALSE(FolderLock::holderOf(scratch.path())) << "held by this process";
  Other second([&] {
    if (FolderLock::take(scratch.path())) std::ofstream(scratch / "both have it");
  });
  EXPECT_FALSE(std::filesystem::exists(scratch / "both have it")) << "a lock that is held is not taken by the way";
  EXPECT_TRUE(mine->held());
  Other other([&] { static auto lock = FolderLock::takeOver(scratch.path()); });
  EXPECT_FALSE(mine->held());
  mine->release();
  EXPECT_TRUE(FolderLock::holderOf(scratch.path())) << "giving up a lost lock leaves the new one";
}

TEST(FolderLock, OneWhoseProcessNumberMeansNothingHereIsProvedByTheKernel) {
  const Scratch scratch;
  Other other([&] { static auto lock = FolderLock::take(scratch.path()); });
  // As a holder in a container writes it: another host name, a number that runs nothing here.
  const auto text = [&](const char* boot) {
    return "orthochron lock 1\nhost container\nboot " + std::string(boot) + "\nprocess 999999\nstarted 1\nsince 1\n";
  };
  std::ofstream(scratch / "open.lock") << text(thisProcess().boot.c_str());
  EXPECT_TRUE(FolderLock::holderOf(scratch.path())) << "it lives: the kernel holds its lock";
  EXPECT_FALSE(FolderLock::take(scratch.path()));
  other.kill();
  EXPECT_FALSE(FolderLock::holderOf(scratch.path())) << "it is gone, and it was of this very kernel";
  std::ofstream(scratch / "open.lock") << text("another start");
  EXPECT_TRUE(FolderLock::holderOf(scratch.path())) << "another machine is believed";
}

TEST(FolderLock, DamagedLockFilesAreNoLocks) {
  const Scratch scratch;
  for (const char* text : {"", "{", "null", "[1]", R"({"host": 3})", "\xff\xfe"}) {
    std::ofstream(scratch / "open.lock") << text;
    EXPECT_FALSE(FolderLock::holderOf(scratch.path())) << text;
  }
}

TEST(Outputs, ASetOfAProcessThatWasKilledInTheMiddleIsCompletedByTheNext) {
  const Scratch scratch;
  fs::create_directories(scratch / "other");
  const std::vector<fs::path> targets{scratch / "a", scratch / "b", scratch / "other" / "c"};
  for (const auto& t : targets) std::ofstream(t) << "old";
  Other other([&] {
    std::vector<SetEntry> set;
    for (const auto& t : targets) {
      set.push_back({partBeside(t), t, partBeside(t)});
      std::ofstream(set.back().part) << "new";
    }
    for (const auto& folder : {scratch.path(), scratch / "other"})
      if (!listSet(folder, set)) std::abort();
    fs::create_hard_link(set[0].target, set[0].earlier);
    fs::rename(set[0].part, set[0].target);  // and then it is ended
  });
  other.kill();
  // Whoever comes to one of the folders first, be it the last one.
  removeStaleParts(scratch / "other");
  removeStaleParts(scratch.path());
  for (const auto& t : targets) {
    std::string text;
    std::getline(std::ifstream(t) >> std::ws, text);
    EXPECT_EQ(text, "new") << t;
  }
  EXPECT_EQ(std::distance(fs::directory_iterator(scratch.path()), fs::directory_iterator()), 3)
      << "nothing else is left";
  EXPECT_EQ(std::distance(fs::directory_iterator(scratch / "other"), fs::directory_iterator()), 1);
}

TEST(Temporaries, NamesAreShortHiddenAndNeverTheSame) {
  const Scratch scratch;
  const auto target = scratch / std::string(250, 'x');
  const auto a = partBeside(target);
  const auto b = partBeside(target);
  EXPECT_NE(a, b);
  EXPECT_EQ(a.parent_path(), scratch.path());
  EXPECT_TRUE(a.filename().string().starts_with("."));
  EXPECT_LT(a.filename().string().size(), 100u);
  forgetPart(a), forgetPart(b);
}

TEST(Temporaries, WhatAKilledProcessLeftIsRemovedAndTheRestStays) {
  const Scratch scratch;
  const auto note = scratch / "part's name";
  std::ofstream(scratch / "song.wav") << "mine";
  std::ofstream(scratch / ".hidden.part") << "mine too";
  const auto own = partBeside(scratch / "song.wav");
  std::ofstream(own) << "being written";
  fs::path left;
  {
    Other other([&] {
      const auto part = partBeside(scratch / "song.wav");
      std::ofstream(part) << "half";
      std::ofstream(note) << part.string();
    });
    std::string name;
    std::ifstream in(note);
    std::getline(in, name);
    left = name;
    removeStaleParts(scratch.path());
    EXPECT_TRUE(fs::exists(left)) << "its writer still runs";
  }
  removeStaleParts(scratch.path());
  EXPECT_FALSE(fs::exists(left));
  EXPECT_TRUE(fs::exists(own));
  EXPECT_TRUE(fs::exists(scratch / "song.wav"));
  EXPECT_TRUE(fs::exists(scratch / ".hidden.part"));
  removeOwnTemporaries();
  EXPECT_FALSE(fs::exists(own));
}

TEST(Temporaries, AScratchFolderIsGoneAfterwardsAndAMissingTemporaryFolderIsSaid) {
  fs::path where;
  {
    auto folder = ScratchFolder::make();
    ASSERT_TRUE(folder);
    where = folder->path();
    std::ofstream(where / "x") << "x";
  }
  EXPECT_FALSE(fs::exists(where));
  const Scratch scratch;
  const char* before = ::getenv("TMPDIR");
  const std::string old = before ? before : "";
  ::setenv("TMPDIR", (scratch / "none").c_str(), 1);
  const auto none = ScratchFolder::make();
  before ? ::setenv("TMPDIR", old.c_str(), 1) : ::unsetenv("TMPDIR");
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().message.find("none"), std::string::npos) << none.error().message;
}

}  // namespace
}  // namespace ochron
