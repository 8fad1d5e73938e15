#include "document/sound_reads.h"

namespace ochron {

std::map<MediaId, Recordings::Read> readsOf(const Song& song, const LoadedSounds& loaded) {
  std::map<MediaId, Recordings::Read> out;
  for (std::size_t i = 0; i < loaded.media.size(); ++i) {
    const auto& f = loaded.set.files[i];
    for (const auto& m : song.media)
      if (m.path == f.path && m.fingerprint == f.fingerprint)
        out[m.id] = {{f.path, f.fingerprint, f.channels, f.fileRate, f.length}, {}, loaded.media[i], {}};
  }
  return out;
}

}  // namespace ochron
