#include "media/midi_reader.h"

#include <algorithm>
#include <array>
#include <fstream>

#include "files/atomic_file.h"

namespace ochron {
namespace {

constexpr std::size_t kLargestMidi = std::size_t{16} << 20;
constexpr std::int64_t kMostPulses = std::int64_t{1} << 31;  // so that ticks of any division stay within 64 bits
constexpr std::size_t kMostNotes = 2'000'000;
constexpr std::size_t kMostEvents = 100'000;  // of tempo, meter and markers each
constexpr double kUsualBpm = 120;

/// Reads the bytes of one chunk, never past its end.
class Bytes {
 public:
  explicit Bytes(std::string_view data) : data_(data) {}
  bool atEnd() const { return at_ >= data_.size(); }
  int next() {
    if (atEnd()) {
      broken_ = true;
      return 0;
    }
    return static_cast<unsigned char>(data_[at_++]);
  }
  int peek() const { return atEnd() ? 0 : static_cast<unsigned char>(data_[at_]); }
  /// Variable-length quantity, at most four bytes.
  std::int64_t quantity() {
    std::int64_t v = 0;
    for (int i = 0; i < 4; ++i) {
      const int b = next();
      v = v << 7 | (b & 0x7f);
      if (b < 0x80) return v;
    }
    broken_ = true;
    return 0;
  }
  std::string_view take(std::int64_t n) {
    if (n < 0 || static_cast<std::size_t>(n) > data_.size() - at_) return broken_ = true, std::string_view{};
    at_ += static_cast<std::size_t>(n);
    return data_.substr(at_ - static_cast<std::size_t>(n), static_cast<std::size_t>(n));
  }
  std::uint32_t number(int bytes) {
    std::uint32_t v = 0;
    for (int i = 0; i < bytes; ++i) v = v << 8 | static_cast<std::uint32_t>(next());
    return v;
  }
  bool broken() const { return broken_; }

 private:
  std::string_view data_;
  std::size_t at_ = 0;
  bool broken_ = false;
};

/// One track chunk.
class TrackReader {
 public:
  TrackReader(std::string_view chunk, MidiFile& out) : in_(chunk), out_(out) {}

  /// False when it is damaged.
  bool read() {
    int status = 0;
    bool ended = false;
    while (!in_.atEnd() && !ended) {
      pulse_ += in_.quantity();
      if (pulse_ > kMostPulses) return false;
      if (in_.peek() >= 0x80) status = in_.next();
      if (status < 0x80 || in_.broken()) return false;
      if (status == 0xff) {
        if (!meta(ended)) return false;
        status = 0;
      } else if (status >= 0xf0) {
        in_.take(in_.quantity());
        status = 0;
      } else {
        voice(status);
      }
    }
    // What was never let go of sounds to the end.
    for (const auto& perChannel : held_)
      for (const auto index : perChannel)
        if (index > 0) out_.notes[index - 1].end = std::max(out_.notes[index - 1].at, pulse_);
    out_.length = std::max(out_.length, pulse_);
    return !in_.broken();
  }

 private:
  bool meta(bool& ended) {
    const int type = in_.next();
    const auto data = in_.take(in_.quantity());
    if (in_.broken()) return false;
    const auto at = [&](std::size_t i) { return static_cast<unsigned char>(data[i]); };
    if (type == 0x2f) ended = true;
    if (type == 0x58 && data.size() >= 2 && at(0) > 0 && at(0) <= 64 && at(1) <= 6 && out_.meters.size() < kMostEvents)
      out_.meters.push_back({pulse_, at(0), 1 << at(1)});
    const int us = data.size() >= 3 ? at(0) << 16 | at(1) << 8 | at(2) : 0;
    if (type == 0x51 && us > 0 && out_.tempos.size() < kMostEvents) out_.tempos.push_back({pulse_, 60e6 / us, 0});
    if (type == 0x06 && !data.empty() && out_.markers.size() < kMostEvents)
      out_.markers.push_back({pulse_, std::string(data)});
    return true;
  }

  void voice(int status) {
    const int kind = status & 0xf0;
    const int first = in_.next() & 0x7f;
    const int second = kind == 0xc0 || kind == 0xd0 ? 0 : in_.next() & 0x7f;
    const int channel = status & 0x0f;
    if (in_.broken()) return;
    if (kind == 0xb0) return control(bends_[static_cast<std::size_t>(channel)], first, second);
    if (kind == 0xe0) return bend(channel, second << 7 | first);
    if (kind != 0x90 && kind != 0x80) return;
    auto& held = held_[static_cast<std::size_t>(channel)][static_cast<std::size_t>(first)];
    if (held > 0) out_.notes[held - 1].end = pulse_;
    held = 0;
    if (kind == 0x80 || second == 0 || out_.notes.size() >= kMostNotes) return;
    out_.notes.push_back({pulse_, pulse_, first, second, channel, bends_[static_cast<std::size_t>(channel)].now});
    held = out_.notes.size();
  }

  struct Bend {
    double now = 0;          ///< semitones
    double range = 2;        ///< semitones to either side, by registered parameter 0
    int parameter = 0x3fff;  ///< none
  };

  static void control(Bend& bend, int number, int value) {
    if (number == 101) bend.parameter = (bend.parameter & 0x7f) | value << 7;
    if (number == 100) bend.parameter = (bend.parameter & 0x3f80) | value;
    if (number == 99 || number == 98) bend.parameter = 0x3fff;
    if (number == 6 && bend.parameter == 0) bend.range = value;
  }

  void bend(int channel, int value) {
    auto& b = bends_[static_cast<std::size_t>(channel)];
    b.now = (value - 0x2000) * b.range / 0x2000;
    // One that follows a note at the same place is its own, too.
    for (const auto index : held_[static_cast<std::size_t>(channel)])
      if (index > 0 && out_.notes[index - 1].at == pulse_) out_.notes[index - 1].bend = b.now;
  }

  Bytes in_;
  MidiFile& out_;
  std::int64_t pulse_ = 0;
  std::array<Bend, 16> bends_{};
  std::array<std::array<std::size_t, 128>, 16> held_{};  // one more than the note's index; 0: none sounds
};

template <class T>
void inOrder(std::vector<T>& all) {
  std::stable_sort(all.begin(), all.end(), [](const T& a, const T& b) { return a.at < b.at; });
}

}  // namespace

double MidiFile::seconds(std::int64_t pulse) const {
  const auto next = std::lower_bound(tempos.begin(), tempos.end(), pulse,
                                     [](const Tempo& t, std::int64_t place) { return t.at < place; });
  const auto before = next == tempos.begin() ? Tempo{0, kUsualBpm, 0} : *(next - 1);
  return before.seconds + static_cast<double>(pulse - before.at) / division * 60 / before.bpm;
}

Result<MidiFile> readMidi(std::string_view bytes, const std::string& head) {
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput, head + ": " + why + ". Choose another file.");
  };
  Bytes in(bytes);
  if (in.take(4) != "MThd" || in.number(4) < 6) return refuse("it is not a MIDI file");
  const auto header = in.number(4);
  MidiFile out;
  out.division = static_cast<int>(in.number(2));
  if (in.broken()) return refuse("it is cut short");
  if (out.division == 0 || out.division >= 0x8000) return refuse("it counts in film frames, not in beats");
  if ((header >> 16) > 1) return refuse("it holds several songs; save one of them on its own");
  while (!in.atEnd()) {
    const auto name = in.take(4);
    const auto chunk = in.take(in.number(4));
    if (in.broken() || (name == "MTrk" && !TrackReader(chunk, out).read())) return refuse("it is damaged or cut short");
  }
  inOrder(out.notes);
  inOrder(out.tempos);
  inOrder(out.meters);
  inOrder(out.markers);
  MidiFile::Tempo before{0, kUsualBpm, 0};
  for (auto& t : out.tempos) {
    t.seconds = before.seconds + static_cast<double>(t.at - before.at) / out.division * 60 / before.bpm;
    before = t;
  }
  return out;
}

Result<MidiFile> readMidiFile(const std::filesystem::path& file, const std::string& head) {
  auto text = readWholeFile(file, kLargestMidi);
  if (!text) return tl::unexpected(text.error());
  return readMidi(*text, head);
}

bool isMidiFile(const std::filesystem::path& file) {
  std::array<char, 4> head{};
  std::ifstream in(file, std::ios::binary);
  in.read(head.data(), head.size());
  return in && std::string_view(head.data(), head.size()) == "MThd";
}

}  // namespace ochron
