#include "render/line_stretch.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "dsp/fade.h"
#include "tune/period_marks.h"
#include "tune/regrain.h"

namespace ochron {
namespace {

constexpr double kShortestMs = 40;  // of a voiced stretch that is worth it
constexpr double kJoinMs = 8;       // crossfade from the engine's sound and back to it

/// Where a frame of the sounds lands.
double landing(const std::map<std::size_t, std::size_t>& keys, double frame) {
  auto after = keys.upper_bound(static_cast<std::size_t>(std::max(0.0, frame)));
  const auto offset = [&](auto key) {
    return frame + static_cast<double>(key->second) - static_cast<double>(key->first);
  };
  if (after == keys.begin()) return offset(after);
  if (after == keys.end()) return offset(std::prev(after));
  const auto before = std::prev(after);
  const double along = (frame - static_cast<double>(before->first)) / static_cast<double>(after->first - before->first);
  return static_cast<double>(before->second) + along * static_cast<double>(after->second - before->second);
}

/// Values [first, last) of the track that sound without a break, cut to what lies between what is played as recorded.
struct Voiced {
  std::size_t first = 0;
  std::size_t last = 0;
  FrameRange within;  ///< frames of the sounds that its periods may lie in
};
std::vector<Voiced> voicedStretches(const PitchTrack& track, const LineRun& run) {
  std::vector<Voiced> out;
  const double hop = PitchTrack::kHop * run.rate;
  const auto length = Frames{std::ssize(run.sounds.front())};
  const auto frameOf = [&](std::size_t value) {
    return Frames{std::llround(static_cast<double>(value) * hop)} - run.start;
  };
  const auto valueAt = [&](Frames frame) {
    return static_cast<std::size_t>(std::clamp(std::ceil(static_cast<double>((frame + run.start).value) / hop), 0.0,
                                               static_cast<double>(track.values.size())));
  };
  const auto add = [&](FrameRange free) {
    const auto end = valueAt(free.end);
    for (auto i = valueAt(free.start); i < end;) {
      if (!track.values[i].sounds()) {
        ++i;
        continue;
      }
      auto to = i;
      while (to < end && track.values[to].sounds()) ++to;
      if (frameOf(to) - frameOf(i) >= framesFromMs(kShortestMs, run.rate)) out.push_back({i, to, free});
      i = to;
    }
  };
  Frames from;
  for (const auto& r : run.recorded) {
    if (r.start > from) add({from, std::min(r.start, length)});
    from = std::max(from, r.end);
  }
  if (from < length) add({from, length});
  return out;
}

/// What lies in `sound` takes the place of what is in `made` from a frame on, crossfaded at both ends.
void lay(const std::vector<float>& sound, std::int64_t at, std::int64_t join, std::vector<float>& made) {
  const auto first = std::max<std::int64_t>(0, -at);
  const auto last = std::min(std::ssize(sound), std::ssize(made) - at);
  const auto fade = std::min(join, (last - first) / 2);
  if (fade < 1) return;
  const auto here = [](auto& v, std::int64_t from, std::int64_t length) {
    return std::span(v).subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(length));
  };
  std::vector<float> end(made.begin() + at + last - fade, made.begin() + at + last);
  crossInto(here(made, at + first, fade), here(sound, first, fade));
  std::copy(sound.begin() + first + fade, sound.begin() + last - fade, made.begin() + at + first + fade);
  std::vector<float> leaving(sound.begin() + last - fade, sound.begin() + last);
  crossInto(leaving, end);
  std::copy(leaving.begin(), leaving.end(), made.begin() + at + last - fade);
}

}  // namespace

void layVoiced(const PitchTrack& track, const LineRun& run, std::vector<std::vector<float>>& made) {
  std::vector<float> mono(run.sounds.front().size(), 0.0F);
  for (const auto& x : run.sounds)
    for (std::size_t i = 0; i < mono.size(); ++i) mono[i] += x[i] / static_cast<float>(run.sounds.size());
  const auto join = framesFromMs(kJoinMs, run.rate).value;
  for (const auto& v : voicedStretches(track, run)) {
    auto marks = periodMarks(mono, run.start, run.rate, track, v.first, v.last);
    std::erase_if(marks, [&](double m) {
      return m < static_cast<double>(v.within.start.value) || m > static_cast<double>(v.within.end.value);
    });
    const auto sound = regrain(run.sounds, run.rate, marks,
                               {[](double) { return 1.0; }, [](double) { return 1.0; },
                                [&](double frame) { return landing(run.keys, frame); }, true});
    for (std::size_t c = 0; c < sound.channels.size(); ++c) lay(sound.channels[c], sound.start.value, join, made[c]);
  }
}

}  // namespace ochron
