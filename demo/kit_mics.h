#pragma once

#include <string>
#include <vector>

#include "instruments.h"
#include "score.h"

namespace ochron::demo {

struct MicSound {
  std::string name;
  std::vector<float> samples;
};

/// The kit as nine mics hear it: each drum with its level, distance and colour in each mic, the rooms with their walls,
/// and every mic with its own noise.
std::vector<MicSound> recordKit(const Score& score, Instruments& instruments, std::size_t frames);

}  // namespace ochron::demo
