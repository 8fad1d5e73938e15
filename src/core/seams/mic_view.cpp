#include "seams/mic_view.h"

#include <algorithm>

namespace ochron {

namespace {

constexpr double kFullScale = 32767.0 * 32767.0;  // of the square of a bin

struct BinRange {
  std::int64_t first = 0;
  std::int64_t last = 0;  ///< the one after it
};

BinRange binsOf(const MicView& mic, Frames from, Frames to) {
  const auto all = std::ssize(mic.media->peaks(mic.channel).levels.front());
  return {std::max<std::int64_t>(0, (from - mic.offset).value / kPeakBaseFrames),
          std::min<std::int64_t>(all, ((to - mic.offset).value + kPeakBaseFrames - 1) / kPeakBaseFrames)};
}

double meanOf(std::int64_t squares, std::int64_t bins) {
  return bins > 0 ? static_cast<double>(squares) / (kFullScale * static_cast<double>(bins)) : 0.0;
}

}  // namespace

double MicView::energy(Frames from, Frames to) const {
  const auto& bins = media->peaks(channel).levels.front();
  const auto [first, last] = binsOf(*this, from, to);
  std::int64_t sum = 0;
  for (auto i = first; i < last; ++i) {
    const std::int64_t rms = bins[static_cast<std::size_t>(i)].rms;
    sum += rms * rms;
  }
  return meanOf(sum, last - first);
}

EnergySums::EnergySums(Frames from, Frames to, const std::vector<MicView>& mics) : mics_(mics) {
  bins_.reserve(mics.size());
  std::size_t room = 0;
  for (const auto& m : mics) {
    const auto [first, last] = binsOf(m, from, to);
    bins_.push_back({first, std::max<std::int64_t>(0, last - first), room});
    room += static_cast<std::size_t>(bins_.back().count) + 1;
  }
  upTo_.resize(room);
  for (std::size_t m = 0; m < mics.size(); ++m) {
    const auto& all = mics[m].media->peaks(mics[m].channel).levels.front();
    const auto& part = bins_[m];
    auto* sum = upTo_.data() + part.at;
    for (std::int64_t i = 0; i < part.count; ++i) {
      const std::int64_t rms = all[static_cast<std::size_t>(part.first + i)].rms;
      sum[i + 1] = sum[i] + rms * rms;
    }
  }
}

double EnergySums::energy(std::size_t mic, Frames from, Frames to) const {
  const auto [first, last] = binsOf(mics_[mic], from, to);
  const auto& part = bins_[mic];
  if (first >= last) return 0;
  if (first < part.first || last > part.first + part.count) return mics_[mic].energy(from, to);
  const auto* sum = upTo_.data() + part.at - part.first;
  return meanOf(sum[last] - sum[first], last - first);
}

std::span<const float> MicView::samples(Frames from, Frames to, std::vector<float>& room) const {
  const auto a = (from - offset).value;
  const auto b = (to - offset).value;
  if (a < 0 || b > media->length().value || a >= b) return {};
  return media->channel(channel).subspan(static_cast<std::size_t>(a), static_cast<std::size_t>(b - a)).in(room);
}

std::vector<MicView> micsOf(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool) {
  std::vector<MicView> out;
  for (auto track : set.tracks) {
    const auto* mic = song.micOf(take, track);
    if (!mic) continue;
    const auto found = pool.find(mic->media);
    if (found == pool.end()) continue;
    for (int c = 0; c < found->second->channels(); ++c) {
      MicView v{found->second, c, mic->offset, 0};
      const auto& coarse = found->second->peaks(c).levels.back();
      for (const auto& p : coarse)
        v.power += static_cast<double>(p.rms) * p.rms / (32767.0 * 32767.0) / static_cast<double>(coarse.size());
      out.push_back(v);
    }
  }
  return out;
}

}  // namespace ochron
