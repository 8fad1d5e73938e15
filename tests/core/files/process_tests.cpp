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
  Other other([&] { static auto lock = FolderLock::take(scratch.path()); });
  EXPECT_FALSE(mine->held());
  mine->release();
  EXPECT_TRUE(FolderLock::holderOf(scratch.path())) << "giving up a lost lock leaves the new one";
}

TEST(FolderLock, DamagedLockFilesAreNoLocks) {
  const Scratch scratch;
  for (const char* text : {"", "{", "null", "[1]", R"({"host": 3})", "\xff\xfe"}) {
    std::ofstream(scratch / "open.lock") << text;
    EXPECT_FALSE(FolderLock::holderOf(scratch.path())) << text;
  }
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
