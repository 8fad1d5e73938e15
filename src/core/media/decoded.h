#pragma once

#include <filesystem>
#include <memory>
#include <span>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "base/units.h"
#include "media/audio_file.h"
#include "media/peaks.h"

namespace ochron {

/// A recording decoded to 32-bit float at the song's rate, memory-mapped, with its peaks. Immutable; any thread.
class DecodedMedia {
 public:
  ~DecodedMedia();
  DecodedMedia(const DecodedMedia&) = delete;
  DecodedMedia& operator=(const DecodedMedia&) = delete;

  int rate() const { return rate_; }
  int channels() const { return static_cast<int>(data_.size()); }
  Frames length() const { return length_; }
  std::span<const float> channel(int index) const { return data_[static_cast<std::size_t>(index)]; }
  const PeakPyramid& peaks(int channel) const { return peaks_[static_cast<std::size_t>(channel)]; }

  /// Maps a file that decodeMedia wrote. Fails on anything else.
  static Result<std::shared_ptr<const DecodedMedia>> map(const std::filesystem::path& file);
  /// For tests and synthesized material: channels of equal length, kept in memory.
  static std::shared_ptr<const DecodedMedia> fromSamples(int rate, std::vector<std::vector<float>> channels);

 private:
  DecodedMedia() = default;
  int rate_ = 48'000;
  Frames length_;
  std::vector<std::span<const float>> data_;
  std::vector<PeakPyramid> peaks_;
  void* mapping_ = nullptr;
  std::size_t mappedBytes_ = 0;
  std::vector<std::vector<float>> owned_;
  std::vector<std::vector<std::vector<Peak>>> ownedPeaks_;
};

/// Names a file's content: its size and a hash of its first and last 256 KiB. Survives moving and renaming.
Result<std::string> fingerprint(const std::filesystem::path& file);

/// The decoded copy of `source` at `rate` Hz in `cacheFolder`, made (with progress and cancel) when it is not there
/// yet.
Result<std::shared_ptr<const DecodedMedia>> decodeMedia(const std::filesystem::path& source,
                                                        const std::filesystem::path& cacheFolder, int rate,
                                                        Progress& progress);

}  // namespace ochron
