#include "render/segments.h"

#include <algorithm>
#include <cmath>

#include "dsp/fade.h"
#include "dsp/varispeed.h"
#include "song/joint.h"

namespace ochron {
namespace {

constexpr double kTapeEndSeconds = 0.006;  // gain fade where the reel stands still

/// Reach of a clip including its crossfades.
struct Reach {
  Frames start;
  Frames end;
  Ramp in;
  Ramp out;
};

bool joined(const Clip& a, const Clip& b) {
  return a.end() == b.start && !a.muted && !b.muted && (b.seam.before.value > 0 || b.seam.after.value > 0);
}

Seam fitted(const Clip& a, const Clip& b) {
  Seam s = b.seam;
  s.before = std::min(s.before, a.length);
  s.after = std::min(s.after, b.length);
  return s;
}

Ramp fadeRamp(const Fade& f, int rate) {
  if (f.length.value == 0) return {};
  if (f.kind == FadeKind::gain) return {Ramp::Kind::fade, f.length, f.shape, f.bend, {}, 0};
  return {
      Ramp::Kind::fade, std::min(f.length, Frames{std::llround(kTapeEndSeconds * rate)}), FadeShape::line, 0, {}, 0};
}

class ChannelCompiler {
 public:
  ChannelCompiler(const Song& song, const ClipList& clips, const ClipSources& sources, const PlanParts& parts,
                  int channel, Side side)
      : song_(song), clips_(clips), sources_(sources), parts_(parts), channel_(channel), side_(side) {}

  SegmentList run() {
    findReaches();
    out_.segments.reserve(clips_.size());
    for (std::size_t i = 0; i < clips_.size(); ++i) addClip(i);
    // The pieces of a clip's end may lie among those of the next one's beginning.
    std::stable_sort(out_.segments.begin(), out_.segments.end(),
                     [](const Segment& a, const Segment& b) { return a.start < b.start; });
    Frames end;
    for (const auto& s : out_.segments) out_.ends.push_back(end = std::max(end, s.end()));
    return std::move(out_);
  }

 private:
  ClipReader readerOf(const Clip& c, const Source& source) const {
    const auto found = parts_.made.find(c.id);
    return {c, source, found == parts_.made.end() ? nullptr : &found->second, channel_};
  }

  double likeness(const Clip& a, const Clip& b, const Seam& s) const {
    if (s.law != CrossfadeLaw::matched) return 0;
    if (oneSound(a, b)) return 1;
    const FrameRange range{b.start - s.before, b.start + s.after};
    std::vector<float> roomA;
    std::vector<float> roomB;
    const auto out = readerOf(a, *sources_.of(a)).samples(range, roomA);
    const auto in = readerOf(b, *sources_.of(b)).samples(range, roomB);
    return out.empty() || in.empty() ? 0 : crossfadeLikeness(out, in, s.shape, s.bias);
  }

  void findReaches() {
    reach_.resize(clips_.size());
    for (std::size_t i = 0; i < clips_.size(); ++i) {
      const auto& c = clips_[i];
      reach_[i] = {c.start, c.end(), fadeRamp(c.fadeIn, song_.rate), fadeRamp(c.fadeOut, song_.rate)};
      if (i == 0 || !joined(clips_[i - 1], c) || !sources_.of(c) || !sources_.of(clips_[i - 1])) continue;
      const auto seam = fitted(clips_[i - 1], c);
      const Ramp ramp{Ramp::Kind::crossfade,           seam.before + seam.after, seam.shape, seam.bias, seam.law,
                      likeness(clips_[i - 1], c, seam)};
      reach_[i].start = c.start - seam.before;
      reach_[i].in = ramp;
      reach_[i - 1].end = c.start + seam.after;
      reach_[i - 1].out = ramp;
    }
  }

  float gainOf(const Clip& c) const {
    const float gain = c.gainDb == 0 ? 1.0f : static_cast<float>(std::pow(10.0, c.gainDb / 20.0));
    if (side_ == Side::left && c.pan > 0) return gain * static_cast<float>(1 - c.pan / 100);
    if (side_ == Side::right && c.pan < 0) return gain * static_cast<float>(1 + c.pan / 100);
    return gain;
  }

  /// The clip's gain envelope and its bundle's gain and fades; null when there are none.
  const GainCurve* curveOf(const Clip& c) {
    GainCurve curve;
    if (const auto& e = c.extras->gain; !e.empty()) {
      std::vector<Frames> knots;
      for (const auto& p : e) knots.push_back(c.toSong(p.at));
      curve = baked(std::move(knots), [&](Frames f) {
        const double db = valueAt(e, c.toTake(f), 0);
        return db <= kSilentDb ? 0.0 : std::pow(10.0, db / 20);
      });
    }
    if (const auto* b = song_.find(c.bundle)) curve = product(curve, bundleCurve(*b));
    if (curve.empty()) return nullptr;
    out_.curves.push_back(std::make_unique<const GainCurve>(std::move(curve)));
    return out_.curves.back().get();
  }

  GainCurve bundleCurve(const Bundle& b) const {
    if (b.fadeIn.length.value == 0 && b.fadeOut.length.value == 0 && b.gainDb == 0) return {};
    const auto whole = parts_.bundles.at(b.id);
    const auto in = std::max(Frames{1}, std::min(b.fadeIn.length, whole.length()));
    const auto out = std::max(Frames{1}, std::min(b.fadeOut.length, whole.length()));
    const double gain = std::pow(10.0, b.gainDb / 20);
    return baked({whole.start, whole.start + in, whole.end - out, whole.end}, [&](Frames f) {
      double g = gain;
      if (b.fadeIn.length.value > 0)
        g *= fadeGain(b.fadeIn.shape, b.fadeIn.bend,
                      static_cast<double>((f - whole.start).value) / static_cast<double>(in.value));
      if (b.fadeOut.length.value > 0)
        g *= fadeGain(b.fadeOut.shape, b.fadeOut.bend,
                      static_cast<double>((whole.end - f).value) / static_cast<double>(out.value));
      return g;
    });
  }

  void addClip(std::size_t i) {
    const auto& c = clips_[i];
    const auto* source = sources_.of(c);
    if (c.muted || !source) return;
    const auto reader = readerOf(c, *source);
    auto& reach = reach_[i];
    Segment s;
    s.gain = gainOf(c);
    s.in = reach.in;
    s.out = reach.out;
    s.rampStart = reach.start;
    s.rampEnd = reach.end;
    s.curve = curveOf(c);
    const bool tapeIn = isTape(c.fadeIn, reach.in);
    const bool tapeOut = isTape(c.fadeOut, reach.out);
    if (tapeIn) addTape(c, reader, true, s);
    const FrameRange plain{tapeIn ? c.start + c.fadeIn.length : reach.start,
                           tapeOut ? c.end() - c.fadeOut.length : reach.end};
    for (auto& piece : reader.pieces(plain)) addPiece(std::move(piece), s);
    if (tapeOut) addTape(c, reader, false, s);
  }

  /// A piece of a clip; `s` has what all its pieces share.
  void addPiece(SoundPiece piece, Segment s) {
    s.start = piece.range.start;
    s.length = piece.range.length();
    if (!piece.own.empty()) {
      out_.sounds.push_back(std::move(piece.own));
      piece.samples = out_.sounds.back();
      piece.own.clear();
    }
    s.samples = piece.heard(piece.range);
    if (piece.in.kind != Ramp::Kind::none) {
      s.in = piece.in;
      s.rampStart = s.start;
    }
    if (piece.out.kind != Ramp::Kind::none) {
      s.out = piece.out;
      s.rampEnd = s.end();
    }
    out_.segments.push_back(s);
  }

  static bool isTape(const Fade& f, const Ramp& ramp) {
    return f.kind == FadeKind::tape && f.length.value > 0 && ramp.kind == Ramp::Kind::fade;
  }

  /// The stretch of a tape fade: the clip read at a speed that follows the fade's curve.
  void addTape(const Clip& c, const ClipReader& reader, bool atStart, Segment s) {
    const auto& fade = atStart ? c.fadeIn : c.fadeOut;
    const auto n = fade.length.value;
    const Frames around{speedReach(1)};
    const FrameRange read = atStart ? FrameRange{c.start - around, c.start + fade.length + around}
                                    : FrameRange{c.end() - fade.length - around, c.end() + around};
    const auto samples = reader.copy(read);
    const SpeedSource source{samples.data(), 1, std::ssize(samples)};
    std::vector<float> out(static_cast<std::size_t>(n));
    const auto speed = [&](std::int64_t k) {  // k frames from the standstill
      return static_cast<double>(
          fadeGain(fade.shape, fade.bend, (static_cast<double>(k) + 0.5) / static_cast<double>(n)));
    };
    auto at = static_cast<double>(around.value + (atStart ? n : 0));  // in `samples`
    if (!atStart) {
      for (std::int64_t k = 0; k < n; ++k) {
        const double v = speed(n - 1 - k);
        out[static_cast<std::size_t>(k)] = speedRead(source, at, v);
        at += v;
      }
      s.start = c.end() - fade.length;
    } else {
      for (auto k = n - 1; k >= 0; --k) {
        const double v = speed(k);
        at -= v;
        out[static_cast<std::size_t>(k)] = speedRead(source, at, v);
      }
      s.start = c.start;
    }
    s.length = fade.length;
    out_.sounds.push_back(std::move(out));
    s.samples = out_.sounds.back();
    out_.segments.push_back(s);
  }

  const Song& song_;
  const ClipList& clips_;
  const ClipSources& sources_;
  const PlanParts& parts_;
  const int channel_;
  const Side side_;
  std::vector<Reach> reach_;
  SegmentList out_;
};

}  // namespace

ClipSources::ClipSources(const Song& song, const MicSet& set, TrackId track, const MediaPool& pool)
    : place_(static_cast<std::size_t>(std::find(set.tracks.begin(), set.tracks.end(), track) - set.tracks.begin())) {
  const auto keep = [&](TakeId take, const TakeMic& mic) {
    if (const auto found = pool.find(mic.media); found != pool.end())
      sources_[{take, mic.media}] = {mic.media, found->second, mic.offset};
  };
  for (const auto& take : song.takes)
    for (const auto& mic : take.mics)
      if (mic.track == track) {
        keep(take.id, mic);
        own_[take.id] = mic.media;
      }
  for (const auto& c : *set.clips) {
    if (c.extras->ofItsTake()) continue;
    const auto* mic = song.micFor(set, c, track);
    if (mic && !c.extras->sound) keep(c.take, *mic);
    const auto found = mic && c.extras->sound ? pool.find(mic->media) : pool.end();
    if (found != pool.end()) sounds_[{mic->media, mic->offset}] = {mic->media, found->second, mic->offset};
  }
}

const Source* ClipSources::of(const Clip& clip) const {
  if (const auto& sound = clip.extras->sound) {
    const auto found = sounds_.find({sound->media, sound->offset});
    return found == sounds_.end() ? nullptr : &found->second;
  }
  MediaId media;
  if (!clip.extras->media.empty()) {
    if (place_ < clip.extras->media.size()) media = clip.extras->media[place_];
  } else if (const auto own = own_.find(clip.take); own != own_.end()) {
    media = own->second;
  }
  const auto found = sources_.find({clip.take, media});
  return found == sources_.end() ? nullptr : &found->second;
}

std::vector<std::shared_ptr<const DecodedMedia>> ClipSources::all() const {
  std::vector<std::shared_ptr<const DecodedMedia>> out;
  for (const auto& [key, source] : sources_) out.push_back(source.media);
  for (const auto& [key, source] : sounds_) out.push_back(source.media);
  return out;
}

PlanParts::PlanParts(const Song& song, const MediaPool& pool, const MadeStore* store)
    : made(soundsAtHand(song, pool, store)) {
  for (const auto& s : song.sets)
    for (const auto& c : *s.clips) {
      if (!c.bundle) continue;
      auto& whole = bundles.try_emplace(c.bundle, c.range()).first->second;
      whole = {std::min(whole.start, c.start), std::max(whole.end, c.end())};
    }
}

SegmentList compileChannel(const Song& song, const ClipList& clips, const ClipSources& sources, const PlanParts& parts,
                           int channel, Side side) {
  return ChannelCompiler(song, clips, sources, parts, channel, side).run();
}

}  // namespace ochron
