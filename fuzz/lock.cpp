// The lock file of a folder, as another version or a damaged disk may have left it.
#include <unistd.h>

#include <filesystem>
#include <fstream>
#include <string>

#include "files/folder_lock.h"
#include "fuzz/check.h"

using namespace ochron;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const auto folder = std::filesystem::path("/tmp") / ("ochron-fuzz-lock-" + std::to_string(::getpid()));
  std::filesystem::create_directories(folder);
  std::ofstream(folder / "open.lock", std::ios::binary)
      .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  if (const auto holder = FolderLock::holderOf(folder)) OCHRON_HOLDS(!holder->described().empty());
  std::filesystem::remove_all(folder);
  return 0;
}
