#include "seams/mic_view.h"

#include <algorithm>

namespace ochron {

double MicView::energy(Frames from, Frames to) const {
  const auto& bins = media->peaks(channel).levels.front();
  const auto first = std::max<std::int64_t>(0, (from - offset).value / kPeakBaseFrames);
  const auto last =
      std::min<std::int64_t>(std::ssize(bins), ((to - offset).value + kPeakBaseFrames - 1) / kPeakBaseFrames);
  double sum = 0;
  for (auto i = first; i < last; ++i) {
    const double r = bins[static_cast<std::size_t>(i)].rms / 32767.0;
    sum += r * r;
  }
  return last > first ? sum / static_cast<double>(last - first) : 0.0;
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
