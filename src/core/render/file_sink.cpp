#include "render/file_sink.h"

#include <algorithm>

namespace ochron {

Result<FileSink> FileSink::make(AudioFileWriter writer, int channels, int rate, Frames length, double gain) {
  FileSink sink(std::move(writer), gain);
  const auto& format = sink.writer_.format();
  sink.folded_ = channels == 2 && format.channels == 1;
  if (format.rate == rate) return sink;
  auto resampler = Resampler::make(rate, format.rate, format.channels);
  if (!resampler) return tl::unexpected(resampler.error());
  sink.resampler_.emplace(std::move(*resampler));
  sink.left_ = atRate(length, rate, format.rate).value;
  return sink;
}

Result<void> FileSink::put(std::vector<float>& interleaved) {
  const auto wide = static_cast<std::size_t>(writer_.format().channels);
  const auto frames = std::min<std::int64_t>(left_, std::ssize(interleaved) / static_cast<std::ptrdiff_t>(wide));
  left_ -= frames;
  return frames > 0 ? writer_.write(std::span(interleaved).first(static_cast<std::size_t>(frames) * wide))
                    : Result<void>{};
}

Result<void> FileSink::add(ChannelSpans channels) {
  const auto wide = static_cast<std::size_t>(writer_.format().channels);
  const auto n = channels.front().size();
  room_.resize(n * wide);
  if (folded_)
    for (std::size_t i = 0; i < n; ++i) room_[i] = gain_ * (channels[0][i] + channels[1][i]) / 2;
  else
    for (std::size_t c = 0; c < wide; ++c)
      for (std::size_t i = 0; i < n; ++i) room_[i * wide + c] = gain_ * channels[c][i];
  if (!resampler_) return writer_.write(room_);
  resampled_.clear();
  resampler_->push(room_, resampled_);
  return put(resampled_);
}

Result<void> FileSink::finish() {
  if (resampler_) {
    resampled_.clear();
    resampler_->finish(resampled_);
    // What a converter does not give at the very end is silence.
    resampled_.resize(std::max(resampled_.size(),
                               static_cast<std::size_t>(left_) * static_cast<std::size_t>(writer_.format().channels)));
    if (auto ok = put(resampled_); !ok) return ok;
  }
  return writer_.finish();
}

}  // namespace ochron
