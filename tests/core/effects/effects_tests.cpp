// Effects in processes of their own: what they do to sound, what their end costs, and how a song plays through them.

#include <gtest/gtest.h>
#include <signal.h>
#include <unistd.h>

#include <chrono>
#include <cmath>
#include <filesystem>
#include <thread>

#include "edits/insert_edits.h"
#include "edits/mark_edits.h"
#include "edits/print_edits.h"
#include "effects/catalog.h"
#include "effects/rack_slot.h"
#include "play/engine.h"
#include "render/export.h"
#include "render/live_racks.h"
#include "render/print_sound.h"
#include "render/render.h"
#include "store/song_json.h"
#include "support/effects_here.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

const std::string kCompressor = "urn:orthochron:lv2:compressor";
const std::string kEqualizer = "urn:orthochron:lv2:equalizer";
const std::string kLineUp = "urn:orthochron:lv2:line-up";
const std::string kFaulty = "urn:orthochron:lv2:faulty";

EffectInfo infoOf(const std::string& uri) {
  for (const auto& e : test::effectsHere())
    if (e.uri == uri) return e;
  ADD_FAILURE() << uri << " is not listed";
  return {};
}

std::size_t controlOf(const EffectInfo& info, const std::string& symbol) {
  for (std::size_t i = 0; i < info.controls.size(); ++i)
    if (info.controls[i].symbol == symbol) return i;
  ADD_FAILURE() << symbol;
  return 0;
}

std::shared_ptr<Effect> started(const std::string& uri, int channels = 1) {
  auto effect = Effect::start(infoOf(uri), 48'000, channels);
  EXPECT_TRUE(effect);
  EXPECT_TRUE((*effect)->waitUntilReady(std::chrono::seconds(20))) << (*effect)->trouble();
  return *effect;
}

Effect::Clock::time_point soon() { return Effect::Clock::now() + std::chrono::seconds(10); }

/// Sound through an effect in blocks.
std::vector<float> through(Effect& effect, std::vector<float> x) {
  for (std::size_t at = 0; at < x.size(); at += 480) {
    std::array<std::span<float>, 1> one{std::span(x).subspan(at, std::min<std::size_t>(480, x.size() - at))};
    EXPECT_TRUE(effect.ask(one, {}));
    EXPECT_TRUE(effect.answer(one, soon()));
  }
  return x;
}

std::vector<float> tone(double hz, double level, std::size_t n = 48'000) {
  std::vector<float> x(n);
  for (std::size_t i = 0; i < n; ++i)
    x[i] = static_cast<float>(level * std::sin(2 * M_PI * hz * static_cast<double>(i) / 48'000));
  return x;
}

double levelDb(const std::vector<float>& x) {
  double sum = 0;
  for (std::size_t i = x.size() / 2; i < x.size(); ++i) sum += static_cast<double>(x[i]) * static_cast<double>(x[i]);
  return 10 * std::log10(2 * sum / static_cast<double>(x.size() / 2));
}

TEST(Effects, AreListedWithTheirControlsAsThePluginDescribesThem) {
  const auto eq = infoOf(kEqualizer);
  EXPECT_EQ(eq.name, "Four-band equalizer");
  const auto& hz = eq.controls[controlOf(eq, "lowmid_hz")];
  EXPECT_EQ(hz.unit, "Hz");
  EXPECT_TRUE(hz.logarithmic);
  EXPECT_EQ(hz.group, "Low middle");
  const auto& phase = eq.controls[controlOf(eq, "phase")];
  EXPECT_TRUE(phase.chosen);
  ASSERT_EQ(phase.points.size(), 2U);
  EXPECT_FALSE(eq.presets.empty());
  const auto compressor = infoOf(kCompressor);
  EXPECT_TRUE(compressor.keyed);
  EXPECT_TRUE(compressor.controls[controlOf(compressor, "together")].toggled);
}

TEST(Effects, OfOurOwnAreDescribedAsTheStandardWants) {
  if (std::system("command -v lv2_validate >/dev/null && command -v sord_validate >/dev/null") != 0)
    GTEST_SKIP() << "lv2_validate is not installed (packages lv2-dev and sordi)";
  const auto folder = effectsProgram()->parent_path().parent_path() / "lib" / "lv2" / "orthochron.lv2";
  EXPECT_EQ(std::system(("lv2_validate " + folder.string() + "/*.ttl >/dev/null 2>&1").c_str()), 0) << folder;
}

TEST(Effects, AnEqualizerDoesWhatItsControlsSayAtBothPhases) {
  for (const bool linear : {false, true}) {
    const auto eq = started(kEqualizer);
    eq->set(controlOf(eq->info(), "lowmid_gain"), 9);
    eq->set(controlOf(eq->info(), "lowmid_hz"), 500);
    eq->set(controlOf(eq->info(), "phase"), linear ? 1 : 0);
    EXPECT_NEAR(levelDb(through(*eq, tone(500, 0.1))), -20 + 9, 0.3) << linear;
    EXPECT_NEAR(levelDb(through(*eq, tone(8000, 0.1))), -20, 0.3) << linear;
    EXPECT_EQ(eq->latency().value, linear ? 1023 : 0);
  }
}

TEST(Effects, ACompressorTurnsDownWhatItsKeyIsOver) {
  const auto c = started(kCompressor);
  c->set(controlOf(c->info(), "threshold"), -40);
  c->set(controlOf(c->info(), "ratio"), 4);
  c->set(controlOf(c->info(), "knee"), 0);
  c->set(controlOf(c->info(), "attack"), 0.1F);
  c->set(controlOf(c->info(), "release"), 2000);
  EXPECT_NEAR(levelDb(through(*c, tone(1000, 0.1))), -20 - 15, 1.0) << "20 dB over at 4 to 1";
  EXPECT_NEAR(c->reading(0), 15, 1.0);
}

TEST(Effects, ADelayLinesUpToTheSampleAndIsExactAtRest) {
  const auto d = started(kLineUp);
  auto x = tone(440, 0.5);
  EXPECT_EQ(through(*d, x), x) << "at nothing it is the sound to the bit";
  d->set(controlOf(d->info(), "delay"), 31);
  d->set(controlOf(d->info(), "turned"), 1);
  through(*d, std::vector<float>(48'000));  // it glides there
  const auto y = through(*d, x);
  for (std::size_t i = 31; i < x.size(); ++i) ASSERT_EQ(y[i], -x[i - 31]) << i;
}

TEST(Effects, OneForOneChannelKeepsBothSidesApart) {
  const auto d = started(kLineUp, 2);
  auto left = tone(440, 0.5, 480);
  auto right = tone(990, 0.25, 480);
  const auto before = std::pair(left, right);
  std::array<std::span<float>, 2> both{left, right};
  ASSERT_TRUE(d->ask(both, {}) && d->answer(both, soon()));
  EXPECT_EQ(std::pair(left, right), before);
}

TEST(Effects, ACrashCostsASentenceAndSoundGoesPast) {
  const auto f = started(kFaulty);
  const auto x = tone(440, 0.5, 480);
  EXPECT_EQ(through(*f, x), x);
  f->set(controlOf(f->info(), "fault"), 1);
  auto y = x;
  std::array<std::span<float>, 1> one{std::span(y)};
  RackSlot slot(f, 48'000, true);
  slot.ask(one, {}, {});
  slot.answer(one, Effect::Clock::now() + std::chrono::milliseconds(20));
  EXPECT_EQ(y, x);
  EXPECT_EQ(slot.missed(), 1);
  for (int i = 0; i < 2000 && f->state() == Effect::State::ready; ++i) {
    f->watch();
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  ASSERT_EQ(f->state(), Effect::State::stopped);
  EXPECT_NE(f->trouble().find("broke down"), std::string::npos) << f->trouble();
  f->set(controlOf(f->info(), "fault"), 0);
  ASSERT_TRUE(f->restart());
  ASSERT_TRUE(f->waitUntilReady(std::chrono::seconds(20)));
  EXPECT_EQ(through(*f, x), x) << "it plays again in a new process";
}

TEST(Effects, AHangIsLeftWithinItsTimeAndEndedAfterAWhile) {
  const auto f = started(kFaulty);
  f->set(controlOf(f->info(), "fault"), 2);
  auto x = tone(440, 0.5, 480);
  std::array<std::span<float>, 1> one{std::span(x)};
  ASSERT_TRUE(f->ask(one, {}));
  EXPECT_FALSE(f->answer(one, Effect::Clock::now() + std::chrono::milliseconds(5)));
  EXPECT_FALSE(f->ask(one, {})) << "it is not asked again while it is late";
  for (int i = 0; i < 4000 && f->state() == Effect::State::ready; ++i) {
    f->watch();
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  EXPECT_EQ(f->state(), Effect::State::stopped);
  EXPECT_NE(f->trouble().find("does not answer"), std::string::npos) << f->trouble();
}

TEST(Effects, OneThatWasLateOnceAndIsNotAskedAnyMoreIsNotTakenForHung) {
  const auto f = started(kFaulty);
  f->set(controlOf(f->info(), "fault"), 4);
  auto x = tone(440, 0.5, 480);
  std::array<std::span<float>, 1> one{std::span(x)};
  ASSERT_TRUE(f->ask(one, {}));
  EXPECT_FALSE(f->answer(one, Effect::Clock::now() + std::chrono::milliseconds(2)));
  for (int i = 0; i < 2500; ++i) {
    f->watch();
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  EXPECT_EQ(f->state(), Effect::State::ready) << f->trouble();
}

TEST(Effects, AControlThatGoesWithTheRateHasTheRangeOfTheSongsRate) {
  const auto info = infoOf(kFaulty);
  for (const int rate : {44'100, 48'000, 192'000}) {
    const auto at = info.atRate(rate);
    const auto& hertz = at.controls[controlOf(at, "hertz")];
    EXPECT_EQ(hertz.high, rate / 2.0);
    EXPECT_EQ(hertz.fallback, rate / 4.0);
    auto effect = Effect::start(info, rate, 1, {{"hertz", 1e6}});
    ASSERT_TRUE(effect);
    EXPECT_EQ((*effect)->value(controlOf(at, "hertz")), static_cast<float>(rate) / 2) << "held to what the rate allows";
  }
}

TEST(Effects, WhatIsNoSoundIsNotHeard) {
  const auto f = started(kFaulty);
  f->set(controlOf(f->info(), "fault"), 3);  // writes NaN
  auto x = tone(440, 0.5, 480);
  const auto before = x;
  std::array<std::span<float>, 1> one{std::span(x)};
  RackSlot slot(f, 48'000, true);
  slot.ask(one, {}, {});
  slot.answer(one, soon());
  EXPECT_EQ(x, before);
}

TEST(Effects, APluginThatIsNotThereIsSaid) {
  auto info = infoOf(kEqualizer);
  info.uri = "urn:none";
  const auto effect = Effect::start(info, 48'000, 1);
  ASSERT_TRUE(effect);
  EXPECT_FALSE((*effect)->waitUntilReady(std::chrono::seconds(20)));
  EXPECT_NE((*effect)->trouble().find("cannot be used"), std::string::npos) << (*effect)->trouble();
}

struct EffectSongs : ::testing::Test {
  EffectSongs() {
    test::Style style;
    style.bars = 3;
    made = test::songOf(test::perform(style));
  }
  InsertId put(const InsertPlace& place, const std::string& uri, std::map<std::string, double> values = {}) {
    made.song = *addInsert(made.song, place, {{}, uri, uri, true, std::move(values)});
    return insertsIn(made.song, place).back().id;
  }
  RenderPlan plan() { return compilePlan(made.song, made.pool); }
  RenderPlan played() {
    auto out = plan();
    std::vector<std::string> missing;
    auto racks = startRacks(made.song, test::effectsHere(), missing);
    EXPECT_TRUE(racks) << racks.error().message;
    EXPECT_TRUE(missing.empty());
    if (racks) useRacks(out, *racks);
    return out;
  }
  static std::vector<float> mixOf(const RenderPlan& plan, FrameRange range, std::size_t block = 1000) {
    PlayedThrough through(plan);
    std::vector<float> left(static_cast<std::size_t>(range.length().value));
    auto right = left;
    for (std::size_t at = 0; at < left.size(); at += block) {
      const auto n = std::min(block, left.size() - at);
      through.addMix(range.start + Frames{static_cast<std::int64_t>(at)}, std::span(left).subspan(at, n),
                     std::span(right).subspan(at, n));
    }
    return left;
  }

  test::MadeSong made;
  const FrameRange some{Frames{10'000}, Frames{60'000}};
};

TEST_F(EffectSongs, LatencyIsMadeUpForToTheSample) {
  const auto dry = mixOf(plan(), some);
  // An equalizer at linear phase that changes nothing is a plain delay, which must not be heard as one.
  put({made.song.tracks[0].id, {}}, kEqualizer, {{"phase", 1}});
  const auto wet = mixOf(played(), some);
  ASSERT_EQ(wet.size(), dry.size());
  for (std::size_t i = 0; i < dry.size(); ++i) ASSERT_NEAR(wet[i], dry[i], 2e-5F) << i;
}

TEST_F(EffectSongs, EffectsThatDoNothingNullOnTracksSetsAndTheMix) {
  const auto dry = mixOf(plan(), some);
  put({made.song.tracks[1].id, {}}, kLineUp);
  put({{}, made.song.sets[0].id}, kLineUp);
  put({}, kLineUp);
  EXPECT_EQ(mixOf(played(), some), dry);
  EXPECT_EQ(mixOf(played(), some, 333), dry) << "in any blocks";
}

TEST_F(EffectSongs, SectionsAreThatStretchOfTheMixThoughAllGoThroughTheSameEffects) {
  put({}, kLineUp, {{"delay", 100.0}});
  put({made.song.tracks[0].id, {}}, kEqualizer, {{"high_gain", 5.0}});
  for (int bar = 0; bar < 3; ++bar)
    made.song = *addMarker(made.song, made.song.tempo.barStart(bar), Ticks{}, "bar " + std::to_string(bar + 1));
  ExportSettings s;
  s.samples = SampleFormat::float32;
  s.range = {Frames{}, made.song.end()};
  const test::Scratch scratch;
  const auto write = [&](ExportWhat what, const std::filesystem::path& target) {
    s.what = what;
    Outputs outputs;
    Progress progress;
    const auto out = played();
    const auto report = exportSong(made.song, out, s, target, outputs, progress);
    EXPECT_TRUE(report && outputs.commit());
    std::vector<std::vector<float>> sounds;
    for (const auto& file : report->files) {
      auto r = AudioFileReader::open(file);
      sounds.emplace_back(static_cast<std::size_t>(r->info().length.value) * 2);
      EXPECT_TRUE(r->read(sounds.back()));
    }
    return sounds;
  };
  const auto mix = write(ExportWhat::mix, scratch / "mix.wav").front();
  const auto parts = write(ExportWhat::sections, scratch / "parts");
  ASSERT_EQ(parts.size(), 3U);
  for (std::size_t k = 0; k < parts.size(); ++k) {
    const auto from =
        2 * static_cast<std::size_t>(made.song.tempo.toFrames(made.song.tempo.barStart(static_cast<int>(k))).value);
    for (std::size_t i = 0; i < parts[k].size(); ++i) ASSERT_NEAR(parts[k][i], mix[from + i], 1e-5F) << k << " " << i;
  }
}

TEST_F(EffectSongs, WithATailEffectsRingOnAfterTheEndAndNothingElseIsHeardThere) {
  put({}, kLineUp, {{"delay", 400.0}});
  put({made.song.tracks[0].id, {}}, kLineUp, {{"delay", 300.0}});
  const test::Scratch scratch;
  int written = 0;
  const auto write = [&](ExportWhat what, FrameRange range, double tail) {
    ExportSettings s;
    s.what = what;
    s.samples = SampleFormat::float32;
    s.range = range;
    s.tailSeconds = tail;
    Outputs outputs;
    Progress progress;
    const auto out = played();
    const auto report =
        exportSong(made.song, out, s, scratch / (std::to_string(++written) + ".wav"), outputs, progress);
    EXPECT_TRUE(report && outputs.commit());
    auto r = AudioFileReader::open(report->files.front());
    std::vector<float> x(static_cast<std::size_t>(r->info().length.value * r->info().channels));
    EXPECT_TRUE(r->read(x));
    return x;
  };
  const FrameRange first{Frames{}, Frames{60'000}};
  const FrameRange longer{Frames{}, Frames{61'200}};
  for (const auto& [what, late] : {std::pair{ExportWhat::mix, std::size_t{700}}, {ExportWhat::tracks, 300}}) {
    const auto plain = write(what, first, 0);
    const auto whole = write(what, longer, 0);
    const auto rung = write(what, first, 0.025);
    ASSERT_EQ(rung.size(), plain.size() + 2 * 1'200);
    for (std::size_t i = 0; i < plain.size(); ++i) ASSERT_NEAR(rung[i], plain[i], 1e-6F) << i;
    float after = 0;
    double missed = 0;
    for (std::size_t i = plain.size(); i < rung.size(); ++i) {
      if (i >= plain.size() + 2 * late) after = std::max(after, std::abs(rung[i]));
      if (i < plain.size() + 2 * 300) missed = std::max<double>(missed, std::abs(rung[i] - whole[i]));
    }
    EXPECT_EQ(after, 0) << "the song goes on there, and is not heard";
    if (what == ExportWhat::tracks) EXPECT_LT(missed, 1e-6) << "what was on its way comes out whole";
  }
}

TEST_F(EffectSongs, AtAnotherSpeedWhatDoesNothingIsNotHeardEither) {
  made.song = *setEnvelope(made.song, {EnvelopeKind::songSpeed, {}, {}}, {{Frames{}, 130, 0}});
  const test::Scratch scratch;
  for (const bool keepsPitch : {false, true}) {
    made.song.speedManner.keepsPitch = keepsPitch;
    std::vector<std::vector<float>> heard;
    for (const bool effects : {false, true}) {
      auto song = made.song;
      if (effects) song = *addInsert(song, {song.tracks[0].id, {}}, {{}, kEqualizer, "eq", true, {{"phase", 1.0}}});
      auto out = compilePlan(song, made.pool);
      std::vector<std::string> missing;
      useRacks(out, *startRacks(song, test::effectsHere(), missing));
      ExportSettings s;
      s.samples = SampleFormat::float32;
      s.range = some;
      Outputs outputs;
      Progress progress;
      const auto file = scratch / (std::to_string(keepsPitch) + std::to_string(effects) + ".wav");
      ASSERT_TRUE(exportSong(song, out, s, file, outputs, progress) && outputs.commit());
      auto r = AudioFileReader::open(file);
      heard.emplace_back(static_cast<std::size_t>(r->info().length.value) * 2);
      ASSERT_TRUE(r->read(heard.back()));
    }
    ASSERT_EQ(heard[0].size(), heard[1].size());
    for (std::size_t i = 0; i < heard[0].size(); ++i)
      ASSERT_NEAR(heard[0][i], heard[1][i], 1e-3F) << keepsPitch << " " << i;
  }
}

TEST_F(EffectSongs, AnotherRateOfTheSongStartsItsEffectsAnewAtThatRate) {
  put({}, kLineUp);
  LiveRacks live;
  live.know(test::effectsHere());
  const auto ready = [&] {
    for (int i = 0; i < 5000 && !live.racks(); ++i) {
      live.watch(made.song);
      std::this_thread::sleep_for(std::chrono::milliseconds(1));
    }
    return live.racks() != nullptr;
  };
  live.follow(made.song);
  ASSERT_TRUE(ready());
  const auto* before = &live.racks()->mix.front()->effect();
  EXPECT_EQ(before->rate(), 48'000);
  made.song.rate = 96'000;
  live.follow(made.song);
  ASSERT_TRUE(ready());
  EXPECT_EQ(live.racks()->mix.front()->effect().rate(), 96'000);
}

TEST_F(EffectSongs, AnEffectThatIsOffIsHeardAsItIsWithout) {
  const auto dry = mixOf(plan(), some);
  const auto id = put({}, kCompressor, {{"threshold", -60.0}});
  EXPECT_NE(mixOf(played(), some), dry);
  made.song = *setInsertOn(made.song, id, false);
  EXPECT_EQ(mixOf(played(), some), dry);
}

TEST_F(EffectSongs, ASetsCompressorTurnsAllItsMicsDownAlike) {
  put({{}, made.song.sets[0].id}, kCompressor, {{"threshold", -50.0}, {"ratio", 8.0}});
  const auto before = plan();
  const auto after = played();
  const FrameRange range{Frames{}, Frames{96'000}};
  std::vector<std::vector<float>> gains;
  for (std::size_t t = 0; t < before.tracks.size(); ++t) {
    std::vector<float> dry(96'000), wet(96'000), right(96'000);
    addTrack(before.tracks[t], 0, range.start, dry);
    PlayedThrough(after).addTrack(t, range.start, wet, right);
    std::vector<float> gain(dry.size(), 0);
    for (std::size_t i = 0; i < dry.size(); ++i) gain[i] = std::abs(dry[i]) > 0.01F ? wet[i] / dry[i] : 0;
    gains.push_back(gain);
  }
  std::size_t compared = 0;
  float least = 1;
  for (std::size_t i = 0; i < gains[0].size(); ++i) {
    if (gains[0][i] == 0 || gains[1][i] == 0) continue;
    ++compared;
    least = std::min(least, gains[0][i]);
    ASSERT_NEAR(gains[0][i], gains[1][i], 1e-3F) << i;
  }
  EXPECT_GT(compared, 100U);
  EXPECT_LT(least, 0.5F);
}

TEST_F(EffectSongs, APrintOfATrackNullsWithWhatWasHeardAndTakesItsEffectsAlong) {
  const auto id = made.song.tracks[1].id;
  put({id, {}}, kEqualizer, {{"high_gain", 6.0}});
  const auto set = made.song.sets[0].id;
  const auto insert = put({{}, set}, kLineUp, {{"delay", 7.0}});
  const auto heard = mixOf(played(), {Frames{}, made.song.end()});
  // The delay's end rings on.
  const auto plan = planPrint(made.song, {PrintDepth::track, {set}, {}, {}, {PrintSamples::float32, {}, 0.5}});
  ASSERT_TRUE(plan) << plan.error().message;
  EXPECT_EQ(plan->rows.front().range.end, made.song.find(set)->clips->back().end() + Frames{24'000});
  const test::Scratch scratch;
  const auto targets = printTargets(plan->rows, std::vector<PrintLevel>(plan->rows.size()), scratch.path());
  Outputs outputs;
  Progress progress;
  ASSERT_TRUE(writePrints(targets, played(), made.pool, outputs, progress));
  ASSERT_TRUE(outputs.commit());
  std::vector<float> sum(heard.size() + 24'000, 0.0F);
  std::vector<PrintedFile> files;
  for (const auto& [row, file, level] : targets) {
    auto r = AudioFileReader::open(file);
    ASSERT_TRUE(r);
    ASSERT_EQ(r->info().channels, 2);
    std::vector<float> x(static_cast<std::size_t>(r->info().length.value) * 2);
    ASSERT_TRUE(r->read(x));
    for (std::size_t i = 0; i < x.size() / 2; ++i) sum[i + static_cast<std::size_t>(row.range.start.value)] += x[2 * i];
    files.push_back({row, file.string(), "0123456789abcdef0123456789abcdef", row.range.length()});
  }
  for (std::size_t i = 0; i < heard.size(); ++i) ASSERT_NEAR(sum[i], heard[i], 1e-5F) << i;
  const auto before = made.song;
  const auto printed = applyPrint(made.song, files);
  ASSERT_TRUE(printed) << printed.error().message;
  EXPECT_FALSE(anyInserts(*printed));
  const auto back = unprint(*printed, printed->prints.back().id);
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(insertsIn(*back, {id, {}}), insertsIn(before, {id, {}}));
  EXPECT_EQ(insertsIn(*back, {{}, set}).front().id, insert);
  // A print of what was printed holds no effects, and its songs are kept whole.
  const auto again = songFromJson(songToJson(*printed), "x");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(again->prints, printed->prints);
}

TEST_F(EffectSongs, AreKeptInTheFileAndAnEarlierFormatIsWrittenWithoutThem) {
  EXPECT_EQ(songToJson(made.song).find("\"effects\""), std::string::npos);
  put({made.song.tracks[0].id, {}}, kEqualizer, {{"low_gain", -3.5}});
  put({{}, made.song.sets[0].id}, kCompressor);
  const auto id = put({}, "http://example.org/none");
  made.song = *setInsertOn(made.song, id, false);
  const auto again = songFromJson(songToJson(made.song), "x");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(again->tracks, made.song.tracks);
  EXPECT_EQ(again->inserts, made.song.inserts);
  for (std::size_t i = 0; i < again->sets.size(); ++i) EXPECT_EQ(again->sets[i].inserts, made.song.sets[i].inserts);
}

TEST_F(EffectSongs, OneThatStopsMeanwhileEndsTheExportAndWritesNothing) {
  put({}, kFaulty, {{"fault", 1.0}});
  const test::Scratch scratch;
  ExportSettings s;
  s.range = some;
  Outputs outputs;
  Progress progress;
  std::vector<std::string> missing;
  auto out = plan();
  auto racks = startRacks(made.song, test::effectsHere(), missing);
  if (!racks) {  // it may end before it was ready
    EXPECT_FALSE(racks.error().message.empty());
    return;
  }
  useRacks(out, *racks);
  const auto report = exportSong(made.song, out, s, scratch / "x.wav", outputs, progress);
  ASSERT_FALSE(report);
  EXPECT_NE(report.error().message.find("nothing was written"), std::string::npos) << report.error().message;
}

/// The engine's output, in blocks.
std::vector<float> playedBy(Engine& engine, std::size_t frames, std::size_t block = 256) {
  std::vector<float> left(frames);
  std::vector<float> right(frames);
  for (std::size_t at = 0; at < frames; at += block)
    engine.process(std::span(left).subspan(at, block), std::span(right).subspan(at, block));
  return left;
}

TEST_F(EffectSongs, TheEngineHearsThemInTimeAndPlaysOnWhenOneEnds) {
  made.song = *addInsert(made.song, {}, {{}, kFaulty, "faulty", true, {}});
  const auto plain = plan();
  LiveRacks live;
  live.know(test::effectsHere());
  live.follow(made.song);
  for (int i = 0; i < 5000 && !live.racks(); ++i) {
    live.watch(made.song);
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  ASSERT_TRUE(live.racks());
  auto play = std::make_shared<PlayPlan>();
  play->edited = play->original = plain;
  useRacks(play->edited, live.racks());
  useRacks(play->original, live.racks());
  Engine engine(48'000);
  ASSERT_TRUE(engine.setPlan(play));
  engine.play();
  auto without = std::make_shared<PlayPlan>();
  without->edited = without->original = plain;
  Engine bare(48'000);
  ASSERT_TRUE(bare.setPlan(without));
  bare.play();
  EXPECT_EQ(playedBy(engine, 48'128), playedBy(bare, 48'128));
  // It is told to end its process in the middle of playing.
  const auto id = made.song.inserts->front().id;
  made.song = *setInsertValues(made.song, id, {{"fault", 1}});
  live.follow(made.song);
  EXPECT_EQ(playedBy(engine, 48'128), playedBy(bare, 48'128)) << "what goes past it is the same";
  for (int i = 0; i < 3000 && live.told(id).state != LiveRacks::State::stopped; ++i) {
    live.watch(made.song);
    std::this_thread::sleep_for(std::chrono::milliseconds(1));
  }
  EXPECT_EQ(live.told(id).state, LiveRacks::State::stopped);
  EXPECT_FALSE(live.told(id).trouble.empty());
}

TEST_F(EffectSongs, RandomEditsKeepEveryEffectOnceAndAreUndoneByValue) {
  std::mt19937 dice(11);
  const auto roll = [&](std::size_t n) { return std::uniform_int_distribution<std::size_t>(0, n - 1)(dice); };
  std::vector<InsertPlace> places{{}, {{}, made.song.sets[0].id}};
  for (const auto& t : made.song.tracks) places.push_back({t.id, {}});
  Song song = made.song;
  std::set<InsertId> there;
  for (int i = 0; i < 400; ++i) {
    const auto& place = places[roll(places.size())];
    const auto& here = insertsIn(song, place);
    Result<Song> next = song;
    switch (here.empty() ? 0 : roll(5)) {
      case 0:
        next = addInsert(song, place, {{}, "urn:x", "x", true, {}});
        if (next) there.insert(insertsIn(*next, place).back().id);
        break;
      case 1: {
        const auto id = here[roll(here.size())].id;
        next = removeInsert(song, id);
        there.erase(id);
        break;
      }
      case 2: next = moveInsert(song, here[roll(here.size())].id, roll(2) == 0 ? -1 : 1); break;
      case 3: next = setInsertOn(song, here[roll(here.size())].id, roll(2) == 0); break;
      default: next = setInsertValues(song, here[roll(here.size())].id, {{"a", static_cast<double>(roll(9))}});
    }
    if (next) song = *next;
    std::set<InsertId> found;
    for (const auto& p : places)
      for (const auto& x : insertsIn(song, p)) EXPECT_TRUE(found.insert(x.id).second);
    ASSERT_EQ(found, there) << i;
    ASSERT_TRUE(brokenRules(song).empty());
  }
  EXPECT_EQ(songFromJson(songToJson(song), "x")->tracks, song.tracks);
}

TEST(OtherEffects, OfThisMachinePlayWithoutEndingAnything) {
  ::setenv("LV2_PATH", "/usr/lib/lv2:/usr/lib/x86_64-linux-gnu/lv2", 1);
  const auto all = listEffects();
  test::findEffectsHere();
  ASSERT_TRUE(all) << all.error().message;
  std::size_t played = 0;
  for (const auto& e : *all) {
    const auto preset = std::find_if(e.presets.begin(), e.presets.end(), [](const auto& p) { return p.state; });
    const bool states = preset != e.presets.end();
    if (e.uri.starts_with("urn:orthochron") || (played >= 12 && !states)) continue;
    auto effect = Effect::start(e, 48'000, 2);
    ASSERT_TRUE(effect);
    if (!(*effect)->waitUntilReady(std::chrono::seconds(20))) {
      EXPECT_FALSE((*effect)->trouble().empty()) << e.name;
      continue;
    }
    auto left = tone(440, 0.25, 480);
    auto right = left;
    std::array<std::span<float>, 2> both{left, right};
    for (int block = 0; block < 20; ++block) {
      EXPECT_TRUE((*effect)->ask(both, {})) << e.name;
      (*effect)->answer(both, soon());
    }
    if (states) {
      const auto state = stateOf(e, *preset);
      EXPECT_TRUE(state) << state.error().message;
      const auto again = Effect::start(e, 48'000, 2, preset->values, state ? *state : EffectState{});
      EXPECT_TRUE(again && (*again)->waitUntilReady(std::chrono::seconds(20))) << e.name << ", " << preset->name;
    }
    ++played;
  }
  if (played < 10)
    GTEST_SKIP() << "only " << played << " plug-ins of others are installed here (calf-plugins has many)";
}

}  // namespace
}  // namespace ochron
