#pragma once

#include <QObject>
#include <QStringList>
#include <filesystem>
#include <memory>
#include <optional>

#include "base/setting.h"
#include "document/keeper.h"
#include "song/song.h"

namespace ochron {

class Document;

inline constexpr SettingRange kCacheRoomRange{"room for decoded and made sound", "GB", 0.01, 1000, 0.5, 40};

/// The open song on the disk: opened, saved, kept between saves, and the room that may be taken beside it.
class SongFiles : public QObject {
  Q_OBJECT
 public:
  explicit SongFiles(Document& document);

  void newSong();
  /// Which of two songs in one folder: the saved one, or the copy made between saves.
  enum class Copy { saved, autosaved };
  bool open(const std::filesystem::path& folder, Copy copy = Copy::saved, OpenAs as = OpenAs::owner);
  /// As open(), read in the background: the song that is open stays until the other one is there, and is not edited.
  /// `spare`: the autosaved copy there could not be kept aside, and is left alone until it can.
  void openSoon(const std::filesystem::path& folder, Copy copy, OpenAs as, bool spare = false);
  bool opening() const;
  /// Opens a copy that has no folder yet: the demo, or one that was kept.
  bool openCopy(const std::filesystem::path& folder);
  bool save(const std::filesystem::path& folder);
  /// The song differs from what is saved of it.
  bool modified() const;
  /// The song as it is now needs no saving.
  void takeAsSaved();
  /// Empty while the song has no folder.
  const std::filesystem::path& folder() const { return keeper_.folder(); }
  const Keeper& keeper() const { return keeper_; }
  /// Opens a copy that was kept, as a song that was not saved yet. The kept one stays.
  bool openKept(const KeptCopies::Copy& copy);
  /// Moves an autosaved copy that is not to be opened to the kept ones.
  std::optional<KeptCopies::Copy> keepAside(const std::filesystem::path& folder);
  /// Writes the copy for the time between saves, in the background.
  void autosave();
  /// The window closes properly: what autosaving left is not needed any more.
  void leave();
  QStringList recent() const;

  /// Where decoded and made sound of the song lies.
  std::filesystem::path cacheFolder() const;
  /// How much room that may take, GB; what was longest unused gives way.
  static double cacheRoom();
  void setCacheRoom(double gigabytes);
  void trimCaches();

 private:
  bool opened(Result<Song> song, const std::filesystem::path& folder, Copy copy, OpenAs as, bool spare);
  void begin(Song song, bool saved);
  void addRecent(const std::filesystem::path& folder);

  Document& doc_;
  Keeper keeper_;
  std::shared_ptr<const Song> saved_;
  bool autosaveFailed_ = false;
};

}  // namespace ochron
