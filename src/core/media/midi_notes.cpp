#include "media/midi_notes.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "terms/general_midi.h"

namespace ochron {
namespace {

constexpr double kLongestSeconds = 3 * 3600;
constexpr std::size_t kMostVoices = 128;  // that sound at a time
constexpr double kRingSeconds = 1.5;      // after the last note
constexpr double kLevel = 0.22;           // of the hardest note
constexpr double kRiseSeconds = 0.001;
constexpr double kLetGoSeconds = 0.05;
constexpr double kSilentAfter = 12;  // times as long as it takes to fall by a neper: 104 dB
constexpr double kVoiceSeconds = 8;  // of a note that is held on
constexpr int kPartials = 4;
constexpr double kDieAway = 0.9;  // a second, of the fundamental at middle C

/// A plain drum: a tone that falls, and noise.
struct DrumSound {
  double hertz;
  double falls;  ///< times as high when it is struck
  double tone;
  double noise;
  double seconds;
};

DrumSound drumSound(int key) {
  constexpr int kLowestTom = 41;
  switch (drumOfKey(key)) {
    case DrumClass::kick: return {52, 2.5, 1.6, 0, 0.14};
    case DrumClass::snare: return {185, 1.3, 0.5, 0.6, 0.10};
    case DrumClass::tom: return {70.0 * std::exp2((key - kLowestTom) / 9.0), 1.4, 1.1, 0.05, 0.22};
    case DrumClass::hat: return {0, 1, 0, 0.33, key == kOpenHatKey ? 0.2 : 0.03};
    case DrumClass::cymbal: return {0, 1, 0, 0.25, 0.6};
    case DrumClass::other: break;
  }
  return {1'200, 1, 0.5, 0.1, 0.03};
}

/// From where on a note is not heard any more.
Frames silentFrom(const PlayedNote& n) {
  const auto frames = [](double seconds) { return Frames{static_cast<std::int64_t>(seconds * PlainTones::kRate)}; };
  if (n.drum) return n.at + frames(kSilentAfter * drumSound(n.key).seconds);
  return std::min(n.end + frames(kSilentAfter * kLetGoSeconds), n.at + frames(kVoiceSeconds));
}

double sine(double cycles) { return std::sin(2 * std::numbers::pi * (cycles - std::floor(cycles))); }

}  // namespace

Result<PlayedNotes> playedNotes(const MidiFile& file, int rate, const std::string& head) {
  if (file.notes.empty()) return fail(ErrorKind::badInput, head + ": it holds no note. Choose another file.");
  if (file.seconds(file.length) > kLongestSeconds)
    return fail(ErrorKind::badInput, head + ": it goes on for more than three hours. Choose another file.");
  PlayedNotes out;
  out.reserve(file.notes.size());
  const auto frames = [&](std::int64_t pulse) { return Frames{std::llround(file.seconds(pulse) * rate)}; };
  for (const auto& n : file.notes) {
    const auto at = frames(n.at);
    out.push_back({at, std::max(at + Frames{1}, frames(n.end)), n.key, n.velocity, n.channel == MidiFile::kPercussion});
  }
  return out;
}

Result<PlayedNotes> readPlayedNotes(const std::filesystem::path& file, int rate) {
  const auto head = file.filename().string() + " cannot be read as notes";
  const auto midi = readMidiFile(file, head);
  if (!midi) return tl::unexpected(midi.error());
  return playedNotes(*midi, rate, head);
}

PlainTones::PlainTones(PlayedNotes notes) : notes_(std::move(notes)) {
  for (const auto& n : notes_) length_ = std::max(length_, n.end);
  length_ += Frames{static_cast<std::int64_t>(kRingSeconds * kRate)};
}

NoteExtent extentOf(const PlayedNotes& notes) {
  NoteExtent out;
  if (notes.empty()) return out;
  out.lowest = out.highest = notes.front().key;
  for (const auto& n : notes) {
    out.lowest = std::min(out.lowest, n.key);
    out.highest = std::max(out.highest, n.key);
    out.longest = std::max(out.longest, n.end - n.at);
  }
  return out;
}

std::int64_t PlainTones::read(std::span<float> out) {
  const auto count = std::min<std::int64_t>(std::ssize(out), (length_ - at_).value);
  if (count <= 0) return 0;
  const auto room = out.first(static_cast<std::size_t>(count));
  std::fill(room.begin(), room.end(), 0.0F);
  const auto end = at_ + Frames{count};
  for (; next_ < notes_.size() && notes_[next_].at < end; ++next_) sounding_.push_back(begin(notes_[next_], next_));
  if (sounding_.size() > kMostVoices)
    sounding_.erase(sounding_.begin(), sounding_.end() - static_cast<std::ptrdiff_t>(kMostVoices));
  for (auto& v : sounding_) add(v, at_, room);
  at_ = end;
  std::erase_if(sounding_, [&](const Voice& v) { return at_ >= silentFrom(v.note); });
  return count;
}

PlainTones::Voice PlainTones::begin(const PlayedNote& note, std::size_t index) {
  Voice v{note, static_cast<std::uint32_t>(index) * 2'654'435'761U | 1U, {}};
  if (note.drum) return v;
  const double hertz = 440 * std::exp2((note.key - 69) / 12.0);
  const double dies = kDieAway * std::pow(hertz / 261.6, 0.4);
  for (int h = 1; h <= kPartials && h * hertz < kRate / 2.2; ++h)
    v.partials.push_back({1 / (h * std::sqrt(h)), std::polar(std::exp(-dies * (0.6 + 0.4 * h) / kRate),
                                                             2 * std::numbers::pi * h * hertz / kRate)});
  return v;
}

void PlainTones::add(Voice& voice, Frames first, std::span<float> out) {
  const auto& n = voice.note;
  const double loud = kLevel * std::pow(n.velocity / 127.0, 1.5);
  const double letGo = std::exp(-1 / (kLetGoSeconds * kRate));
  const auto drum = drumSound(n.key);
  const auto end = std::min(first + Frames{std::ssize(out)}, silentFrom(n));
  for (auto f = std::max(first, n.at); f < end; f += Frames{1}) {
    const double t = static_cast<double>((f - n.at).value) / kRate;
    const double rise = std::min(1.0, t / kRiseSeconds);
    double x = 0;
    if (n.drum) {
      voice.noise ^= voice.noise << 13;
      voice.noise ^= voice.noise >> 17;
      voice.noise ^= voice.noise << 5;
      const double noise = static_cast<double>(voice.noise) / 2'147'483'648.0 - 1;
      // The tone's pitch falls to its own within some 20 ms.
      const double cycles = drum.hertz * (t + (drum.falls - 1) * 0.02 * (1 - std::exp(-t / 0.02)));
      x = (drum.tone * sine(cycles) + drum.noise * noise) * std::exp(-t / drum.seconds);
    } else {
      for (auto& p : voice.partials) {
        x += p.now.imag();
        p.now *= p.turn;
      }
      if (f > n.end) voice.held *= letGo;
      x *= voice.held;
    }
    out[static_cast<std::size_t>((f - first).value)] += static_cast<float>(loud * rise * x);
  }
}

}  // namespace ochron
