#pragma once

#include <gtest/gtest.h>

#include <filesystem>
#include <string>
#include <vector>

#include "media/audio_file.h"
#include "support/process.h"

namespace ochron::test {

/// Runs the command line to its end.
inline Outcome cli(std::vector<std::string> args) {
  args.insert(args.begin(), OCHRON_CLI);
  return run(args);
}

inline void writeWav(const std::filesystem::path& file, const std::vector<float>& samples, int rate = 48'000) {
  auto w = AudioFileWriter::create(file, {FileFormat::wav, SampleFormat::pcm24, rate, 1});
  ASSERT_TRUE(w.has_value());
  ASSERT_TRUE(w->write(samples));
  ASSERT_TRUE(w->finish());
}

inline std::vector<float> readAll(const std::filesystem::path& file) {
  auto r = AudioFileReader::open(file);
  EXPECT_TRUE(r.has_value());
  if (!r) return {};
  std::vector<float> out(static_cast<std::size_t>(r->info().length.value * r->info().channels));
  EXPECT_TRUE(r->read(out));
  return out;
}

}  // namespace ochron::test
