#include "store/gather.h"

#include <algorithm>

#include "files/atomic_file.h"
#include "files/content_id.h"
#include "files/file_names.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kMediaFolder = "media";

bool inside(const fs::path& file, const fs::path& folder) {
  const auto relative = absolutePath(file).lexically_relative(absolutePath(folder));
  return !relative.empty() && *relative.begin() != "..";
}

}  // namespace

Result<void> copyRecording(const Media& m, const fs::path& to, Progress& progress) {
  const auto part = to.parent_path() / ("." + to.filename().string() + ".part");
  std::error_code ec;
  const auto failed = [&](const std::string& why, const std::string& detail = {}) {
    fs::remove(part, ec);
    return fail(ErrorKind::ioFailed, m.path + why, detail);
  };
  fs::copy_file(m.path, part, fs::copy_options::overwrite_existing, ec);
  if (ec) return failed(" could not be copied. Check that it is there and that there is room for it.", ec.message());
  const auto content = contentId(part, progress);
  if (!content) {
    fs::remove(part, ec);
    return tl::unexpected(content.error());
  }
  if (isContentId(m.fingerprint) && *content != m.fingerprint)
    return failed(
        " is not the recording that the song was made with. Put the old one back, or take the new one in "
        "the window.");
  fs::rename(part, to, ec);
  if (ec) return failed(" could not be put in its place.", ec.message());
  return {};
}

std::vector<MediaId> lyingElsewhere(const Song& song, const fs::path& folder) {
  std::vector<MediaId> out;
  for (const auto& m : song.media)
    if (!inside(m.path, folder)) out.push_back(m.id);
  return out;
}

Result<Song> gatherRecordings(const Song& song, const fs::path& folder, std::vector<fs::path>& copied,
                              Progress& progress) {
  const auto elsewhere = lyingElsewhere(song, folder);
  const auto home = folder / kMediaFolder;
  std::error_code ec;
  if (!elsewhere.empty()) fs::create_directories(home, ec);
  if (ec)
    return fail(ErrorKind::ioFailed, home.string() + " could not be made. Check that you may write there.",
                ec.message());
  Song next = song;
  const auto takeBack = [&](const Error& why) {
    for (const auto& file : copied) fs::remove(file, ec);
    copied.clear();
    return tl::unexpected(why);
  };
  std::size_t done = 0;
  for (auto& m : next.media) {
    if (std::find(elsewhere.begin(), elsewhere.end(), m.id) == elsewhere.end()) continue;
    if (progress.cancelled()) return takeBack(cancelledError().value());
    progress.beginPart(done++, elsewhere.size());
    const fs::path from(m.path);
    const auto to = freeFile(home, from.stem().string(), from.extension().string());
    if (auto ok = copyRecording(m, to, progress); !ok) return takeBack(ok.error());
    copied.push_back(to);
    m.path = to.string();
  }
  return next;
}

}  // namespace ochron
