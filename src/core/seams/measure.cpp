#include "seams/measure.h"

#include <algorithm>
#include <cmath>
#include <optional>
#include <utility>

#include "dsp/fade.h"
#include "seams/mic_view.h"

namespace ochron {
namespace {

constexpr double kHeardPower = 1e-7;    // -70 dBFS
constexpr double kLevelMs = 20;         // the ear takes so long to hear a level
constexpr std::size_t kStepSample = 7;  // every so manieth step of a recording is looked at
constexpr double kPercentile = 0.999;

double decibels(double ratio) { return 10 * std::log10(ratio + 1e-12); }

/// The 99.9th percentile of |x[n] - x[n-1]| of a recording.
double usualStep(const Samples& x) {
  std::vector<float> steps;
  steps.reserve(x.size() / kStepSample + 1);
  for (std::size_t i = 1; i < x.size(); i += kStepSample) steps.push_back(std::abs(x[i] - x[i - 1]));
  if (steps.empty()) return 0;
  const auto at = steps.begin() + static_cast<std::ptrdiff_t>(kPercentile * static_cast<double>(steps.size() - 1));
  std::nth_element(steps.begin(), at, steps.end());
  return *at;
}

}  // namespace

struct SeamGauge::Mic {
  MicView view;
  TrackId track;
  std::optional<double> usual;  // worked out when a seam needs it

  double usualStepHere() {
    if (!usual) usual = usualStep(view.media->channel(view.channel));
    return *usual;
  }
  MicSeam measure(const Clip& b, std::span<const float> x, std::span<const float> y, std::span<const float> lead);
};

/// Whether a clip sounds like the recording itself.
bool plain(const Clip& c) { return c.map.identity() && !c.reversed && c.extras->ofItsTake() && !c.extras->retuned(); }

/// `x` and `y`: what the earlier and the later piece sound like through the crossfade; `lead`: the earlier one before
/// it.
MicSeam SeamGauge::Mic::measure(const Clip& b, std::span<const float> x, std::span<const float> y,
                                std::span<const float> lead) {
  MicSeam m;
  m.track = track;
  const auto& s = b.seam;
  if (x.size() < 2 || y.size() != x.size()) return m;
  const double r = s.law == CrossfadeLaw::matched ? crossfadeLikeness(x, y, s.shape, s.bias) : 0;
  double got = 0;
  double wanted = 0;
  double steepest = 0;
  double steepestSource = 0;
  double before = x[0];
  const auto length = static_cast<double>(x.size());
  const auto shares = laterShares(s.shape, s.bias, x.size());
  for (std::size_t i = 0; i < x.size(); ++i) {
    const auto g = gainsForShare(s.law, r, shares[i]);
    const double v = static_cast<double>(g.out) * x[i] + static_cast<double>(g.in) * y[i];
    const double share = g.in / std::max(1e-6, static_cast<double>(g.in) + g.out);
    got += v * v;
    wanted += (1 - share) * x[i] * x[i] + share * y[i] * y[i];
    if (i > 0) {
      steepest = std::max(steepest, std::abs(v - before));
      steepestSource = std::max({steepestSource, std::abs(static_cast<double>(x[i]) - x[i - 1]),
                                 std::abs(static_cast<double>(y[i]) - y[i - 1])});
    }
    before = v;
  }
  m.loudDb = decibels(wanted / length / (view.power + 1e-12));
  double surroundings = 0;
  for (const float v : lead) surroundings += static_cast<double>(v) * v;
  got += surroundings;
  wanted += surroundings;
  if (wanted / (length + static_cast<double>(lead.size())) < kHeardPower) return m;
  m.levelDb = decibels(got / wanted);
  // A step no steeper than the sounds themselves needs no look at the whole recording.
  if (steepest > steepestSource) m.steepness = steepest / std::max(1e-9, usualStepHere());
  return m;
}

SeamGauge::SeamGauge(const Song& song, SetId set, const MediaPool& pool, PieceSound sound)
    : song_(song), set_(set), pool_(pool), sound_(std::move(sound)) {}
SeamGauge::~SeamGauge() = default;

std::vector<MicSeam> SeamGauge::measure(const Clip& a, const Clip& b) {
  std::vector<MicSeam> out;
  if (a.end() != b.start || (b.seam.before + b.seam.after).value == 0 || a.muted || b.muted) return out;
  const bool asRecorded = a.take == b.take && plain(a) && plain(b);
  if (!asRecorded && !sound_) return out;
  auto found = mics_.find(a.take);
  if (found == mics_.end()) {
    found = mics_.emplace(a.take, std::vector<Mic>{}).first;
    for (const auto track : song_.find(set_)->tracks) {
      MicSet one;
      one.tracks = {track};
      for (auto& v : micsOf(song_, one, a.take, pool_)) found->second.push_back({std::move(v), track, {}});
    }
  }
  const FrameRange joint{b.start - b.seam.before, b.start + b.seam.after};
  const auto around =
      std::max(Frames{0}, std::min(framesFromMs(kLevelMs, song_.rate) - joint.length(), joint.start - a.start));
  const FrameRange lead{joint.start - around, joint.start};
  for (auto& mic : found->second) {
    if (oneSound(a, b)) {
      out.push_back({mic.track, 0, 0, -120});
    } else if (asRecorded) {
      std::array<std::vector<float>, 3> rooms;
      const auto heard = [&](const Clip& c, FrameRange r, std::vector<float>& room) {
        return mic.view.samples(r.start - c.shift(), r.end - c.shift(), room);
      };
      out.push_back(mic.measure(b, heard(a, joint, rooms[0]), heard(b, joint, rooms[1]), heard(a, lead, rooms[2])));
    } else {
      const auto heard = [&](const Clip& c, FrameRange r) { return sound_(c, mic.track, mic.view.channel, r); };
      const auto x = heard(a, joint);
      const auto y = heard(b, joint);
      if (x.empty() || y.empty()) return {};
      out.push_back(mic.measure(b, x, y, heard(a, lead)));
    }
  }
  return out;
}

SeamMeasure worstOf(const std::vector<MicSeam>& mics) {
  SeamMeasure m;
  for (const auto& mic : mics) {
    if (std::abs(mic.levelDb) > std::abs(m.levelDb)) {
      m.levelDb = mic.levelDb;
      m.worst = mic.track;
    }
    m.steepness = std::max(m.steepness, mic.steepness);
    m.loudDb = std::max(m.loudDb, mic.loudDb);
  }
  return m;
}

Result<std::map<ClipId, SeamMeasure>> measureSeams(const Song& song, SetId id, const MediaPool& pool,
                                                   Progress& progress, const PieceSound& sound) {
  std::map<ClipId, SeamMeasure> out;
  const auto* set = song.find(id);
  if (!set) return out;
  SeamGauge gauge(song, id, pool, sound);
  const auto& clips = *set->clips;
  for (std::size_t i = 1; i < clips.size(); ++i) {
    if (progress.cancelled()) return cancelledError();
    const auto mics = gauge.measure(clips[i - 1], clips[i]);
    if (!mics.empty()) out[clips[i].id] = worstOf(mics);
    progress.report(static_cast<double>(i) / static_cast<double>(clips.size()));
  }
  return out;
}

}  // namespace ochron
