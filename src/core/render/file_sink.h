#pragma once

#include <optional>
#include <vector>

#include "dsp/listening.h"
#include "dsp/resample.h"
#include "dsp/sliding_source.h"
#include "media/audio_file.h"

namespace ochron {

/// Sound of a song on its way into a file: its level, its channels, the file's rate.
class FileSink {
 public:
  /// Takes `channels` of sound at `rate` (Hz), `length` frames of it in all, and makes it `gain` times as loud. A file
  /// of one channel gets the mean of two.
  static Result<FileSink> make(AudioFileWriter writer, int channels, int rate, Frames length, double gain);
  Result<void> add(ChannelSpans channels);
  /// The file is as long as the sound, to the frame.
  Result<void> finish();
  const AudioFileWriter& writer() const { return writer_; }

 private:
  FileSink(AudioFileWriter writer, double gain) : writer_(std::move(writer)), gain_(static_cast<float>(gain)) {}
  Result<void> put(std::vector<float>& interleaved);

  AudioFileWriter writer_;
  float gain_;
  bool folded_ = false;  // two channels to one
  std::optional<Resampler> resampler_;
  std::int64_t left_ = 0;  // frames of the file that are still to be written, at another rate
  std::vector<float> room_;
  std::vector<float> resampled_;
};

}  // namespace ochron
