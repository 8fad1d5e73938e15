#include "store/kept_copies.h"

#include <sys/stat.h>

#include <algorithm>
#include <array>
#include <ctime>

#include "files/atomic_file.h"
#include "files/file_names.h"
#include "store/project.h"
#include "store/song_json.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr std::size_t kLargestSong = std::size_t{1} << 30;

std::int64_t changedAt(const fs::path& file) {
  struct stat st {};
  return ::stat(file.c_str(), &st) == 0 ? st.st_mtim.tv_sec : 0;
}

std::string dated(std::int64_t when) {
  const std::time_t t = when;
  std::tm local{};
  ::localtime_r(&t, &local);
  std::array<char, 32> text{};
  std::strftime(text.data(), text.size(), "%Y-%m-%d %H.%M.%S", &local);
  return text.data();
}

}  // namespace

Result<KeptCopies::Copy> KeptCopies::takeFrom(const fs::path& folder, const std::string& name) {
  const auto file = folder / kAutosaveFile;
  Copy copy;
  copy.when = changedAt(file);
  const auto found = findAutosave(folder);
  copy.name = found.song && !found.song->name.empty() ? found.song->name : name;
  copy.damaged = found.state == Autosave::State::damaged;
  const auto title = fileNameFor(copy.name) + ", " + dated(copy.when);
  std::error_code ec;
  copy.folder = home_ / (title + kProjectEnding);
  for (int n = 2; fs::exists(copy.folder, ec); ++n)
    copy.folder = home_ / (title + ", " + std::to_string(n) + kProjectEnding);
  if (copy.damaged) {
    auto text = readWholeFile(file, kLargestSong);
    if (!text) return tl::unexpected(text.error());
    fs::create_directories(copy.folder, ec);
    if (auto ok = writeAtomically(copy.folder / kAutosaveFile, *text); !ok) return tl::unexpected(ok.error());
  } else if (found.song) {
    if (auto ok = saveProject(*found.song, copy.folder); !ok) return tl::unexpected(ok.error());
  }
  discardAutosave(folder);
  return copy;
}

std::vector<KeptCopies::Copy> KeptCopies::list() const {
  std::vector<Copy> out;
  std::error_code ec;
  for (fs::directory_iterator at(home_, ec); !ec && at != fs::directory_iterator(); at.increment(ec)) {
    Copy c;
    c.folder = at->path();
    const auto title = c.folder.stem().string();
    c.name = title.substr(0, title.find(", "));
    std::error_code one;
    c.damaged = !fs::exists(c.folder / kSongFile, one);
    c.when = changedAt(c.folder / (c.damaged ? kAutosaveFile : kSongFile));
    if (c.when > 0) out.push_back(std::move(c));
  }
  std::sort(out.begin(), out.end(), [](const Copy& a, const Copy& b) { return a.when > b.when; });
  return out;
}

void KeptCopies::remove(const Copy& copy) {
  std::error_code ec;
  fs::remove_all(copy.folder, ec);
}

}  // namespace ochron
