#include "document/keeper.h"

#include <QStandardPaths>
#include <algorithm>

#include "files/process_id.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kUnsaved = "unsaved-";

Result<void> refuse(const std::string& sentence) { return fail(ErrorKind::refused, sentence); }

}  // namespace

Keeper::Keeper()
    : state_(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation).toStdString()),
      own_(recovery() / (kUnsaved + shortText(thisProcess()) + kProjectEnding)) {}

void Keeper::begin() {
  lock_.release();
  folder_.clear();
  as_ = OpenAs::owner;
  spares_ = false;
}

std::optional<std::string> Keeper::begin(const fs::path& folder, OpenAs as) {
  begin();
  folder_ = projectFolder(folder);
  as_ = as == OpenAs::heir ? OpenAs::owner : as;
  if (as == OpenAs::looker) return "This song is only looked at here. To change it, save it under another name.";
  const auto& project = folder_;
  auto lock = as == OpenAs::heir ? FolderLock::takeOver(project) : FolderLock::take(project);
  if (lock) return lock_ = std::move(*lock), std::nullopt;
  as_ = OpenAs::looker;
  if (lock.error().kind == ErrorKind::refused)
    return lock.error().message + " So the song is only looked at here. To keep changes, save it under another name.";
  return folder_.string() +
         " may not be written to, so the song is only looked at. To keep changes, save it under "
         "another name.";
}

Result<void> Keeper::save(const Song& song, const fs::path& path) {
  const auto folder = projectFolder(path);
  if (folder == folder_) {
    if (as_ == OpenAs::looker) return refuse("This song is only looked at here. Save it under another name.");
    if (!lock_.held())
      return refuse(
          "This song was taken over by another window, which may have changed it. Save it under another name.");
  } else if (const auto holder = FolderLock::holderOf(folder)) {
    return refuse(folder.string() + " is open in " + holder->described() + ". Choose another name.");
  }
  if (folder == folder_ && spares_ && !keepSpared())
    return refuse("The earlier autosaved copy in " + folder.string() +
                  " could still not be kept aside, and saving would remove it. Make room on the disk, or save under "
                  "another name.");
  if (auto ok = saveProject(song, folder); !ok) return ok;
  if (folder != folder_) begin(folder, OpenAs::owner);
  std::error_code ec;
  fs::remove_all(own_, ec);
  return {};
}

fs::path Keeper::autosaveFolder() const {
  return !folder_.empty() && as_ == OpenAs::owner && lock_.held() && !spares_ ? folder_ : own_;
}

bool Keeper::keepSpared() {
  if (spares_ && kept().takeFrom(folder_, folder_.stem().string())) spares_ = false;
  return !spares_;
}

void Keeper::leave() {
  if (!folder_.empty() && as_ == OpenAs::owner && lock_.held() && keepSpared()) discardAutosave(folder_);
  std::error_code ec;
  fs::remove_all(own_, ec);
  lock_.release();
}

std::vector<fs::path> Keeper::abandoned() const {
  std::vector<fs::path> out;
  std::error_code ec;
  for (fs::directory_iterator at(recovery(), ec); !ec && at != fs::directory_iterator(); at.increment(ec)) {
    const auto name = at->path().stem().string();
    if (!name.starts_with(kUnsaved) || at->path() == own_) continue;
    const auto process = fromShortText(std::string_view(name).substr(std::string_view(kUnsaved).size()));
    if (process && lifeOf(*process) != Life::gone) continue;
    if (findAutosave(at->path()).state != Autosave::State::none) out.push_back(at->path());
  }
  std::sort(out.begin(), out.end());
  return out;
}

}  // namespace ochron
