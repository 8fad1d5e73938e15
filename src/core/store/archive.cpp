#include "store/archive.h"

#include <unistd.h>
#include <zip.h>

#include <algorithm>
#include <array>
#include <fstream>
#include <memory>
#include <set>

#include "files/atomic_file.h"
#include "files/content_id.h"
#include "files/file_names.h"
#include "files/temporary.h"
#include "song/insert_place.h"
#include "store/effect_states.h"
#include "store/packed_recordings.h"
#include "store/project.h"
#include "store/song_json.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kMediaOfSong = "media";
constexpr const char* kSetAside = "set aside";
constexpr zip_int64_t kMostEntries = 20'000;

struct Discard {
  void operator()(zip_t* z) const { zip_discard(z); }
};
using Zip = std::unique_ptr<zip_t, Discard>;
struct CloseFile {
  void operator()(zip_file_t* f) const { zip_fclose(f); }
};

std::string whyOf(zip_t* z) { return zip_strerror(z); }

tl::unexpected<Error> notWritten(const fs::path& target, const std::string& why) {
  return fail(ErrorKind::ioFailed,
              shownPath(target) + ": the archive could not be written. Check the free space and try again.", why);
}

tl::unexpected<Error> noArchive(const fs::path& file, const std::string& why) {
  return fail(ErrorKind::badInput, shownPath(file) + " is no archive of a song: " + why + ". Choose another file.");
}

/// The songs' recordings under names of the archive, each once.
std::vector<std::string> namesIn(const Song& song) {
  std::vector<std::string> out;
  std::set<std::string> used;
  for (const auto& m : song.media) {
    const fs::path path(m.path);
    const auto stem = fileNameFor(path.stem().string());
    auto name = stem + endingOf(path);
    for (int n = 2; !used.insert(name).second; ++n) name = stem + " " + std::to_string(n) + endingOf(path);
    out.push_back(std::string(kMediaOfSong) + "/" + name);
  }
  return out;
}

/// The song's recordings as they go into an archive: where each lies now, and what the song in the archive calls it.
struct Gathered {
  Song inside;
  std::vector<fs::path> files;
  std::optional<ScratchFolder> scratch;  ///< of what was packed
};

/// What a print was made with is the same sound under another content.
void renameContent(Song& song, MediaId media, const std::string& content) {
  for (auto& p : song.prints)
    if (p.with)
      for (auto& r : p.with->recordings)
        if (r.media == media) r.fingerprint = content;
}

Result<void> pack(Gathered& all, std::size_t i, Progress& progress) {
  auto& m = all.inside.media[i];
  const auto flac = all.scratch->path() / (std::to_string(i) + ".flac");
  const auto packed = packAsFlac(all.files[i], flac, progress);
  if (!packed) return tl::unexpected(packed.error());
  if (!*packed) return {};
  const auto content = contentId(flac, progress);
  if (!content) return tl::unexpected(content.error());
  all.files[i] = flac;
  m.path += ".flac";
  m.fingerprint = *content;
  renameContent(all.inside, m.id, *content);
  return {};
}

Result<Gathered> gathered(const Song& song, ArchivePacking packing, Outputs& outputs, Progress& progress) {
  Gathered out{song, {}, {}};
  if (packing == ArchivePacking::flac) {
    auto scratch = ScratchFolder::make();
    if (!scratch) return tl::unexpected(scratch.error());
    out.scratch.emplace(std::move(*scratch));
  }
  const auto names = namesIn(song);
  for (std::size_t i = 0; i < names.size(); ++i) {
    auto& m = out.inside.media[i];
    progress.beginPart(i, 2 * names.size());
    const auto content = contentId(m.path, progress);
    if (!content) return tl::unexpected(content.error());
    if (isContentId(m.fingerprint) && *content != m.fingerprint)
      return fail(ErrorKind::refused, m.path +
                                          " is not the recording that the song was made with. Put the old one "
                                          "back, or take the new one in the window.");
    outputs.protect(m.path);
    out.files.emplace_back(m.path);
    m.path = names[i];
    if (!out.scratch) continue;
    if (auto ok = pack(out, i, progress); !ok) return tl::unexpected(ok.error());
  }
  return out;
}

/// Reads an entry to its end, where its checksum is held against what was written.
template <class Put>
Result<void> readEntry(zip_t* z, zip_uint64_t index, const fs::path& file, Progress& progress, Put put) {
  const std::unique_ptr<zip_file_t, CloseFile> entry(zip_fopen_index(z, index, 0));
  if (!entry) return noArchive(file, "it is damaged (" + whyOf(z) + ")");
  std::vector<char> room(1 << 20);
  while (true) {
    if (progress.cancelled()) return cancelledError();
    const auto n = zip_fread(entry.get(), room.data(), room.size());
    if (n < 0) return noArchive(file, "it is damaged");
    if (n == 0) return {};
    if (auto ok = put(std::string_view(room.data(), static_cast<std::size_t>(n))); !ok) return ok;
  }
}

/// The path of an entry below the archive's one folder; none where the name leads out of it or is no file.
std::optional<fs::path> placeOf(const std::string& name) {
  const auto slash = name.find('/');
  if (slash == std::string::npos || name.ends_with('/')) return std::nullopt;
  const fs::path path(name.substr(slash + 1));
  if (path.empty() || path.is_absolute()) return std::nullopt;
  for (const auto& part : path)
    if (part == ".." || part == "." || part.string().find('\0') != std::string::npos) return std::nullopt;
  return path;
}

/// A folder that is taken away unless it is kept.
struct Staged {
  explicit Staged(fs::path p) : path(std::move(p)) {}
  ~Staged() {
    std::error_code ec;
    if (!path.empty()) fs::remove_all(path, ec);
  }
  Staged(const Staged&) = delete;
  Staged& operator=(const Staged&) = delete;
  fs::path path;
};

}  // namespace

Result<void> writeArchive(const Song& song, const fs::path& target, Outputs& outputs, Progress& progress,
                          ArchivePacking packing) {
  const auto all = gathered(song, packing, outputs, progress);
  if (!all) return tl::unexpected(all.error());
  const auto text = songToJson(all->inside);
  const auto part = outputs.stage(target);
  if (!part) return tl::unexpected(part.error());
  int code = 0;
  Zip zip(zip_open(part->c_str(), ZIP_CREATE | ZIP_TRUNCATE, &code));
  if (!zip) return notWritten(target, std::to_string(code));
  const auto root = fileNameFor(song.name, "song") + ".ochron/";
  const auto add = [&](const std::string& name, zip_source_t* source, zip_int32_t method) -> Result<void> {
    const auto index = source ? zip_file_add(zip.get(), (root + name).c_str(), source, ZIP_FL_ENC_UTF_8) : -1;
    if (index < 0 || zip_set_file_compression(zip.get(), static_cast<zip_uint64_t>(index), method, 0) != 0) {
      if (index < 0 && source) zip_source_free(source);
      return notWritten(target, whyOf(zip.get()));
    }
    return {};
  };
  if (auto ok = add(kSongFile, zip_source_buffer(zip.get(), text.data(), text.size(), 0), ZIP_CM_DEFLATE); !ok)
    return ok;
  Result<void> states;
  eachStateFile(song, [&](const std::string& path, const std::string& bytes) {
    if (states) states = add(path, zip_source_buffer(zip.get(), bytes.data(), bytes.size(), 0), ZIP_CM_DEFLATE);
  });
  if (!states) return states;
  for (std::size_t i = 0; i < all->files.size(); ++i)
    if (auto ok =
            add(all->inside.media[i].path, zip_source_file(zip.get(), all->files[i].c_str(), 0, -1), ZIP_CM_STORE);
        !ok)
      return ok;
  progress.beginPart(1, 2);
  zip_register_progress_callback_with_state(
      zip.get(), 0.01, [](zip_t*, double done, void* p) { static_cast<Progress*>(p)->report(done); }, nullptr,
      &progress);
  zip_register_cancel_callback_with_state(
      zip.get(), [](zip_t*, void* p) { return static_cast<Progress*>(p)->cancelled() ? 1 : 0; }, nullptr, &progress);
  if (zip_close(zip.get()) != 0) {
    if (progress.cancelled()) return cancelledError();
    return notWritten(target, whyOf(zip.get()));
  }
  (void)zip.release();
  const Zip again(zip_open(part->c_str(), ZIP_RDONLY, &code));
  if (!again) return notWritten(target, "it cannot be read again");
  for (zip_int64_t i = 0; i < zip_get_num_entries(again.get(), 0); ++i)
    if (auto ok = readEntry(again.get(), static_cast<zip_uint64_t>(i), target, progress,
                            [](std::string_view) { return Result<void>{}; });
        !ok)
      return ok;
  return {};
}

Result<Song> unpackArchive(const fs::path& file, const fs::path& folder, Progress& progress) {
  std::error_code ec;
  if (fs::exists(folder, ec) && !(fs::is_directory(folder, ec) && fs::is_empty(folder, ec)))
    return fail(ErrorKind::refused,
                shownPath(folder) + " is there already and is not empty. Choose another name, or empty it first.");
  int code = 0;
  const Zip zip(zip_open(file.c_str(), ZIP_RDONLY, &code));
  if (!zip) return noArchive(file, fs::exists(file, ec) ? "it is no ZIP file" : "it is not there");
  const auto count = zip_get_num_entries(zip.get(), 0);
  if (count > kMostEntries) return noArchive(file, "it holds too many files");
  const auto target = fs::absolute(folder).lexically_normal();
  const auto parent = (target.has_filename() ? target : target.parent_path()).parent_path();
  Staged staged(parent / (".archive.part-" + std::to_string(::getpid())));
  fs::remove_all(staged.path, ec);
  fs::create_directories(staged.path, ec);
  if (ec)
    return fail(ErrorKind::ioFailed, shownPath(folder) + " could not be made. Choose a place that you may write to.",
                ec.message());
  std::uintmax_t wanted = 0;
  for (zip_int64_t i = 0; i < count; ++i) {
    zip_stat_t about;
    if (zip_stat_index(zip.get(), static_cast<zip_uint64_t>(i), 0, &about) == 0) wanted += about.size;
  }
  if (const auto room = fs::space(staged.path, ec); !ec && wanted > room.available)
    return fail(ErrorKind::ioFailed, shownPath(file) + " needs " + std::to_string(wanted / 1'000'000) +
                                         " MB, more than there is room for. Make room, or choose another disk.");
  bool song = false;
  for (zip_int64_t i = 0; i < count; ++i) {
    progress.beginPart(static_cast<std::size_t>(i), static_cast<std::size_t>(count));
    const auto* name = zip_get_name(zip.get(), static_cast<zip_uint64_t>(i), 0);
    const std::string text = name ? name : "";
    if (text.ends_with('/')) continue;
    const auto place = placeOf(text);
    if (!place) return noArchive(file, "\"" + text + "\" in it lies outside of its folder");
    song = song || *place == kSongFile;
    fs::create_directories((staged.path / *place).parent_path(), ec);
    std::ofstream out(staged.path / *place, std::ios::binary);
    auto ok =
        readEntry(zip.get(), static_cast<zip_uint64_t>(i), file, progress, [&](std::string_view bytes) -> Result<void> {
          out.write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
          if (out) return {};
          return fail(ErrorKind::ioFailed, shownPath(folder) + ": writing stopped. Make room and try again.");
        });
    if (!ok) return tl::unexpected(ok.error());
  }
  if (!song) return noArchive(file, "there is no song in it");
  auto opened = openProject(staged.path);
  if (!opened) return tl::unexpected(opened.error());
  for (const auto& m : opened->media) {
    if (!fs::exists(m.path, ec)) continue;  // it was missing already
    const auto content = contentId(m.path, progress);
    if (!content) return tl::unexpected(content.error());
    if (isContentId(m.fingerprint) && *content != m.fingerprint)
      return noArchive(file, shownPath(fs::path(m.path).filename()) + " in it is not what the song was made with");
  }
  fs::remove(target, ec);  // an empty folder
  fs::rename(staged.path, target, ec);
  if (ec) return fail(ErrorKind::ioFailed, shownPath(folder) + " could not be put in its place.", ec.message());
  staged.path.clear();
  return openProject(target);
}

std::vector<fs::path> unusedFiles(const fs::path& folder, const std::vector<Song>& songs) {
  std::set<fs::path> used;
  for (const auto& s : songs)
    for (const auto& m : s.media) used.insert(absolutePath(m.path));
  std::vector<fs::path> out;
  std::error_code ec;
  for (const auto& entry : fs::directory_iterator(folder / kMediaOfSong, ec))
    if (entry.is_regular_file(ec) && !entry.path().filename().string().starts_with('.') &&
        !used.contains(absolutePath(entry.path())))
      out.push_back(entry.path());
  std::set<std::string> states;
  for (const auto& s : songs)
    eachInsertList(s, [&](const Shared<InsertList>& inserts) {
      for (const auto& i : *inserts) states.insert(i.state->id);
    });
  for (const auto& entry : fs::directory_iterator(folder / kEffectStates, ec))
    if (const auto name = entry.path().filename().string(); isContentId(name) && !states.contains(name))
      out.push_back(entry.path());
  std::sort(out.begin(), out.end());
  return out;
}

Result<void> setAsideUnused(const fs::path& folder, const std::vector<fs::path>& files) {
  std::error_code ec;
  const auto home = folder / kSetAside;
  if (!files.empty()) fs::create_directories(home, ec);
  std::vector<std::pair<fs::path, fs::path>> moved;
  for (const auto& file : files) {
    const auto to = freeFile(home, file.stem().string(), file.extension().string());
    if (!ec) fs::rename(file, to, ec);
    if (!ec) {
      moved.emplace_back(file, to);
      continue;
    }
    const auto why = ec.message();
    for (const auto& [from, there] : moved) fs::rename(there, from, ec);
    return fail(ErrorKind::ioFailed,
                shownPath(file) + " could not be moved, so nothing was. Check the folder's rights.", why);
  }
  return {};
}

}  // namespace ochron
