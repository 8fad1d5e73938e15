// Plays one LV2 plug-in for another process, through memory that both share: what ends this process costs that one
// nothing but the effect. `orthochron-effects --list` tells which plug-ins there are.

#include <sched.h>
#include <sys/mman.h>
#include <unistd.h>

#include <cstdio>
#include <cstdlib>
#include <cstring>
#include <filesystem>
#include <new>
#include <string>

#include "base/denormals.h"
#include "listing.h"
#include "plugin.h"

namespace {

using ochron::SharedBlock;

constexpr int kMemory = 3;                    // descriptor that the memory comes as
constexpr int kLooks = 2'000;                 // before it sleeps
constexpr std::int64_t kSleep = 200'000'000;  // ns, then it looks whether anybody is there

void say(SharedBlock& block, const std::string& why) {
  std::strncpy(block.message.data(), why.c_str(), block.message.size() - 1);
  block.state.store(SharedBlock::failed, std::memory_order_release);
}

/// Waits for the next block; false when the caller is gone.
bool next(SharedBlock& block, ochron::effects::Plugin& plugin, std::uint32_t done, pid_t caller) {
  for (int i = 0; i < kLooks; ++i)
    if (block.asked.load(std::memory_order_acquire) != done) return true;
  while (true) {
    block.effectSleeps.store(1);
    if (block.asked.load() == done) ochron::sleepWhile(block.asked, done, kSleep);
    block.effectSleeps.store(0);
    if (block.asked.load(std::memory_order_acquire) != done) return true;
    if (::getppid() != caller) return false;
    if (block.live != 0) plugin.idle();
  }
}

/// The effects that come with the program are looked for beside it, after all others.
void offerOwn() {
  std::error_code ec;
  const auto own = std::filesystem::read_symlink("/proc/self/exe", ec).parent_path().parent_path() / "lib" / "lv2";
  const char* set = std::getenv("LV2_PATH");
  const char* home = std::getenv("HOME");
  std::string path = set ? set
                         : (home ? std::string(home) + "/.lv2:" : std::string()) +
                               "/usr/local/lib/lv2:/usr/lib/lv2:/usr/lib/x86_64-linux-gnu/lv2:"
                               "/usr/lib/aarch64-linux-gnu/lv2";
  ::setenv("LV2_PATH", (path + ":" + own.string()).c_str(), 1);
}

int play(const std::string& uri, const std::string& bundle, const std::string& state) {
  void* memory = ::mmap(nullptr, sizeof(SharedBlock), PROT_READ | PROT_WRITE, MAP_SHARED, kMemory, 0);
  if (memory == MAP_FAILED) return 1;
  auto& block = *std::launder(static_cast<SharedBlock*>(memory));
  const pid_t caller = ::getppid();
  const ochron::FlushDenormals quick;
  ochron::effects::Plugin plugin;
  if (const auto why = plugin.start(uri, bundle, state, block); !why.empty()) return say(block, why), 1;
  // As urgent as the thread that waits for it, where this user may.
  if (block.live != 0) {
    sched_param urgent{};
    urgent.sched_priority = 1;
    ::sched_setscheduler(0, SCHED_FIFO, &urgent);
  }
  // Some plug-ins know their latency only once they have run.
  plugin.idle();
  block.state.store(SharedBlock::ready, std::memory_order_release);
  for (std::uint32_t done = 0; next(block, plugin, done, caller);) {
    const auto asked = block.asked.load(std::memory_order_acquire);
    plugin.run();
    done = asked;
    block.answered.store(done);
    if (block.callerSleeps.load() != 0) ochron::wake(block.answered);
  }
  return 0;
}

}  // namespace

int main(int count, char** words) {
  if (count == 2 && std::string(words[1]) == "--list") {
    offerOwn();
    std::fputs(ochron::effects::listing().c_str(), stdout);
    return 0;
  }
  if (count == 5 && std::string(words[1]) == "--state") {
    offerOwn();
    ochron::effects::Plugin plugin;
    return plugin.keepPreset(words[2], words[3], words[4]).empty() ? 0 : 1;
  }
  if (count == 4) return play(words[1], words[2], words[3]);
  std::fputs("orthochron-effects plays effects for Orthochron. By hand only: orthochron-effects --list\n", stderr);
  return 1;
}
