// Notes of layers on their way out: in time with what is heard, each once, and sent when they are due.

#include <gtest/gtest.h>

#include <chrono>
#include <thread>

#include "play/midi_output.h"
#include "play/player.h"
#include "support/song_maker.h"

namespace ochron {
namespace {

using namespace std::chrono_literals;

struct NotesOut : ::testing::Test {
  NotesOut() {
    const auto m = test::songOf(*TempoMap::steady(48'000, 120), {std::vector<float>(96'000, 0.1F)}, {});
    auto made = std::make_shared<PlayPlan>();
    made->edited = compilePlan(m.song, m.pool);
    made->original = made->edited;
    made->notes = {{Frames{100}, 38, 0.5}, {Frames{1'060}, 36, 1}, {Frames{50'000}, 42, 0.25}};
    plan = made;
    engine.sendNotesTo(stream);
    engine.setPlan(plan);
    stream->want(true);
  }
  void play(std::size_t blocks, std::size_t frames = 512) {
    std::vector<float> left(frames), right(frames);
    for (std::size_t i = 0; i < blocks; ++i) engine.process(left, right);
  }
  std::vector<MidiEvent> told() {
    std::vector<MidiEvent> out;
    MidiEvent e;
    while (stream->next(e)) out.push_back(e);
    return out;
  }
  std::shared_ptr<const PlayPlan> plan;
  std::shared_ptr<NoteStream> stream = std::make_shared<NoteStream>();
  Engine engine{48'000};
};

TEST_F(NotesOut, AreToldOnceWithTheirStrengthAndAsFarApartAsTheyLie) {
  stream->setDelay(5'000'000);
  const auto before = std::chrono::steady_clock::now().time_since_epoch();
  engine.play();
  play(1, 2'048);  // both lie in one block: their distance is exact
  const auto events = told();
  ASSERT_EQ(events.size(), 4U);
  EXPECT_EQ(events[0].bytes, (std::array<unsigned char, 3>{0x99, 38, 64}));
  EXPECT_EQ(events[1].bytes, (std::array<unsigned char, 3>{0x89, 38, 0}));
  EXPECT_EQ(events[2].bytes, (std::array<unsigned char, 3>{0x99, 36, 127}));
  EXPECT_NEAR(static_cast<double>(events[2].due - events[0].due), 20e6, 2) << "960 frames of 48 kHz, ns";
  EXPECT_GT(events[1].due, events[0].due);
  EXPECT_GE(events[0].due, std::chrono::nanoseconds(before).count() + 5'000'000 + 100 * 1'000'000'000LL / 48'000);
  play(20);
  EXPECT_TRUE(told().empty()) << "what was told is not told again";
}

TEST_F(NotesOut, AreNotToldOfTheOriginalOfAPlaceHeardAloneAndOfWhatStands) {
  play(4);
  EXPECT_TRUE(told().empty()) << "it stands";
  engine.setOriginal(true);
  engine.play();
  play(8);
  EXPECT_TRUE(told().empty()) << "the original has no layers";
  engine.stop();
  engine.setOriginal(false);
  play(8);
  engine.audition({{Frames{0}, Frames{2'000}}, false, false, 1});
  play(8);
  EXPECT_TRUE(told().empty());
  stream->want(false);
  engine.seek(Frames{0});
  engine.play();
  play(8);
  EXPECT_TRUE(told().empty()) << "nobody sends them";
}

TEST_F(NotesOut, ComeAgainWithEveryRoundOfALoop) {
  engine.setLoop({Frames{0}, Frames{2'000}});
  engine.play();
  play(1, 8'000);
  std::size_t snares = 0;
  std::int64_t last = 0;
  for (const auto& e : told()) {
    if (e.bytes[0] != 0x99) continue;
    EXPECT_GT(e.due, last) << "in the order in which they are heard";
    last = e.due;
    snares += e.bytes[1] == 38 ? 1 : 0;
  }
  EXPECT_EQ(snares, 4U);
}

TEST(MidiSending, WaitsUntilEachIsDueAndEndsWhatSoundsWhenItIsOver) {
  auto stream = std::make_shared<NoteStream>();
  auto port = std::make_shared<SimulatedMidiOutput>();
  const auto ns = [](auto d) { return std::chrono::duration_cast<std::chrono::nanoseconds>(d).count(); };
  stream->put({0, {0x99, 1, 1}});  // of before it was there: not sent
  std::int64_t now = 0;
  {
    MidiSender sender(stream, port);
    EXPECT_TRUE(stream->wanted());
    now = ns(std::chrono::steady_clock::now().time_since_epoch());
    stream->put({now + ns(60ms), {0x99, 42, 90}});
    stream->put({now + ns(20ms), {0x99, 38, 100}});
    stream->put({now + ns(1h), {0x89, 38, 0}});
    stream->put({now + ns(1h), {0x99, 36, 100}});
    for (int i = 0; i < 500 && port->sent().size() < 2; ++i) std::this_thread::sleep_for(10ms);
    EXPECT_EQ(sender.output().name(), SimulatedMidiOutput::kName);
  }
  EXPECT_FALSE(stream->wanted());
  const auto sent = port->sent();
  ASSERT_EQ(sent.size(), 3U);
  EXPECT_EQ(sent[0].bytes[1], 38) << "by when they are due, not by when they were put";
  EXPECT_GE(sent[0].due, now + ns(20ms)) << "never before";
  EXPECT_EQ(sent[1].bytes[1], 42);
  EXPECT_GE(sent[1].due, now + ns(60ms));
  EXPECT_EQ(sent[2].bytes, (std::array<unsigned char, 3>{0x89, 38, 0}))
      << "ended at once; what had not begun is not sent";
}

TEST(MidiSending, APortThatIsNotThereIsSaid) {
  const auto open = RtMidiOutput::open("no such port");
  ASSERT_FALSE(open);
  EXPECT_FALSE(open.error().message.empty());
}

}  // namespace
}  // namespace ochron
