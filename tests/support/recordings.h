#pragma once

#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <random>
#include <string>
#include <vector>

#include "files/atomic_file.h"
#include "files/content_id.h"
#include "media/decoded.h"

namespace ochron::test {

/// Sound of which every sample is a multiple of 2^-15.
inline std::vector<float> crackle(std::size_t n, unsigned seed = 3) {
  std::mt19937 dice(seed);
  std::vector<float> out(n);
  for (auto& s : out) s = std::ldexp(static_cast<float>(static_cast<int>(dice() % 60'000) - 30'000), -15);
  return out;
}

inline void writeSound(const std::filesystem::path& file, const WriteFormat& format,
                       const std::vector<float>& samples) {
  auto w = AudioFileWriter::create(file, format);
  ASSERT_TRUE(w && w->write(samples) && w->finish());
}

inline std::string bytesOf(const std::filesystem::path& file) { return readWholeFile(file, 1 << 30).value_or(""); }
inline void put(const std::filesystem::path& file, const std::string& bytes) {
  std::ofstream(file, std::ios::binary).write(bytes.data(), static_cast<std::streamsize>(bytes.size()));
}

using Decoded = Result<std::shared_ptr<const DecodedMedia>>;
inline Decoded decode(const std::filesystem::path& file, const std::filesystem::path& cache,
                      Damaged damaged = Damaged::refuse, int rate = 48'000) {
  Progress progress;
  const auto content = contentId(file, progress);
  if (!content) return tl::unexpected(content.error());
  return decodeMedia(file, *content, {cache, rate, damaged}, progress);
}

}  // namespace ochron::test
