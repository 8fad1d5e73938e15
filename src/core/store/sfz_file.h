#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "song/incoming_sounds.h"

namespace ochron {

/// One region of an SFZ file (sfzformat.com), what it inherits from global, master and group filled in.
using SfzRegion = std::map<std::string, std::string>;
/// The regions of an SFZ text. Hostile texts are as good as any: what makes no sense is left out.
std::vector<SfzRegion> sfzRegions(std::string_view text);

/// Reads a set of sounds: an SFZ file, or a sound file as a set of one. Of an SFZ with several keys those of the drum
/// are taken by General MIDI, or of its lowest key when it has none of these. Fails with a sentence when there is no
/// sound in it, or a sample is missing.
Result<SoundSetFile> readSoundSet(const std::filesystem::path& file, std::optional<DrumClass> drum);

/// One slice or sound of an instrument that is written.
struct SfzSound {
  std::string sample;  ///< path relative to the file
  int key = 60;
  int lowVelocity = 1;
  int highVelocity = 127;
  double gainDb = 0;
  double pan = 0;
  double cents = 0;
  int choke = 0;  ///< group that it silences and is silenced by; 0: none
};
std::string sfzText(const std::vector<SfzSound>& sounds);

}  // namespace ochron
