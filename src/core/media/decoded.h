#pragma once

#include <cstdint>
#include <deque>
#include <filesystem>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

#include "base/progress.h"
#include "base/result.h"
#include "base/units.h"
#include "dsp/patched_samples.h"
#include "dsp/samples.h"
#include "media/audio_file.h"
#include "media/decoded_file.h"
#include "media/midi_notes.h"
#include "media/peaks.h"

namespace ochron {

/// A recording at the song's rate with its peaks: mapped where it lies when it is uncompressed and at that rate, else a
/// decoded copy, mapped. Immutable; any thread.
class DecodedMedia {
 public:
  ~DecodedMedia() = default;
  DecodedMedia(const DecodedMedia&) = delete;
  DecodedMedia& operator=(const DecodedMedia&) = delete;

  int rate() const { return rate_; }
  int channels() const { return static_cast<int>(data_.size()); }
  Frames length() const { return length_; }
  const Samples& channel(int index) const { return data_[static_cast<std::size_t>(index)]; }
  const PeakPyramid& peaks(int channel) const { return peaks_[static_cast<std::size_t>(channel)]; }

  /// What is wrong with the recording, when only a part of it could be read.
  const std::optional<Damage>& damage() const { return damage_; }
  /// True after somebody changed what is read while it is in use: a copy that became shorter (what is missing reads as
  /// silence), or a recording that is read where it lies and was written to.
  bool broken() const;
  /// Whether all of it is still what was read, to the bit: what was touched since is held against its content or its
  /// checksums. Takes as long as reading it where it was. Not on the main thread.
  bool asRead() const;
  /// Whether anything was done to what is read, if only to its name: sound that is made of it now is not to be kept.
  bool touched() const;
  /// Whether the recording itself is read, not a copy.
  bool inPlace() const { return recording_ != nullptr; }

  /// Maps a decoded copy; `notes`: what it was made of. Fails on anything else, and when a single bit of it has changed
  /// since.
  static Result<std::shared_ptr<const DecodedMedia>> map(const std::filesystem::path& file,
                                                         DecodedFile::Check check = DecodedFile::Check::all,
                                                         PlayedNotes notes = {});
  /// Maps an uncompressed recording where it lies. `peaks`: a file of its peaks, which is written when it is not there
  /// or is damaged. None when the recording cannot be used so: it is no such file, it is at another rate, it cannot be
  /// mapped, or it holds samples that are not numbers.
  static Result<std::shared_ptr<const DecodedMedia>> whereItLies(const std::filesystem::path& recording,
                                                                 const std::string& content, const AudioFileInfo& info,
                                                                 const std::filesystem::path& peaks,
                                                                 Progress& progress);
  /// For tests and synthesized material: channels of equal length, kept in memory.
  static std::shared_ptr<const DecodedMedia> fromSamples(int rate, std::vector<std::vector<float>> channels,
                                                         PlayedNotes notes = {});
  /// Sound that is laid over a recording: for each channel in order, none over another, within the recording. What
  /// patches view is `made` (other sound, kept as long as this), or lies in `owned`.
  struct Patches {
    std::vector<std::vector<PatchedSamples::Patch>> channels;
    std::vector<std::shared_ptr<const DecodedMedia>> made;
    std::deque<std::vector<float>> owned;
  };
  /// A recording with other sound in some stretches, of which only these take memory; `digest` tells it from the
  /// recording and from other variants.
  static std::shared_ptr<const DecodedMedia> variant(std::shared_ptr<const DecodedMedia> of, Patches patches,
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
  std::vector<Samples> data_;
  std::vector<PeakPyramid> peaks_;
  std::optional<Damage> damage_;
  std::uint64_t variant_ = 0;
  PlayedNotes notes_;
  NoteExtent noteExtent_;
  std::unique_ptr<MappedFile> map_;
  std::unique_ptr<MappedFile> recording_;
  std::string content_;  ///< of the recording that is read where it lies
  std::vector<std::vector<float>> owned_;
  std::shared_ptr<const DecodedMedia> base_;  ///< of a variant
  Patches patches_;
  std::deque<PatchedSamples> patched_;
  std::vector<std::vector<std::vector<Peak>>> ownedPeaks_;
};

struct DecodeSettings {
  std::filesystem::path cacheFolder;
  int rate = 48'000;                  ///< Hz, of the copy
  Damaged damaged = Damaged::refuse;  ///< accept: what can be read of a damaged file is used
};

/// The recording `source`, whose content is `content` (contentId): itself where it can be mapped as it lies, else its
/// decoded copy. Peaks and copy are made with progress and cancel when they are not there yet or are not what they
/// should be. A damaged file fails with ErrorKind::damaged unless it is accepted.
Result<std::shared_ptr<const DecodedMedia>> decodeMedia(const std::filesystem::path& source, const std::string& content,
                                                        const DecodeSettings& settings, Progress& progress);

}  // namespace ochron
