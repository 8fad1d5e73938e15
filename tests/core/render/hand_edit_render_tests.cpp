// What edits by hand sound like.

#include <gtest/gtest.h>

#include <cmath>
#include <fstream>
#include <iterator>
#include <numbers>

#include "analysis/pitch/pitch.h"
#include "dsp/varispeed.h"
#include "edits/arrange.h"
#include "edits/clip_edits.h"
#include "edits/fade_edits.h"
#include "edits/mark_edits.h"
#include "edits/pitch_edits.h"
#include "edits/stretch_edits.h"
#include "media/audio_file.h"
#include "render/chain.h"
#include "render/export.h"
#include "render/made_store.h"
#include "render/render.h"
#include "render/render_plan.h"
#include "render/song_speed.h"
#include "support/made_voice.h"
#include "support/scratch.h"
#include "support/tones.h"
#include "support/two_sets.h"
#include "support/units.h"
#include "takes/hear_line.h"

namespace ochron {
namespace {

using test::f;
using test::TwoSets;

/// Hz by counting upward zero crossings, interpolated.
double pitchOf(std::span<const float> s) {
  double first = -1;
  double last = -1;
  int count = 0;
  for (std::size_t i = 1; i < s.size(); ++i) {
    if (!(s[i - 1] < 0 && s[i] >= 0)) continue;
    const double at = static_cast<double>(i - 1) + s[i - 1] / (s[i - 1] - s[i]);
    if (first < 0)
      first = at;
    else
      ++count;
    last = at;
  }
  return count == 0 ? 0 : count * 48'000.0 / (last - first);
}

/// The bass plays a sine of 440 Hz.
struct WithTone : TwoSets {
  WithTone() {
    track = song.find(bass)->tracks[0];
    pool[song.micOf(song.takes[0].id, track)->media] = DecodedMedia::fromSamples(48'000, {sine(440, 480'000)});
  }
  /// The track from the song's beginning, once all of it is made.
  std::vector<float> whenMade(MadeStore& made, std::size_t frames) const {
    Progress progress;
    EXPECT_TRUE(makeMissing(song, pool, made, f(0), progress));
    const auto plan = compilePlan(song, pool, nullptr, &made);
    std::vector<float> out(frames);
    addSegments(*plan.tracks[3].channels[0], f(0), out);
    return out;
  }
  TrackId track;
};

TEST(HandEdits, AReversedClipIsTheRecordingBackwardsBitForBit) {
  TwoSets t;
  const auto track = t.song.find(t.kit)->tracks[1];
  t.song = *trimStarts(t.song, {t.kitClip}, f(100));
  t.song = *reverseClips(t.song, {t.kitClip});
  const auto out = t.heard(track, {f(100), f(480'000)});
  const auto& in = t.sound(track);
  for (std::size_t i = 0; i < out.size(); ++i) ASSERT_EQ(out[i], in[in.size() - 1 - i]) << i;
}

TEST(HandEdits, SlippedAndMovedClipsAreBitForBitTheirSource) {
  TwoSets t;
  const auto track = t.song.find(t.kit)->tracks[2];
  t.song = *trimEnds(*trimStarts(t.song, {t.kitClip}, f(10'000)), {t.kitClip}, f(-10'000));
  t.song = *moveClips(*slipClips(t.song, {t.kitClip}, f(-333)), {t.kitClip}, f(777));
  const auto out = t.heard(track, {f(10'777), f(20'777)});
  for (std::size_t i = 0; i < out.size(); ++i) ASSERT_EQ(out[i], t.sound(track)[10'333 + i]);
}

TEST(HandEdits, AClipOnAnotherTrackSoundsAsItDidOnItsOwn) {
  TwoSets t;
  const auto bass = t.song.find(t.bass)->tracks[0];
  const auto voice = t.song.find(t.voice)->tracks[0];
  t.song = *moveClipsAcross(t.song, {t.bassClip}, f(0), 1, Overlap::cover);
  EXPECT_EQ(t.heard(voice, {f(0), f(5000)}), std::vector<float>(t.sound(bass).begin(), t.sound(bass).begin() + 5000));
  EXPECT_EQ(t.heard(bass, {f(0), f(5000)}), std::vector<float>(5000, 0.0f));
}

TEST(HandEdits, ASpanIsSilentToItsEdgesAndTouchesNothingBeyondItsFades) {
  TwoSets t;
  const auto track = t.song.find(t.kit)->tracks[0];
  t.song = *addSpan(t.song, {track}, {f(20'000), f(30'000)}, "");
  t.song = *addSpan(t.song, {track}, {f(25'000), f(28'000)}, "inside the other");
  const auto out = t.heard(track, {f(0), f(40'000)});
  const auto& in = t.sound(track);
  const std::int64_t fade = 192;
  for (std::int64_t i = 0; i < 40'000; ++i) {
    const auto k = static_cast<std::size_t>(i);
    if (i <= 20'000 - fade || i >= 30'000) {
      ASSERT_EQ(out[k], in[k]) << i;
    } else if (i >= 20'000 && i <= 30'000 - fade) {
      ASSERT_EQ(out[k], 0.0f) << i;
    }
  }
  // A clip that begins inside the span is silent in it too.
  t.song = *moveClips(t.song, {t.kitClip}, f(22'000));
  const auto later = t.heard(track, {f(20'000), f(29'000)});
  EXPECT_TRUE(std::all_of(later.begin(), later.end(), [](float s) { return s == 0; }));
}

TEST(HandEdits, EnvelopesOfTracksClipsAndSongMultiply) {
  WithTone t;
  t.song = *setEnvelope(t.song, {EnvelopeKind::trackGain, t.track, {}}, {{f(0), -6, 0}});
  t.song = *setEnvelope(t.song, {EnvelopeKind::clipGain, {}, t.bassClip}, {{f(0), 0, 0}, {f(48'000), -12, 0}});
  t.song = *setEnvelope(t.song, {EnvelopeKind::songGain, {}, {}}, {{f(0), -3, 0}});
  for (auto& track : t.song.tracks) track.muted = track.id != t.track;
  const auto plan = compilePlan(t.song, t.pool);
  std::vector<float> l(96'000), r(96'000), scratch(96'000);
  addMix(plan, f(0), l, r, scratch, {});
  const auto plain = sine(440, 96'000);
  const auto gainAt = [&](std::size_t at) {
    double a = 0, b = 0;
    for (std::size_t i = at; i < at + 480; ++i) a += l[i] * l[i], b += plain[i] * plain[i];
    return 10 * std::log10(a / b);
  };
  EXPECT_NEAR(gainAt(23'760), -6 - 6 - 3, 0.1);
  EXPECT_NEAR(gainAt(60'000), -6 - 12 - 3, 0.02);
}

TEST(HandEdits, MuteAndPanEnvelopesAct) {
  WithTone t;
  t.song =
      *setEnvelope(t.song, {EnvelopeKind::trackMute, t.track, {}}, {{f(0), 0, 0}, {f(1000), 1, 0}, {f(5000), 0, 0}});
  t.song = *setEnvelope(t.song, {EnvelopeKind::trackPan, t.track, {}}, {{f(0), -100, 0}, {f(40'000), 100, 0}});
  for (auto& track : t.song.tracks) track.muted = track.id != t.track;
  const auto plan = compilePlan(t.song, t.pool);
  std::vector<float> l(48'000), r(48'000), scratch(48'000);
  addMix(plan, f(0), l, r, scratch, {});
  const auto peak = [](std::span<const float> s) {
    float p = 0;
    for (const float x : s) p = std::max(p, std::abs(x));
    return p;
  };
  EXPECT_EQ(peak(std::span(l).subspan(1000, 3800)), 0.0f);
  EXPECT_GT(peak(std::span(l).first(700)), 0.4f);
  EXPECT_LT(peak(std::span(r).first(700)), 0.02f);
  EXPECT_EQ(peak(std::span(l).subspan(41'000)), 0.0f);
  EXPECT_GT(peak(std::span(r).subspan(41'000)), 0.4f);
}

TEST(HandEdits, AClipsPanMakesAMonoTrackTwoSided) {
  WithTone t;
  t.song = *changeClips(t.song, {t.bassClip}, [](Clip& c) { c.pan = -100; });
  for (auto& track : t.song.tracks) track.muted = track.id != t.track;
  std::vector<float> l(1000), r(1000), scratch(1000);
  addMix(compilePlan(t.song, t.pool), f(0), l, r, scratch, {});
  EXPECT_EQ(l, sine(440, 1000));
  EXPECT_EQ(r, std::vector<float>(1000, 0.0f));
}

TEST(HandEdits, ABundlesFadesRunOverAllItsClips) {
  TwoSets t;
  t.song = *splitAt(t.song, t.bass, {f(10'000)}, f(0));
  t.song = *bundleClips(t.song, test::idsOf(t.song, t.bass), "Outro");
  auto b = t.song.bundles.front();
  b.fadeIn.length = f(20'000);
  t.song = *setBundle(t.song, b);
  const auto track = t.song.find(t.bass)->tracks[0];
  const auto out = t.heard(track, {f(0), f(30'000)});
  for (const std::size_t i : {5000u, 10'000u, 15'000u})
    EXPECT_NEAR(out[i], t.sound(track)[i] * static_cast<float>(i) / 20'000, 2e-4) << i;
  EXPECT_EQ(out[25'000], t.sound(track)[25'000]);
}

TEST(TapeFade, ComesToAStandstillAndLeavesWhatIsBeforeAlone) {
  WithTone t;
  t.song = *changeFades(t.song, {t.bassClip}, FadeEnd::out, [](const Clip&, Fade) {
    return Fade{f(96'000), FadeShape::line, 0, FadeKind::tape};
  });
  const auto out = t.heard(t.track, {f(0), f(480'000)});
  const auto in = sine(440, 480'000);
  for (std::size_t i = 0; i < 384'000; ++i) ASSERT_EQ(out[i], in[i]);
  // Speed falls straight from 1 to 0: a quarter in it is 3/4, half way 1/2.
  const auto around = [&](std::size_t at) { return pitchOf(std::span(out).subspan(at - 2400, 4800)); };
  EXPECT_NEAR(around(384'000 + 24'000), 330, 4);
  EXPECT_NEAR(around(384'000 + 48'000), 220, 4);
  EXPECT_NEAR(std::abs(out[479'999]), 0, 0.01);
  for (std::size_t i = 384'000; i < 480'000; ++i) ASSERT_LT(std::abs(out[i] - out[i - 1]), 0.031) << i;  // no click
}

TEST(TapeFade, AStartRunsUpIntoTheRecordingWithoutAJump) {
  WithTone t;
  t.song = *changeFades(t.song, {t.bassClip}, FadeEnd::in, [](const Clip&, Fade) {
    return Fade{f(48'000), FadeShape::line, 0, FadeKind::tape};
  });
  const auto out = t.heard(t.track, {f(0), f(96'000)});
  const auto in = sine(440, 96'000);
  for (std::size_t i = 48'000; i < 96'000; ++i) ASSERT_EQ(out[i], in[i]);
  EXPECT_NEAR(pitchOf(std::span(out).subspan(21'600, 4800)), 220, 5);
  for (std::size_t i = 1; i < 50'000; ++i) ASSERT_LT(std::abs(out[i] - out[i - 1]), 0.031) << i;
}

TEST(TapeFade, OverARangeEndsAtItsEnd) {
  WithTone t;
  t.song = *tapeFade(t.song, {t.bass, t.kit}, {f(100'000), f(148'000)}, FadeEnd::out);
  EXPECT_TRUE(brokenRules(t.song).empty());
  const auto out = t.heard(t.track, {f(0), f(200'000)});
  EXPECT_NEAR(pitchOf(std::span(out).subspan(121'600, 4800)), 220, 5);
  EXPECT_EQ(out[160'000], sine(440, 200'000)[160'000]);
}

TEST(PitchEnvelope, MovesThePitchAndKeepsTheTiming) {
  WithTone t;
  t.song = *trimEnds(t.song, {t.bassClip}, f(-240'000));
  t.song = *setEnvelope(t.song, {EnvelopeKind::clipPitch, {}, t.bassClip},
                        {{f(0), 0, 0}, {f(96'000), 0, 0}, {f(96'001), 700, 0}});
  MadeStore made;
  const auto out = t.whenMade(made, 240'000);
  EXPECT_NEAR(pitchOf(std::span(out).subspan(20'000, 60'000)), 440, 1);
  EXPECT_NEAR(pitchOf(std::span(out).subspan(120'000, 60'000)), 440 * std::exp2(7.0 / 12), 2);
  // Moving the clip needs no new sound; another envelope does.
  const auto moved = *moveClips(t.song, {t.bassClip}, f(500));
  EXPECT_TRUE(missingParts(moved, t.pool, made, f(0)).empty());
  const auto other = *setEnvelope(t.song, {EnvelopeKind::clipPitch, {}, t.bassClip}, {{f(0), 100, 0}});
  EXPECT_FALSE(missingParts(other, t.pool, made, f(0)).empty());
}

TEST(PitchEnvelope, PartsOfAHeldChordAreJoinedWithoutADip) {
  WithTone t;
  t.song = *trimEnds(t.song, {t.bassClip}, f(-200'000));
  std::vector<float> chord(480'000);
  double phase = 0;
  for (const double hz : {130.8, 164.8, 196.0, 329.6, 493.9, 660.1, 987.0}) {
    phase += 1;
    for (std::size_t i = 0; i < chord.size(); ++i)
      chord[i] +=
          static_cast<float>(0.1 * std::sin(2 * std::numbers::pi * hz * static_cast<double>(i) / 48'000 + phase));
  }
  t.pool[t.song.micOf(t.song.takes[0].id, t.track)->media] = DecodedMedia::fromSamples(48'000, {chord});
  t.song = *transposeClips(t.song, {t.bassClip}, 300);
  MadeStore made;
  const auto out = t.whenMade(made, 270'000);
  for (std::size_t at = 24'000; at + 2'400 < 250'000; at += 1'200) {
    double sum = 0;
    for (std::size_t i = 0; i < 2'400; ++i) sum += static_cast<double>(out[at + i]) * static_cast<double>(out[at + i]);
    EXPECT_NEAR(10 * std::log10(sum / 2'400 / 0.035), 0, 0.7) << at;
  }
}

struct RetunedVoice : ::testing::Test {
  RetunedVoice() {
    MadeVoice voice;
    voice.seconds = 10;
    voice.notes = {{0, 10, kMidi}};
    recorded = voice.samples();
    t.pool[t.song.micOf(t.song.takes[0].id, t.track)->media] = DecodedMedia::fromSamples(48'000, {recorded});
    t.song = *transposeClips(t.song, {t.bassClip}, 700);
  }
  /// The loudest harmonic of what is heard between the second and the third second, Hz.
  double loudest(const Song& song, MadeStore& made) const {
    const auto plan = compilePlan(song, t.pool, nullptr, &made);
    std::vector<float> out(48'000);
    addSegments(*plan.tracks[3].channels[0], f(96'000), out);
    double best = 0;
    double most = 0;
    for (int h = 1; h * kShifted < 2000; ++h)
      if (const double p = powerAt(out, h * kShifted, 48'000); p > most) {
        most = p;
        best = h * kShifted;
      }
    return best;
  }
  static constexpr double kMidi = 43;
  const double kShifted = 440 * std::exp2((kMidi + 7 - 69) / 12);
  WithTone t;
  std::vector<float> recorded;
  Progress progress;
};

TEST_F(RetunedVoice, KeepsItsFormantsOrTakesThemAlongAsDecided) {
  const auto formantOf = [&](std::optional<Formants> decided, StretchMethod method) {
    auto song = *setStretchMethod(t.song, {t.bassClip}, method);
    song = *setFormants(song, {t.bassClip}, decided);
    MadeStore made;
    EXPECT_TRUE(makeMissing(song, t.pool, made, f(0), progress));
    return loudest(song, made);
  };
  const double up = std::exp2(7.0 / 12);
  EXPECT_NEAR(formantOf({}, StretchMethod::single), 700, 0.6 * kShifted) << "a single note's stay";
  EXPECT_NEAR(formantOf({}, StretchMethod::chords), 700 * up, 0.6 * kShifted) << "others' go along";
  EXPECT_NEAR(formantOf(Formants{true, 0}, StretchMethod::single), 700 * up, 0.6 * kShifted);
  EXPECT_NEAR(formantOf(Formants{false, 0}, StretchMethod::chords), 700, 0.6 * kShifted);
  EXPECT_NEAR(formantOf(Formants{false, -500}, StretchMethod::single), 700 * std::exp2(-5.0 / 12), 0.6 * kShifted);
}

TEST_F(RetunedVoice, OnceListenedForGoesPeriodByPeriodAndWhatIsNotVoicedIsTheRecording) {
  MadeVoice voice;
  voice.seconds = 10;
  voice.notes = {{1, 3, kMidi}, {5, 3, kMidi}};
  recorded = voice.samples();
  auto dice = std::uint32_t{7};
  for (std::size_t i = 4 * 48'000 + 9'600; i < 4 * 48'000 + 38'400; ++i)  // breath between the notes
    recorded[i] += 0.003F * (static_cast<float>((dice = dice * 1'664'525U + 1'013'904'223U) >> 8) / 8'388'608.0F - 1);
  t.pool[t.song.micOf(t.song.takes[0].id, t.track)->media] = DecodedMedia::fromSamples(48'000, {recorded});
  const auto line = hearLine(t.song, *t.song.find(t.bass), t.song.takes[0].id, t.pool, {}, progress);
  ASSERT_TRUE(line) << line.error().message;
  t.song = *setLine(t.song, t.song.takes[0].id, t.bass, *line);
  MadeStore made;
  ASSERT_TRUE(makeMissing(t.song, t.pool, made, f(0), progress));
  std::vector<float> out(480'000);
  addSegments(*compilePlan(t.song, t.pool, nullptr, &made).tracks[3].channels[0], f(0), out);
  for (std::size_t i = 4 * 48'000 + 14'400; i < 4 * 48'000 + 33'600; ++i) ASSERT_EQ(out[i], recorded[i]) << i;
  const auto sung = std::span(out).subspan(2 * 48'000, 48'000);
  const double sungHertz = *pitchOfMoment(sung, 48'000);
  EXPECT_NEAR(1200 * std::log2(sungHertz / kShifted), 0, 2);
  EXPECT_NEAR(loudest(t.song, made), 700, 0.6 * kShifted);
  // A part is the same whichever of its neighbours was made first.
  MadeStore other;
  ASSERT_TRUE(makeMissing(t.song, t.pool, other, f(400'000), progress));
  std::vector<float> again(480'000);
  addSegments(*compilePlan(t.song, t.pool, nullptr, &other).tracks[3].channels[0], f(0), again);
  EXPECT_EQ(out, again);
}

TEST_F(RetunedVoice, IsMadeAnewForOtherFormantsOnly) {
  MadeStore made;
  ASSERT_TRUE(makeMissing(t.song, t.pool, made, f(0), progress));
  const auto along = *setFormants(t.song, {t.bassClip}, Formants{true, 0});
  const auto held = *setFormants(along, {t.bassClip}, Formants{false, 0});
  const bool single = t.song.methodOf(*t.song.find(t.bass), *t.song.find(t.bassClip)) == StretchMethod::single;
  EXPECT_EQ(missingParts(along, t.pool, made, f(0)).empty(), !single);
  EXPECT_EQ(missingParts(held, t.pool, made, f(0)).empty(), single);
  EXPECT_FALSE(setFormants(t.song, {t.bassClip}, Formants{false, 2000}));
}

TEST_F(RetunedVoice, IsHeardAtOnceNearThePlayLineByWhatStandsIn) {
  MadeStore made;
  makeQuickly(t.song, t.pool, made, {f(96'000), f(144'000)});
  const auto plan = compilePlan(t.song, t.pool, nullptr, &made);
  EXPECT_TRUE(plan.preview) << "an export refuses it";
  EXPECT_FALSE(missingParts(t.song, t.pool, made, f(0)).empty());
  std::vector<float> near(24'000);
  std::vector<float> far(24'000);
  addSegments(*plan.tracks[3].channels[0], f(100'000), near);
  addSegments(*plan.tracks[3].channels[0], f(360'000), far);
  const double sung = 440 * std::exp2((kMidi - 69) / 12);
  const auto fundamental = [](const std::vector<float>& x, double hertz) { return powerAt(x, hertz, 48'000); };
  EXPECT_GT(fundamental(near, kShifted), 30 * fundamental(near, sung));
  EXPECT_GT(fundamental(far, sung), 30 * fundamental(far, kShifted)) << "far away the recording stands in";
  // What is made takes its place.
  ASSERT_TRUE(makeMissing(t.song, t.pool, made, f(0), progress));
  EXPECT_FALSE(compilePlan(t.song, t.pool, nullptr, &made).preview);
}

TEST(SpeedReading, AtFullSpeedBetweenSamplesIsTheSineItself) {
  const auto in = sine(5000, 10'000);
  const SpeedSource source{in.data(), 1, 10'000};
  for (int i = 0; i < 500; ++i) {
    const double at = 4000 + i * 1.37;
    EXPECT_NEAR(speedRead(source, at, 1), 0.5 * std::sin(2 * std::numbers::pi * 5000 * at / 48'000), 2e-5);
  }
}

TEST(SpeedReading, TwiceTheSpeedTakesOutWhatWouldFold) {
  const auto in = sine(17'000, 20'000);
  const SpeedSource source{in.data(), 1, 20'000};
  for (int i = 0; i < 500; ++i) EXPECT_NEAR(speedRead(source, 5000 + i * 2.0, 2), 0, 1e-4);
}

TEST(SongSpeed, AnExportIsAsMuchShorterAndHigher) {
  WithTone t;
  const test::Scratch scratch;
  for (auto& track : t.song.tracks) track.muted = track.id != t.track;
  t.song = *setEnvelope(t.song, {EnvelopeKind::songSpeed, {}, {}}, {{f(0), 150, 0}});
  ExportSettings s;
  s.range = {f(0), f(480'000)};
  s.samples = SampleFormat::float32;
  t.song = *addMarker(t.song, t.song.tempo.toTicks(f(240'000)), Ticks{}, "half way");
  Progress progress;
  Outputs outputs;
  const auto report = exportSong(t.song, compilePlan(t.song, t.pool), s, scratch / "fast.wav", outputs, progress);
  ASSERT_TRUE(report.has_value()) << report.error().message << report.error().detail;
  ASSERT_TRUE(outputs.commit());
  auto reader = AudioFileReader::open(scratch / "fast.wav");
  ASSERT_TRUE(reader.has_value());
  EXPECT_NEAR(static_cast<double>(reader->info().length.value), 320'000, 1);
  EXPECT_EQ(PlayedTime(*t.song.speedEnvelope, f(0)).of(f(240'000)), f(160'000));
  std::ifstream file(scratch / "fast.wav", std::ios::binary);
  const std::string bytes((std::istreambuf_iterator<char>(file)), {});
  EXPECT_NE(bytes.find("cue "), std::string::npos);
  std::vector<float> all(320'000 * 2);
  ASSERT_TRUE(reader->read(all).has_value());
  std::vector<float> left;
  for (std::size_t i = 50'000; i < 100'000; ++i) left.push_back(all[i * 2]);
  EXPECT_NEAR(pitchOf(left), 660, 0.1);
}

/// A sine that speeds up as it goes, or one that runs as recorded.
class SineStream : public SongStream {
 public:
  explicit SineStream(bool varies) : in_(sine(440, 200'000)), varies_(varies) {}
  void read(std::span<float> left, std::span<float> right) noexcept override {
    std::copy_n(in_.begin() + static_cast<std::ptrdiff_t>(at_), left.size(), left.begin());
    std::copy_n(in_.begin() + static_cast<std::ptrdiff_t>(at_), right.size(), right.begin());
    at_ += left.size();
  }
  double speed() const noexcept override { return varies_ ? 0.5 + static_cast<double>(at_) / 100'000 : 0; }

 private:
  std::vector<float> in_;
  bool varies_;
  std::size_t at_ = 0;
};

std::vector<float> throughChain(bool varies, std::size_t block) {
  Chain chain(48'000);
  SineStream song(varies);
  std::vector<float> l(60'000);
  std::vector<float> r(60'000);
  for (std::size_t i = 0; i < l.size(); i += block) {
    const auto n = std::min(block, l.size() - i);
    chain.process(std::span(l).subspan(i, n), std::span(r).subspan(i, n), song);
  }
  EXPECT_EQ(l, r);
  return l;
}

TEST(SongSpeed, TheBlockSizeCannotBeHeard) {
  const auto whole = throughChain(true, 60'000);
  for (const std::size_t block : {1u, 64u, 1000u}) EXPECT_EQ(throughChain(true, block), whole) << block;
}

TEST(Chain, ASongThatRunsAsRecordedGoesThroughToTheBit) {
  const auto in = sine(440, 60'000);
  for (const std::size_t block : {1u, 64u, 60'000u}) EXPECT_EQ(throughChain(false, block), in) << block;
}

TEST(Chain, AfterAResetNothingOfWhatWasReadIsHeard) {
  Chain chain(48'000);
  SineStream first(true);
  std::vector<float> l(5000);
  std::vector<float> r(5000);
  chain.process(l, r, first);
  chain.reset();
  SineStream again(true);
  std::vector<float> afterL(5000);
  std::vector<float> afterR(5000);
  chain.process(afterL, afterR, again);
  EXPECT_EQ(afterL, l);
}

}  // namespace
}  // namespace ochron
