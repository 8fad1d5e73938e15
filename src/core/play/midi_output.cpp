#include "play/midi_output.h"

#include <RtMidi.h>

#include <algorithm>
#include <chrono>
#include <condition_variable>
#include <queue>
#include <thread>

#include "play/midi_system.h"

namespace ochron {
namespace {

using Clock = std::chrono::steady_clock;

std::unique_ptr<RtMidiOut> makeOutput() {
  auto output = std::make_unique<RtMidiOut>(RtMidi::LINUX_ALSA, kMidiClient);
  output->setErrorCallback(quietMidi);
  return output;
}

std::int64_t nowNs() {
  return std::chrono::duration_cast<std::chrono::nanoseconds>(Clock::now().time_since_epoch()).count();
}

bool isNoteOff(const MidiEvent& e) { return (e.bytes[0] & 0xF0) == 0x80; }

}  // namespace

void SimulatedMidiOutput::send(std::span<const unsigned char> message) {
  const std::scoped_lock lock(mutex_);
  if (sent_.size() == kKept) sent_.erase(sent_.begin());
  MidiEvent e{nowNs(), {}};
  std::copy_n(message.begin(), std::min(message.size(), e.bytes.size()), e.bytes.begin());
  sent_.push_back(e);
}

std::vector<MidiEvent> SimulatedMidiOutput::sent() const {
  const std::scoped_lock lock(mutex_);
  return sent_;
}

struct RtMidiOutput::State {
  std::string port;
  std::unique_ptr<RtMidiOut> output;
};

RtMidiOutput::RtMidiOutput() : state_(std::make_unique<State>()) {}
RtMidiOutput::~RtMidiOutput() = default;

std::vector<std::string> RtMidiOutput::ports() { return midiPorts(makeOutput); }

Result<std::unique_ptr<MidiOutput>> RtMidiOutput::open(const std::string& port) {
  auto system = openMidiPort(makeOutput, port, "MIDI port");
  if (!system) return tl::unexpected(system.error());
  std::unique_ptr<RtMidiOutput> opened(new RtMidiOutput);
  opened->state_->output = std::move(*system);
  opened->state_->port = port;
  return std::unique_ptr<MidiOutput>(std::move(opened));
}

std::string RtMidiOutput::name() const { return state_->port; }

void RtMidiOutput::send(std::span<const unsigned char> message) {
  try {
    state_->output->sendMessage(message.data(), message.size());
  } catch (const RtMidiError&) {
    // The port went away: what it is sent is heard by nobody, and the song plays on.
  }
}

struct MidiSender::State {
  std::shared_ptr<NoteStream> notes;
  std::shared_ptr<MidiOutput> output;
  std::mutex mutex;
  std::condition_variable wake;
  bool quit = false;
  std::thread thread;

  void run() {
    constexpr std::chrono::milliseconds kLook{1};  // for notes that were put meanwhile
    const auto later = [](const MidiEvent& a, const MidiEvent& b) { return a.due > b.due; };
    std::priority_queue<MidiEvent, std::vector<MidiEvent>, decltype(later)> waiting(later);
    std::unique_lock lock(mutex);
    while (!quit) {
      lock.unlock();
      MidiEvent e;
      while (notes->next(e)) waiting.push(e);
      for (; !waiting.empty() && waiting.top().due <= nowNs(); waiting.pop()) output->send(waiting.top().bytes);
      lock.lock();
      wake.wait_for(lock, waiting.empty() ? std::chrono::nanoseconds(kLook)
                                          : std::chrono::nanoseconds(
                                                std::clamp<std::int64_t>(waiting.top().due - nowNs(), 0, 1'000'000)));
    }
    for (; !waiting.empty(); waiting.pop())
      if (isNoteOff(waiting.top())) output->send(waiting.top().bytes);
  }
};

MidiSender::MidiSender(std::shared_ptr<NoteStream> notes, std::shared_ptr<MidiOutput> output)
    : state_(std::make_unique<State>()) {
  state_->notes = std::move(notes);
  state_->output = std::move(output);
  MidiEvent stale;
  while (state_->notes->next(stale)) {}
  state_->notes->want(true);
  state_->thread = std::thread([s = state_.get()] { s->run(); });
}

MidiSender::~MidiSender() {
  state_->notes->want(false);
  {
    const std::scoped_lock lock(state_->mutex);
    state_->quit = true;
  }
  state_->wake.notify_all();
  state_->thread.join();
}

const MidiOutput& MidiSender::output() const { return *state_->output; }

}  // namespace ochron
