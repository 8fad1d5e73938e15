#pragma once

#include <vector>

#include "media/audio_file.h"

namespace ochron {

/// What is left of a recording, its channels mixed.
inline std::vector<float> monoOf(AudioFileReader& reader) {
  const auto wide = static_cast<std::size_t>(reader.info().channels);
  std::vector<float> block(16'384 * wide);
  std::vector<float> out;
  for (auto got = reader.read(block); got && *got > 0; got = reader.read(block))
    for (std::size_t i = 0; i < static_cast<std::size_t>(*got); ++i) {
      float sum = 0;
      for (std::size_t c = 0; c < wide; ++c) sum += block[i * wide + c];
      out.push_back(sum / static_cast<float>(wide));
    }
  return out;
}

}  // namespace ochron
