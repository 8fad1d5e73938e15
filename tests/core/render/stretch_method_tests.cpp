// Sound between pins by each method: pitch and level held or taken along, mics in step, made once.

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <random>

#include "edits/hit_edits.h"
#include "edits/pitch_edits.h"
#include "edits/stretch_edits.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "store/song_json.h"
#include "support/song_maker.h"
#include "support/units.h"

namespace ochron {
namespace {

using test::f;
using test::kRate;
constexpr std::int64_t kSeconds = 6;

std::vector<float> tone(double hz) {
  std::vector<float> out(static_cast<std::size_t>(kSeconds * kRate));
  for (std::size_t i = 0; i < out.size(); ++i)
    out[i] = 0.4F * static_cast<float>(std::sin(2 * std::numbers::pi * hz * static_cast<double>(i) / kRate));
  return out;
}

/// Cycles a second between the first and the last rising zero crossing.
double frequencyOf(std::span<const float> x) {
  std::vector<double> at;
  for (std::size_t i = 1; i < x.size(); ++i)
    if (x[i - 1] < 0 && x[i] >= 0)
      at.push_back(static_cast<double>(i) - static_cast<double>(x[i]) / (static_cast<double>(x[i]) - x[i - 1]));
  return static_cast<double>(at.size() - 1) / (at.back() - at.front()) * kRate;
}

double rms(std::span<const float> x) {
  double sum = 0;
  for (const float s : x) sum += static_cast<double>(s) * s;
  return std::sqrt(sum / static_cast<double>(x.size()));
}

struct PinnedTone {
  explicit PinnedTone(const std::vector<std::vector<float>>& mics)
      : made(test::songOf(*TempoMap::steady(kRate, 120), mics, {})) {
    clip = made.song.find(made.set)->clips->front().id;
  }
  /// Pinned every 0.3 s, everything `ratio` times as long.
  void pin(double ratio) {
    for (auto& set : made.song.sets) {
      ClipList clips = *set.clips;
      std::vector<Pin> pins;
      for (std::int64_t at = 0; at <= kSeconds * kRate; at += kRate * 3 / 10)
        pins.push_back({f(at), f(std::llround(static_cast<double>(at) * ratio))});
      clips.front().map = TakeMap(std::move(pins));
      clips.front().length = clips.front().map.stretched(f(kSeconds * kRate));
      set.clips = std::move(clips);
    }
  }
  std::vector<float> heard(std::optional<StretchMethod> method, std::size_t track = 0) {
    made.song = *setStretchMethod(made.song, {clip}, method);
    Progress progress;
    EXPECT_TRUE(makeMissing(made.song, made.pool, store, Frames{}, progress));
    const auto plan = compilePlan(made.song, made.pool, nullptr, &store);
    EXPECT_FALSE(plan.preview);
    std::vector<float> out(static_cast<std::size_t>(made.song.find(clip)->length.value), 0.0F);
    addSegments(*plan.tracks[track].channels[0], Frames{}, out);
    return out;
  }
  test::MadeSong made;
  ClipId clip;
  MadeStore store;
};

TEST(StretchMethods, ATonesPitchAndLevelHoldThroughManyPins) {
  for (const auto method : {StretchMethod::single, StretchMethod::chords})
    for (const double ratio : {0.8, 1.25}) {
      PinnedTone s({tone(220)});
      s.pin(ratio);
      const auto out = s.heard(method);
      const auto inner = std::span<const float>(out).subspan(kRate / 2, out.size() - kRate);
      EXPECT_NEAR(1200 * std::log2(frequencyOf(inner) / 220), 0, 0.5) << ratio;
      for (std::size_t i = 0; i + 2400 < inner.size(); i += 2400)
        EXPECT_NEAR(20 * std::log10(rms(inner.subspan(i, 2400)) / (0.4 / std::numbers::sqrt2)), 0, 1) << i;
    }
}

/// Plucked notes of a bass, one every 0.5 s from 0.25 s on; each rings until the next one damps it.
std::vector<float> bass() {
  std::vector<float> out(static_cast<std::size_t>(kSeconds * kRate), 0.0F);
  for (int n = 0; n < 2 * kSeconds; ++n) {
    const auto from = kRate / 4 + n * kRate / 2;
    const double hz = 41.2 * std::exp2((n * 5 % 12) / 12.0);
    for (std::int64_t i = 0; i < kRate / 2 && from + i < std::ssize(out); ++i) {
      const double t = static_cast<double>(i) / kRate;
      const double damped = std::min(1.0, (kRate / 2.0 - static_cast<double>(i)) / (0.01 * kRate));
      double s = 0;
      for (int k = 1; k <= 12; ++k)
        s += std::exp(-t * (1 + 0.8 * k)) / k * std::sin(2 * std::numbers::pi * hz * k * t + 0.3 * k);
      out[static_cast<std::size_t>(from + i)] = static_cast<float>(0.3 * s * damped * std::min(1.0, t / 0.001));
    }
  }
  return out;
}

struct PinnedBass : PinnedTone {
  explicit PinnedBass(double ratio) : PinnedTone({bass()}) {
    for (auto& set : made.song.sets) {
      ClipList clips = *set.clips;
      std::int64_t at = kRate / 4;
      pins = {{f(0), f(0)}};
      for (int n = 0; n < 2 * kSeconds; ++n) {
        pins.push_back({f(kRate / 4 + n * kRate / 2), f(at)});
        at += std::llround(0.5 * kRate * (n % 2 == 0 ? ratio : 2 - ratio));
      }
      clips.front().map = TakeMap(pins);
      clips.front().length = clips.front().map.stretched(f(kSeconds * kRate));
      set.clips = std::move(clips);
    }
  }
  std::vector<Pin> pins;
};

TEST(StretchMethods, AnAttackNextToAPinIsTheRecordingToTheBitUnderEveryMethodThatKeepsThePitch) {
  const auto recorded = bass();
  for (const auto method : {StretchMethod::drums, StretchMethod::single, StretchMethod::chords})
    for (const double ratio : {0.8, 1.25}) {
      PinnedBass b(ratio);
      const auto heard = b.heard(method);
      for (std::size_t n = 2; n + 2 < b.pins.size(); ++n)
        for (std::int64_t i = 0; i < kRate * 25 / 1000; ++i)
          ASSERT_EQ(heard[static_cast<std::size_t>(b.pins[n].stretched.value + i)],
                    recorded[static_cast<std::size_t>(b.pins[n].take.value + i)])
              << "note " << n << ", frame " << i << ", ratio " << ratio;
    }
}

TEST(StretchMethods, AttacksCloserThanTheyAreHeldStayInOrderAndInBounds) {
  // Strokes 24 ms apart, brought to 12 and to 40 ms in turn.
  constexpr std::int64_t kApart = kRate * 24 / 1000;
  std::vector<float> strokes(static_cast<std::size_t>(kSeconds * kRate), 0.0F);
  for (std::int64_t at = 0; at < std::ssize(strokes); ++at) {
    const double t = static_cast<double>(at % kApart) / kRate;
    strokes[static_cast<std::size_t>(at)] = static_cast<float>(0.5 * std::exp(-t / 0.002) * std::cos(9'000 * t));
  }
  for (const auto method : {StretchMethod::single, StretchMethod::chords}) {
    PinnedTone t({strokes});
    std::vector<Pin> pins;
    std::int64_t to = 0;
    for (std::int64_t k = 0; k * kApart < kSeconds * kRate; ++k) {
      pins.push_back({f(k * kApart), f(to)});
      to += kRate * (k % 2 == 0 ? 12 : 40) / 1000;
    }
    for (auto& set : t.made.song.sets) {
      ClipList clips = *set.clips;
      clips.front().map = TakeMap(pins);
      clips.front().length = pins.back().stretched;
      set.clips = clips;
    }
    const auto heard = t.heard(method);
    ASSERT_EQ(std::ssize(heard), pins.back().stretched.value);
    for (const float x : heard) ASSERT_LT(std::abs(x), 1.5F);
    for (std::size_t n = 1; n + 1 < pins.size(); ++n)
      for (std::int64_t i = 0; i < kRate / 1000; ++i)
        ASSERT_EQ(heard[static_cast<std::size_t>(pins[n].stretched.value + i)],
                  strokes[static_cast<std::size_t>(pins[n].take.value + i)])
            << "stroke " << n << ", frame " << i;
  }
}

TEST(StretchMethods, WhatRingsUntilTheNextAttackEndsWithoutASpikeOfTheEngines) {
  // The steepest bend of the sound in the last 10 ms before each pin, where the recording only rings.
  const auto bend = [](std::span<const float> x) {
    float most = 0;
    for (std::size_t i = 2; i < x.size(); ++i) most = std::max(most, std::abs(x[i] - 2 * x[i - 1] + x[i - 2]));
    return most;
  };
  const auto recorded = bass();
  constexpr std::int64_t kBefore = kRate / 100;
  constexpr float kHardlyHeard = 1e-3F;
  for (const auto method : {StretchMethod::drums, StretchMethod::single, StretchMethod::chords})
    for (const double ratio : {0.75, 1.3}) {
      PinnedBass b(ratio);
      const auto heard = b.heard(method);
      for (std::size_t n = 3; n + 2 < b.pins.size(); ++n) {
        const auto before = [&](const std::vector<float>& x, Frames at) {
          return bend(std::span(x).subspan(static_cast<std::size_t>(at.value - kBefore), kBefore));
        };
        const auto usual = bend(std::span(recorded).subspan(static_cast<std::size_t>(b.pins[n].take.value - kRate / 10),
                                                            static_cast<std::size_t>(kRate / 10 - kBefore)));
        EXPECT_LT(before(heard, b.pins[n].stretched), 3 * usual + before(recorded, b.pins[n].take) + kHardlyHeard)
            << "note " << n << ", ratio " << ratio << ", " << kStretchMethodNames[static_cast<std::size_t>(method)];
      }
    }
}

/// A sung tone: twelve harmonics under one formant, its pitch swinging by 40 cents.
struct Sung {
  static double hertz(double t) { return 196 * std::exp2(40.0 / 1200 * std::sin(2 * std::numbers::pi * 5.5 * t)); }
  Sung() : sound(static_cast<std::size_t>(kSeconds * kRate)) {
    double phase = 0;
    for (std::size_t i = 0; i < sound.size(); ++i) {
      const double t = static_cast<double>(i) / kRate;
      phase += 2 * std::numbers::pi * hertz(t) / kRate;
      double s = 0;
      for (int k = 1; k <= 12; ++k) s += std::exp(-std::pow((k - 4) / 2.5, 2)) * std::sin(k * phase);
      sound[i] = static_cast<float>(0.2 * s);
    }
    for (double t = 0; t < kSeconds; t += PitchTrack::kHop) line.track.values.push_back({hertz(t), 1});
  }
  std::vector<float> sound;
  SungLine line;
};

TEST(StretchMethods, ALineThatWasListenedForKeepsItsPitchItsColourAndItsVibratosDepth) {
  const Sung sung;
  const auto& recorded = sung.sound;
  for (const double ratio : {0.8, 1.25}) {
    PinnedTone t({sung.sound, sung.sound});
    const auto take = t.made.song.find(t.clip)->take;
    t.made.song = *setLine(t.made.song, take, t.made.set, sung.line);
    for (auto& set : t.made.song.sets) {
      ClipList clips = *set.clips;
      const auto length = f(std::llround(static_cast<double>(kSeconds * kRate) * ratio));
      clips.front().map = TakeMap({{f(0), f(0)}, {f(kSeconds * kRate), length}});
      clips.front().length = length;
      set.clips = clips;
    }
    const auto heard = t.heard(StretchMethod::single);
    EXPECT_EQ(heard, t.heard(StretchMethod::single, 1)) << "mics stay copies of each other";
    ASSERT_EQ(std::ssize(heard), std::llround(static_cast<double>(kSeconds * kRate) * ratio));
    double worst = 0;
    double sum = 0;
    int n = 0;
    for (double at = 0.5; at < kSeconds - 0.5; at += 0.037, ++n) {
      const auto window = [&](const std::vector<float>& x, double s) {
        return std::span(x).subspan(static_cast<std::size_t>(s * kRate), kRate / 25);
      };
      // Twelve harmonics cross zero often: the pitch is what the waveform is alike a period later.
      const auto level = 20 * std::log10(rms(window(heard, at * ratio)) / rms(window(recorded, at)));
      worst = std::max(worst, std::abs(level));
      const double period = kRate / Sung::hertz(at + 0.0088 / ratio);
      double best = -1;
      double lag = 0;
      const auto x = std::span(heard).subspan(static_cast<std::size_t>(at * ratio * kRate));
      for (double p = 0.97 * period; p < 1.03 * period; p += 0.1) {
        double ab = 0;
        for (std::size_t i = 0; i < 600; ++i) {
          const auto k = static_cast<std::size_t>(p);
          const double share = p - std::floor(p);
          ab += x[i] * (x[i + k] * (1 - share) + x[i + k + 1] * share);
        }
        if (ab > best) best = ab, lag = p;
      }
      sum += std::abs(1200 * std::log2(lag / period));
    }
    EXPECT_LT(worst, 0.7) << ratio;
    EXPECT_LT(sum / n, 8) << "cents on average, of a swing of 40; ratio " << ratio;
  }
}

TEST(StretchMethods, TapeTakesPitchAlongWithoutAStep) {
  PinnedTone s({tone(300)});
  s.pin(1.25);
  const auto out = s.heard(StretchMethod::tape);
  EXPECT_NEAR(frequencyOf(std::span<const float>(out).subspan(1000, out.size() - 2000)), 240, 0.01);
  const double steepest = 0.4 * 2 * std::numbers::pi * 240 / kRate;
  for (std::size_t i = 1000; i + 1000 < out.size(); ++i) ASSERT_LT(std::abs(out[i] - out[i - 1]), steepest * 1.02) << i;
}

TEST(StretchMethods, ACopyOfAMicStaysACopyToTheBit) {
  auto x = tone(180);
  std::mt19937 dice(3);
  for (auto& v : x) v += std::ldexp(static_cast<float>(dice() % 2048) - 1024.0F, -14);
  for (std::size_t i = 0; i < kStretchMethodNames.size(); ++i) {
    PinnedTone s({x, x});
    s.pin(1.1);
    const auto method = static_cast<StretchMethod>(i);
    EXPECT_EQ(s.heard(method, 0), s.heard(method, 1)) << kStretchMethodNames[i];
  }
}

TEST(StretchMethods, AMethodTriedAndTurnedBackIsTheSameSoundAndMadeOnce) {
  PinnedTone s({tone(220)});
  s.pin(1.2);
  const auto drums = s.heard(StretchMethod::drums);
  const auto chords = s.heard(StretchMethod::chords);
  EXPECT_NE(chords, drums);
  const auto kept = s.store.timesKept();
  EXPECT_EQ(s.heard(StretchMethod::drums), drums);
  EXPECT_EQ(s.heard(StretchMethod::chords), chords);
  EXPECT_EQ(s.store.timesKept(), kept);
}

TEST(StretchMethods, MovingOnePinOfALongTakeMakesOnlyWhatIsNear) {
  PinnedTone s({tone(220)});
  s.pin(1.2);
  s.heard(StretchMethod::tape);
  const auto before = s.store.timesKept();
  for (auto& set : s.made.song.sets) {
    ClipList clips = *set.clips;
    auto pins = clips.front().map.pins();
    pins[10].stretched += f(200);
    clips.front().map = TakeMap(std::move(pins));
    set.clips = std::move(clips);
  }
  s.heard(StretchMethod::tape);
  EXPECT_EQ(s.store.timesKept() - before, 2U);
}

TEST(StretchMethods, AreGuessedByWhatItIsAndDecidedByTheSetAndTheClip) {
  PinnedTone s({tone(220)});
  auto& song = s.made.song;
  const auto now = [&] { return song.methodOf(*song.find(s.made.set), *song.find(s.clip)); };
  EXPECT_EQ(now(), StretchMethod::drums) << "nothing is known";
  song = *setDetectedHits(song, s.made.take, s.made.set, {}, 0.1);
  EXPECT_EQ(now(), StretchMethod::chords);
  song = *setDetectedHits(song, s.made.take, s.made.set, {}, 0.9);
  EXPECT_EQ(now(), StretchMethod::drums);
  SungLine line;
  line.notes.resize(1);
  song.takes.front().facts.front().line = line;
  EXPECT_EQ(now(), StretchMethod::single);
  song.tracks.front().role = MicRole::snare;
  EXPECT_EQ(now(), StretchMethod::drums);
  song = *setStretchMethod(song, s.made.set, StretchMethod::tape);
  EXPECT_EQ(now(), StretchMethod::tape);
  song = *setStretchMethod(song, {s.clip}, StretchMethod::chords);
  EXPECT_EQ(now(), StretchMethod::chords);
  song.takes.front().facts.front().line = SungLine{};
  const auto read = songFromJson(songToJson(song), "song.json");
  ASSERT_TRUE(read) << read.error().message;
  EXPECT_EQ(*read, song);
}

}  // namespace
}  // namespace ochron
