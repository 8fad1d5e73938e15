#include "dsp/repitch.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "dsp/stream_stretch.h"
#include "dsp/varispeed.h"

namespace ochron {

constexpr std::size_t kKeyFrames = 1024;  // between two points of the stretch map

std::vector<std::vector<float>> repitched(int rate, const std::vector<std::span<const float>>& in,
                                          const std::vector<double>& at, std::size_t first, std::size_t count) {
  std::size_t length = 0;
  for (const auto& x : in) length = std::max(length, x.size());
  const double whole = static_cast<double>(at.size() - 1);
  std::map<std::size_t, std::size_t> keys;
  for (auto i = kKeyFrames; i + 1 < at.size(); i += kKeyFrames) {
    const double from = static_cast<double>(i) / whole * static_cast<double>(length);
    keys[static_cast<std::size_t>(std::llround(from))] = static_cast<std::size_t>(std::llround(at[i]));
  }
  const auto stretched =
      soundStretched(rate, in, {length, static_cast<std::size_t>(std::ceil(at.back())) + 1, std::move(keys)});
  std::vector<std::vector<float>> out(in.size(), std::vector<float>(count));
  for (std::size_t c = 0; c < out.size(); ++c) {
    const SpeedSource source{stretched[c].data(), 1, std::ssize(stretched[c])};
    for (std::size_t i = 0; i < count; ++i)
      out[c][i] = speedRead(source, at[first + i], at[first + i + 1] - at[first + i]);
  }
  return out;
}

}  // namespace ochron
