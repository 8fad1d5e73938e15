#include "edits/media_edits.h"

#include <algorithm>

#include "edits/edit_tools.h"

namespace ochron {
Result<Song> relinkMedia(const Song& song, MediaId id, const std::string& path) {
  Song next = song;
  for (auto& m : next.media)
    if (m.id == id) {
      m.path = path;
      return next;
    }
  return fail(ErrorKind::notFound, "This recording is not in the song any more.");
}

Result<Song> replaceMedia(const Song& song, MediaId id, const FoundMedia& found) {
  Song next = song;
  const auto m = std::find_if(next.media.begin(), next.media.end(), [&](auto& x) { return x.id == id; });
  if (m == next.media.end()) return fail(ErrorKind::notFound, "This recording is not in the song any more.");
  m->path = found.path;
  m->fingerprint = found.fingerprint;
  m->channels = found.channels;
  m->fileRate = found.fileRate;
  m->length = found.length;
  for (auto& t : next.takes)
    for (const auto& mic : t.mics)
      if (mic.media == id) t.length = std::max(t.length, mic.offset + found.length);
  return next;
}

}  // namespace ochron
