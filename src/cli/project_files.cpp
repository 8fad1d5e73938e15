#include "project_files.h"

#include <charconv>

#include "files/content_id.h"
#include "files/folder_lock.h"
#include "gate/gate.h"
#include "media/decoded.h"
#include "render/tuned_takes.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

tl::unexpected<Error> replaced(const Media& m) {
  return fail(ErrorKind::badInput, m.path +
                                       " is not the recording that the song was made with: its content has "
                                       "changed. Put the old one back, or open the song in Orthochron and take "
                                       "the new one.");
}

}  // namespace

Result<ProjectFiles> loadProject(const std::string& project, Damaged damaged) {
  auto song = openProject(project);
  if (!song) return tl::unexpected(song.error());
  ProjectFiles out{projectFolder(project), std::move(*song), {}, cacheFolderOf(project)};
  const DecodeSettings decoding{out.cacheFolder, out.song.rate, damaged};
  ContentIndex index(userCacheFolder() / "recordings.index");
  for (const auto& m : out.song.media) {
    Progress progress;
    Result<std::shared_ptr<const DecodedMedia>> media = cancelledError();
    withProgress("reading", progress, [&] {
      const auto content = index.of(m.path, progress);
      media = content ? decodeMedia(m.path, *content, decoding, progress) : tl::unexpected(content.error());
      if (const auto now = media ? index.of(m.path, progress) : content; now && content && *now != *content)
        media =
            fail(ErrorKind::ioFailed, m.path + " was changed while it was read. Try again when nothing writes to it.");
      if (media && isContentId(m.fingerprint) && *content != m.fingerprint) media = replaced(m);
    });
    if (!media) return tl::unexpected(media.error());
    out.pool[m.id] = *media;
  }
  index.keep();
  // A song that was saved right behind an edit of many mics has joints that its window has not listened for yet.
  auto heard = withJointsHeard(out.song, out.pool);
  if (!heard) return tl::unexpected(heard.error());
  out.song = std::move(*heard);
  return out;
}

Result<WholeSound> readySong(const ProjectFiles& files, MadeStore& made, Frames from) {
  Progress progress;
  Result<WholeSound> ready = cancelledError();
  withProgress("making the sound", progress, [&] { ready = wholeSound(files.song, files.pool, made, from, progress); });
  return ready;
}

Result<void> notOpen(const std::string& project) {
  if (!FolderLock::holderOf(projectFolder(project))) return {};
  return fail(ErrorKind::refused, project + " is open in a window. Save and close it there first.");
}

Result<FrameRange> parseBars(const std::string& text, const Song& song) {
  int first = 0;
  int last = 0;
  const auto* end = text.data() + text.size();
  auto a = std::from_chars(text.data(), end, first);
  last = first;
  if (a.ec == std::errc{} && a.ptr != end && *a.ptr == '-') a = std::from_chars(a.ptr + 1, end, last);
  if (a.ec != std::errc{} || a.ptr != end || first < 1 || last < first)
    return fail(ErrorKind::badInput, "\"" + text + "\" is not a range of bars: write for example 5-8.");
  const auto& map = song.tempo;
  const int bars = map.barAt(song.end() - Frames{1}) + 1;
  if (last > bars)
    return fail(ErrorKind::badInput,
                "--range " + text + ": the song has " + std::to_string(bars) + " bars. Choose a range inside it.");
  return FrameRange{map.toFrames(map.barStart(first - 1)), map.toFrames(map.barStart(last))};
}

}  // namespace ochron::cli
