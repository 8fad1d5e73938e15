#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "base/units.h"
#include "media/audio_file.h"
#include "media/decoded_file.h"
#include "media/midi_notes.h"
#include "media/peaks.h"

namespace ochron {

/// A recording decoded to 32-bit float at the song's rate, memory-mapped, with its peaks. Immutable; any thread.
class DecodedMedia {
 public:
  ~DecodedMedia() = default;
  DecodedMedia(const DecodedMedia&) = delete;
  DecodedMedia& operator=(const DecodedMedia&) = delete;

  int rate() const { return rate_; }
  int channels() const { return static_cast<int>(data_.size()); }
  Frames length() const { return length_; }
  std::span<const float> channel(int index) const { return data_[static_cast<std::size_t>(index)]; }
  const PeakPyramid& peaks(int channel) const { return peaks_[static_cast<std::size_t>(channel)]; }

  /// What is wrong with the recording, when only a part of it could be read.
  const std::optional<Damage>& damage() const { return damage_; }
  /// True after somebody shortened the decoded copy while it is in use: what is missing reads as silence.
  bool broken() const { return map_ && map_->broken(); }

  /// Maps a file that decodeMedia wrote; `notes`: what it was made of. Fails on anything else, and when a single bit of
  /// it has changed since.
  static Result<std::shared_ptr<const DecodedMedia>> map(const std::filesystem::path& file,
                                                         DecodedFile::Check check = DecodedFile::Check::all,
                                                         PlayedNotes notes = {});
  /// For tests and synthesized material: channels of equal length, kept in memory.
  static std::shared_ptr<const DecodedMedia> fromSamples(int rate, std::vector<std::vector<float>> channels,
                                                         PlayedNotes notes = {});
  /// Other sound in a recording's place, of the same shape; `digest` tells it from the recording and from other
  /// variants.
  static std::shared_ptr<const DecodedMedia> variant(const DecodedMedia& of, std::vector<std::vector<float>> channels,
                                                     std::uint64_t digest);
  /// 0: the recording itself.
  std::uint64_t variant() const { return variant_; }
  /// What was played, when it is of a MIDI file; empty: it is sound.
  const PlayedNotes& notes() const { return notes_; }
  const NoteExtent& noteExtent() const { return noteExtent_; }

 private:
  DecodedMedia() = default;
  int rate_ = 48'000;
  Frames length_;
  std::vector<std::span<const float>> data_;
  std::vector<PeakPyramid> peaks_;
  std::optional<Damage> damage_;
  std::uint64_t variant_ = 0;
  PlayedNotes notes_;
  NoteExtent noteExtent_;
  std::unique_ptr<MappedFile> map_;
  std::vector<std::vector<float>> owned_;
  std::vector<std::vector<std::vector<Peak>>> ownedPeaks_;
};

struct DecodeSettings {
  std::filesystem::path cacheFolder;
  int rate = 48'000;                  ///< Hz, of the copy
  Damaged damaged = Damaged::refuse;  ///< accept: what can be read of a damaged file is used
};

/// The decoded copy of `source`, whose content is `content` (contentId), made with progress and cancel when it is not
/// there yet or is not what it should be. A damaged file fails with ErrorKind::damaged unless it is accepted.
Result<std::shared_ptr<const DecodedMedia>> decodeMedia(const std::filesystem::path& source, const std::string& content,
                                                        const DecodeSettings& settings, Progress& progress);

}  // namespace ochron
