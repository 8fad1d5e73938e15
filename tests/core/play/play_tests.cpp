#include <gtest/gtest.h>
#include <signal.h>
#include <sys/file.h>
#include <sys/wait.h>
#include <unistd.h>

#include <fcntl.h>
#include <chrono>
#include <cmath>
#include <filesystem>
#include <thread>

#include "edits/mark_edits.h"
#include "media/audio_file.h"
#include "play/player.h"
#include "play/rate_converter.h"
#include "support/scratch.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

using namespace std::chrono_literals;

std::shared_ptr<const PlayPlan> planOf(const test::MadeSong& m) {
  auto plan = std::make_shared<PlayPlan>();
  plan->edited = compilePlan(m.song, m.pool);
  plan->original = plan->edited;
  plan->clicks = clicksOf(m.song.tempo, {Frames{0}, m.song.end()});
  return plan;
}

test::MadeSong constant(float value) {
  return test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(480'000, value)}, {});
}

struct Blocks {
  explicit Blocks(Engine& e) : engine(e) {}
  std::vector<float> next(std::size_t n) {
    std::vector<float> left(n), right(n);
    engine.process(left, right);
    return left;
  }
  Engine& engine;
};

TEST(Engine, PlaysTheSongFromWhereItWasPut) {
  const auto p = test::perform({});
  const auto m = test::songOf(p);
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(m));
  engine.seek(Frames{30'000});
  engine.play();
  blocks.next(512);  // start ramp
  const auto out = blocks.next(512);
  for (std::size_t i = 0; i < out.size(); ++i) {
    float sum = 0;
    for (const auto& mic : p.mics) sum += mic[30'512 + i];
    ASSERT_NEAR(out[i], sum, 1e-6);
  }
  EXPECT_EQ(engine.position(), Frames{31'024});
}

TEST(Engine, LoopsToTheFrame) {
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(constant(0.1f)));
  engine.setLoop({Frames{1000}, Frames{1700}});
  engine.seek(Frames{1000});
  engine.play();
  blocks.next(1024);
  EXPECT_EQ(engine.position(), Frames{1000 + 1024 - 700});
}

/// A sine of 440 Hz, played at a speed in percent.
test::MadeSong toneAt(double percent) {
  std::vector<float> tone(480'000);
  for (std::size_t i = 0; i < tone.size(); ++i)
    tone[i] = static_cast<float>(0.4 * std::sin(2 * M_PI * 440 * static_cast<double>(i) / 48'000));
  auto m = test::songOf(*TempoMap::steady(48'000, 120), {tone}, {});
  m.song = *setEnvelope(m.song, {EnvelopeKind::songSpeed, {}, {}}, {{Frames{0}, percent, 0}});
  return m;
}

TEST(Engine, PlaysFasterAndHigherAtTheSongsSpeedAndLoopsWithoutAJump) {
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(toneAt(200)));
  // A loop of whole periods of the tone: 11 of them are 1 200 frames.
  engine.setLoop({Frames{12'000}, Frames{12'000 + 1200 * 4}});
  engine.seek(Frames{12'000});
  engine.play();
  blocks.next(2048);
  std::vector<float> heard;
  for (int i = 0; i < 40; ++i)
    for (const float s : blocks.next(128)) heard.push_back(s);
  int rising = 0;
  for (std::size_t i = 1; i < heard.size(); ++i) {
    rising += heard[i - 1] < 0 && heard[i] >= 0 ? 1 : 0;
    ASSERT_LT(std::abs(heard[i] - heard[i - 1]), 0.4 * 2 * M_PI * 880 / 48'000 * 1.05) << i;
  }
  EXPECT_NEAR(rising, 880.0 * static_cast<double>(heard.size()) / 48'000, 1.5);
}

TEST(Engine, APlaceHeardOnItsOwnIsHeardAtTheRecordedSpeed) {
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(toneAt(50)));
  engine.audition({{Frames{48'000}, Frames{96'000}}, true, false, 1});
  blocks.next(1024);
  int rising = 0;
  const auto heard = blocks.next(24'000);
  for (std::size_t i = 1; i < heard.size(); ++i) rising += heard[i - 1] < 0 && heard[i] >= 0 ? 1 : 0;
  EXPECT_NEAR(rising, 220, 1);
}

TEST(Engine, SwitchingVersionsAndPlansIsFreeOfClicks) {
  auto plan = std::make_shared<PlayPlan>();
  const auto loud = constant(0.5f);
  const auto soft = constant(0.1f);
  plan->edited = compilePlan(loud.song, loud.pool);
  plan->original = compilePlan(soft.song, soft.pool);
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(plan);
  engine.play();
  blocks.next(4096);
  engine.setOriginal(true);
  auto out = blocks.next(4096);
  engine.setPlan(planOf(loud));
  engine.setOriginal(false);
  const auto more = blocks.next(4096);
  out.insert(out.end(), more.begin(), more.end());
  for (std::size_t i = 1; i < out.size(); ++i) ASSERT_LT(std::abs(out[i] - out[i - 1]), 0.002f) << i;
  EXPECT_NEAR(out[3000], 0.1f, 1e-6);
  EXPECT_NEAR(out.back(), 0.5f, 1e-6);
}

/// A tone that runs through the song, every place of it at another phase than where a jump would meet it.
test::MadeSong runningTone() {
  std::vector<float> tone(480'000);
  for (std::size_t i = 0; i < tone.size(); ++i)
    tone[i] = static_cast<float>(0.5 * std::sin(2 * M_PI * 97 * static_cast<double>(i) / 48'000));
  return test::songOf(*TempoMap::steady(48'000, 120), {tone}, {});
}

float steepestStep(std::span<const float> x) {
  float most = 0;
  for (std::size_t i = 1; i < x.size(); ++i) most = std::max(most, std::abs(x[i] - x[i - 1]));
  return most;
}

TEST(Engine, NoJumpIsAClickWhateverJumps) {
  const auto m = runningTone();
  const float own = 0.5F * 2 * static_cast<float>(M_PI) * 97 / 48'000;
  for (const std::size_t block : {64, 128, 512, 2048}) {
    Engine engine(48'000);
    std::vector<float> all;
    const auto run = [&](int frames) {
      std::vector<float> left(block);
      std::vector<float> right(block);
      for (int done = 0; done < frames; done += static_cast<int>(block)) {
        std::fill(left.begin(), left.end(), 0.0F);
        engine.process(left, right);
        all.insert(all.end(), left.begin(), left.end());
      }
    };
    auto other = std::make_shared<PlayPlan>(*planOf(m));
    other->editedGain = 0.4F;
    other->originalGain = 0.7F;
    engine.setPlan(planOf(m));
    engine.play();
    run(4'800);
    for (int i = 0; i < 12; ++i) {
      engine.seek(Frames{10'000 + i * 7'777});
      run(i % 3 == 0 ? 1'500 : 130);  // also into each other
    }
    engine.setOriginal(true);
    run(100);
    engine.setPlan(other);
    run(70);
    engine.setOriginal(false);
    run(2'000);
    engine.setLoop({Frames{100'000}, Frames{103'333}});
    engine.seek(Frames{99'000});
    run(20'000);
    engine.audition({{Frames{200'123}, Frames{205'000}}, true, false, 1});
    run(9'000);
    engine.audition({{Frames{150'017}, Frames{151'000}}, false, false, 1});
    run(4'000);
    engine.play();
    run(3'000);
    EXPECT_LT(steepestStep(all), own + 0.5F / (0.003F * 48'000) + 0.003F) << "blocks of " << block;
  }
}

TEST(Engine, WhatBeginsALoopIsWholeEachTime) {
  // A stroke on the loop's first frame, and a tone that goes on over its end.
  std::vector<float> x(96'000);
  for (std::size_t i = 0; i < x.size(); ++i)
    x[i] = static_cast<float>(0.2 * std::sin(2 * M_PI * 97 * static_cast<double>(i) / 48'000));
  for (std::size_t i = 0; i < 200; ++i) x[24'000 + i] += 0.6F * std::exp(-static_cast<float>(i) / 40);
  const auto m = test::songOf(*TempoMap::steady(48'000, 120), {x}, {});
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(m));
  engine.setLoop({Frames{24'000}, Frames{36'000}});
  engine.seek(Frames{24'000});
  engine.play();
  blocks.next(12'000);
  for (int round = 0; round < 3; ++round) {
    const auto heard = blocks.next(12'000);
    for (std::size_t i = 0; i < 11'000; ++i) ASSERT_FLOAT_EQ(heard[i], x[24'000 + i]) << round << " at " << i;
  }
}

TEST(Engine, ACommandWithATimeIsDoneOnThatFrame) {
  const auto m = constant(0.5F);
  for (const std::size_t block : {64, 100, 480}) {
    Engine engine(48'000);
    Blocks blocks(engine);
    engine.setPlan(planOf(m));
    const std::int64_t at = 1'234;
    engine.send({command::Play{}, at});
    std::vector<float> all;
    while (all.size() < 4'000) {
      const auto more = blocks.next(block);
      all.insert(all.end(), more.begin(), more.end());
    }
    for (std::size_t i = 0; i < static_cast<std::size_t>(at); ++i) ASSERT_EQ(all[i], 0.0F) << i;
    EXPECT_GT(all[static_cast<std::size_t>(at)], 0.0F);
    EXPECT_GE(engine.clock(), 4'000);
  }
}

TEST(PlanFeed, APlanThatIsGivenTwiceIsFreedOnceNeitherIsHeard) {
  PlanFeed feed;
  auto plan = std::make_shared<const PlayPlan>();
  const std::weak_ptr<const PlayPlan> watched = plan;
  ASSERT_TRUE(feed.give(plan));
  auto* first = feed.take();
  ASSERT_TRUE(feed.give(plan));
  ASSERT_TRUE(feed.give(plan));
  auto* last = feed.take();  // the one between was never heard
  plan.reset();
  feed.collect();
  EXPECT_EQ(feed.alive(), 2U);
  PlanFeed::use(first);
  PlanFeed::leave(first);
  feed.collect();
  EXPECT_EQ(feed.alive(), 2U) << "used twice, left once";
  PlanFeed::leave(first);
  PlanFeed::leave(last);
  feed.collect();
  EXPECT_EQ(feed.alive(), 0U);
  EXPECT_TRUE(watched.expired());
}

TEST(Engine, APlanGivenAgainWithinAFadeIsFreedInTheEnd) {
  Engine engine(48'000);
  std::vector<float> left(64);
  std::vector<float> right(64);
  const auto m = constant(0.5F);
  engine.play();
  std::shared_ptr<const PlayPlan> plan = planOf(m);
  const std::weak_ptr<const PlayPlan> watched = plan;
  for (int i = 0; i < 6; ++i) {
    ASSERT_TRUE(engine.setPlan(plan));
    engine.process(left, right);
  }
  plan.reset();
  ASSERT_TRUE(engine.setPlan(planOf(m)));
  for (int i = 0; i < 60; ++i) engine.process(left, right);
  engine.collect();
  EXPECT_TRUE(watched.expired());
}

TEST(Engine, ClickSoundsOnTheBeatWithTheDownbeatApart) {
  const auto m = constant(0);
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(m));
  engine.setClick(true, 0);
  engine.seek(Frames{-4096});
  engine.play();
  blocks.next(4096);
  const auto bar = blocks.next(96'000 / 16 * 16);
  const auto loudAt = [&](std::size_t f) {
    float peak = 0;
    for (std::size_t i = f; i < f + 600; ++i) peak = std::max(peak, std::abs(bar[i]));
    return peak;
  };
  for (const std::size_t beat : {0u, 24'000u, 48'000u, 72'000u}) EXPECT_GT(loudAt(beat), 0.2f);
  EXPECT_LT(loudAt(12'000), 1e-6f);
  EXPECT_NE(bar[100], bar[24'100]);
}

TEST(SimulatedDevice, RunsInRealTimeAndRecordsWhatItPlays) {
  const test::Scratch scratch;
  Player player(48'000);
  auto device = std::make_unique<SimulatedDevice>();
  device->recordTo(scratch / "played.wav");
  auto* raw = device.get();
  ASSERT_TRUE(player.useDevice(std::move(device)));
  player.setPlan(planOf(constant(0.25f)));
  player.engine().play();
  const auto begin = std::chrono::steady_clock::now();
  while (player.engine().position() < Frames{14'400} && std::chrono::steady_clock::now() - begin < 5s)
    std::this_thread::sleep_for(5ms);
  const auto seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - begin).count();
  EXPECT_GT(seconds, 0.2);
  raw->stop();
  ASSERT_TRUE(raw->recorded());
  auto reader = AudioFileReader::open(scratch / "played.wav");
  ASSERT_TRUE(reader.has_value());
  EXPECT_GE(reader->info().length, Frames{14'400});
  std::vector<float> samples(static_cast<std::size_t>(reader->info().length.value * 2));
  ASSERT_TRUE(reader->read(samples));
  EXPECT_NEAR(samples[samples.size() - 2], 0.25f, 1e-6);
}

/// Takes longer for a block than the block lasts.
struct TooSlow : AudioSource {
  void process(std::span<float> left, std::span<float> right) noexcept override {
    const auto until = std::clock() + CLOCKS_PER_SEC / 50;
    while (std::clock() < until) continue;
    std::ranges::fill(left, 0.0F);
    std::ranges::fill(right, 0.0F);
  }
};

TEST(SimulatedDevice, TellsASourceThatIsTooSlowFromAMachineThatIsBusy) {
  TooSlow slow;
  SimulatedDevice device;
  ASSERT_TRUE(device.start(slow, {}));
  const auto until = std::chrono::steady_clock::now() + 5s;
  while (device.overruns() == 0 && std::chrono::steady_clock::now() < until) std::this_thread::sleep_for(5ms);
  device.stop();
  EXPECT_GT(device.overruns(), 0);

  Engine engine(48'000);
  SimulatedDevice stalled;
  ASSERT_TRUE(stalled.start(engine, {}));
  stalled.stall(200);
  while (stalled.dropOuts() == 0 && std::chrono::steady_clock::now() < until + 5s) std::this_thread::sleep_for(5ms);
  stalled.stop();
  EXPECT_GT(stalled.dropOuts(), stalled.overruns());
}

TEST(SimulatedDevice, CountsADropOutWhenItIsToldToStall) {
  Engine engine(48'000);
  SimulatedDevice device;
  ASSERT_TRUE(device.start(engine, {}));
  const auto before = device.dropOuts();
  device.stall(200);
  const auto until = std::chrono::steady_clock::now() + 5s;
  while (device.dropOuts() == before && std::chrono::steady_clock::now() < until) std::this_thread::sleep_for(5ms);
  device.stop();
  EXPECT_GT(device.dropOuts(), before);
}

TEST(SoundOutputs, TheSimulatedOneIsAlwaysThereAndIsOpenedByItsKind) {
  const auto outputs = soundOutputs();
  ASSERT_FALSE(outputs.empty());
  EXPECT_EQ(outputs.back().api, "simulated");
  for (const auto& o : outputs) EXPECT_FALSE(o.label.empty());
  auto device = openSound({"simulated", {}, 512});
  ASSERT_TRUE(device);
  Player player(44'100);
  ASSERT_TRUE(player.useDevice(std::move(*device), 512));
  const auto run = player.device()->runs();
  EXPECT_EQ(run.rate, 44'100);
  EXPECT_EQ(run.blockFrames, 512);
  EXPECT_GT(run.latencyFrames, 512);
  ASSERT_TRUE(player.setRate(96'000));
  EXPECT_EQ(player.device()->runs().blockFrames, 512) << "another rate keeps the blocks";
}

TEST(SoundOutputs, OneThatIsNotThereIsSaidByItsName) {
  const auto device = openSound({{}, "Stage box 12", 256});
  ASSERT_FALSE(device);
  EXPECT_NE(device.error().message.find("Stage box 12"), std::string::npos) << device.error().message;
}

/// A JACK server with its dummy driver, for the length of a test. One at a time on the machine: two that are the first
/// ones and begin at the same moment both set up the registry they share, and neither can be played through.
class JackServer {
 public:
  JackServer()
      : alone_(::open((std::filesystem::temp_directory_path() / ("ochron-jack-" + std::to_string(::getuid()))).c_str(),
                      O_CREAT | O_RDWR | O_CLOEXEC, 0600)) {
    EXPECT_EQ(::flock(alone_, LOCK_EX), 0);
    ::setenv("JACK_NO_AUDIO_RESERVATION", "1", 1);
    ::setenv("JACK_DEFAULT_SERVER", name_.c_str(), 1);
    child_ = ::fork();
    if (child_ == 0) {
      const int quiet = ::open("/dev/null", O_WRONLY);
      ::dup2(quiet, 1), ::dup2(quiet, 2);
      ::execlp("jackd", "jackd", "--no-realtime", "--name", name_.c_str(), "-d", "dummy", "-r", "48000", "-p", "1024",
               static_cast<char*>(nullptr));
      ::_exit(127);
    }
  }
  ~JackServer() {
    ::kill(child_, SIGTERM);
    ::waitpid(child_, nullptr, 0);
    ::close(alone_);
  }
  JackServer(const JackServer&) = delete;
  JackServer& operator=(const JackServer&) = delete;
  bool running() const { return ::waitpid(child_, nullptr, WNOHANG) == 0; }

 private:
  std::string name_ = "ochron-test-" + std::to_string(::getpid());
  int alone_;
  pid_t child_ = -1;
};

/// Plays a song of a rate through a JACK server that runs at 48 kHz.
void playThroughJack(int rate) {
  const JackServer server;
  ::setenv("JACK_NO_START_SERVER", "1", 1);
  Result<std::unique_ptr<RtAudioDevice>> device = fail(ErrorKind::notFound, "not tried");
  for (int i = 0; i < 100 && !device; ++i) {
    std::this_thread::sleep_for(100ms);
    ASSERT_TRUE(server.running()) << "the JACK server did not start";
    device = RtAudioDevice::open("jack");
  }
  ASSERT_TRUE(device) << device.error().message;
  EXPECT_NE((*device)->name().find("JACK"), std::string::npos);
  const auto outputs = RtAudioDevice::outputs();
  ASSERT_FALSE(outputs.empty());
  const auto byName = RtAudioDevice::open(outputs.front().api, outputs.front().name);
  ASSERT_TRUE(byName) << byName.error().message;
  EXPECT_EQ((*byName)->name(), outputs.front().label);
  Player player(rate);
  const auto used = player.useDevice(std::move(*device));
  ASSERT_TRUE(used) << used.error().message;
  player.setPlan(planOf(constant(0.25f)));
  player.engine().play();
  for (int i = 0; i < 200 && player.engine().position() < Frames{24'000}; ++i) std::this_thread::sleep_for(20ms);
  EXPECT_GE(player.engine().position(), Frames{24'000});
  EXPECT_NEAR(player.engine().takeMasterPeak(0), 0.25f, 1e-3);
}

TEST(RtAudioDevice, PlaysThroughAJackServer) { playThroughJack(48'000); }
TEST(RtAudioDevice, ASongOfAnotherRateThanTheDevicesIsConverted) { playThroughJack(44'100); }

/// A sine as an engine of one rate makes it.
class SineSource : public AudioSource {
 public:
  SineSource(double hertz, int rate) : step_(2 * M_PI * hertz / rate) {}
  void process(std::span<float> left, std::span<float> right) noexcept override {
    for (std::size_t i = 0; i < left.size(); ++i, ++at_)
      left[i] = right[i] = static_cast<float>(0.5 * std::sin(step_ * static_cast<double>(at_)));
  }

 private:
  double step_;
  std::int64_t at_ = 0;
};

TEST(RateConverter, KeepsPitchAndIsCleanTo75Decibels) {
  for (const auto& [from, to] : {std::pair{44'100, 48'000}, std::pair{48'000, 44'100}, std::pair{96'000, 48'000},
                                 std::pair{192'000, 44'100}, std::pair{192'000, 22'050}, std::pair{22'050, 192'000}}) {
    SineSource source(1000, from);
    RateConverter converter(source, from, to);
    std::vector<float> left(static_cast<std::size_t>(to));
    std::vector<float> right(left.size());
    for (std::size_t at = 0; at < left.size(); at += 256) {
      const auto n = std::min<std::size_t>(256, left.size() - at);
      converter.process(std::span(left).subspan(at, n), std::span(right).subspan(at, n));
    }
    double wrong = 0;
    double sound = 0;
    for (std::size_t i = left.size() / 4; i < left.size() * 3 / 4; ++i) {
      const double wanted = 0.5 * std::sin(2 * M_PI * 1000 * static_cast<double>(i) / to);
      wrong += (left[i] - wanted) * (left[i] - wanted);
      sound += wanted * wanted;
    }
    EXPECT_LT(10 * std::log10(wrong / sound), -75) << from << " to " << to;
    EXPECT_EQ(left, right);
  }
}

TEST(RtAudioDevice, NoDeviceIsSaidInASentence) {
  const auto none = RtAudioDevice::open("no such kind");
  ASSERT_FALSE(none);
  EXPECT_NE(none.error().message.find("simulated"), std::string::npos);
}

TEST(Engine, AStopIsNeverLostHoweverManyCommandsCameBefore) {
  const auto m = constant(0.25F);
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(m));
  engine.play();
  blocks.next(4096);
  ASSERT_TRUE(engine.playing());
  for (int i = 0; i < 1000; ++i) engine.seek(Frames{i * 10});  // more than the ring holds, and no block in between
  engine.stop();
  for (int i = 0; i < 20; ++i) blocks.next(512), engine.collect();
  EXPECT_FALSE(engine.playing());
  for (const float s : blocks.next(512)) ASSERT_EQ(s, 0.0F);
}

TEST(Engine, CommandsThatWaitedKeepTheirOrder) {
  const auto m = constant(0.25F);
  Engine engine(48'000);
  Blocks blocks(engine);
  engine.setPlan(planOf(m));
  for (int i = 0; i < 700; ++i) engine.seek(Frames{i});
  engine.seek(Frames{100'000});
  engine.play();
  for (int i = 0; i < 10; ++i) blocks.next(64), engine.collect();
  EXPECT_TRUE(engine.playing());
  EXPECT_GT(engine.position(), Frames{100'000});
  EXPECT_LT(engine.position(), Frames{101'000});
}

TEST(Player, RunsAtTheSongsRate) {
  Player player(48'000);
  ASSERT_TRUE(player.useDevice(std::make_unique<SimulatedDevice>()));
  ASSERT_TRUE(player.setRate(44'100));
  EXPECT_EQ(player.rate(), 44'100);
  ASSERT_NE(player.device(), nullptr);
  const auto m = constant(0.25F);
  player.setPlan(planOf(m));
  player.seek(Frames{44'100});
  player.engine().play();
  const auto until = std::chrono::steady_clock::now() + 5s;
  while (player.engine().position() < Frames{48'000} && std::chrono::steady_clock::now() < until)
    std::this_thread::sleep_for(5ms);
  EXPECT_GE(player.engine().position(), Frames{48'000}) << "it plays on the device at the new rate";
}

TEST(Engine, APlanThatIsGivenAgainStaysAliveWhileItPlays) {
  Engine engine(48'000);
  const auto run = [&] {
    std::vector<float> left(4'800);
    std::vector<float> right(4'800);
    for (int i = 0; i < 4; ++i) engine.process(left, right);
  };
  auto first = std::make_shared<const PlayPlan>();
  const std::weak_ptr<const PlayPlan> watched = first;
  for (const auto& plan : {first, std::make_shared<const PlayPlan>(), first}) {
    ASSERT_TRUE(engine.setPlan(plan));
    run();
  }
  first.reset();
  run();
  engine.collect();
  EXPECT_FALSE(watched.expired()) << "it plays";
  ASSERT_TRUE(engine.setPlan(std::make_shared<const PlayPlan>()));
  run();
  engine.collect();
  EXPECT_TRUE(watched.expired()) << "and is freed once it does not any more";
}

}  // namespace
}  // namespace ochron
