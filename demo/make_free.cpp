// Renders "Slow Water" into a folder: a short piece for piano and bass played without a click, its tempo wandering by
// some 6 %, and the truth about every beat and note. The same output every time.

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <numbers>

#include <smf.h>  // after the others: it takes them into its own linkage

#include "instruments.h"
#include "media/audio_file.h"
#include "score.h"

namespace {

using namespace ochron;
using namespace ochron::demo;
namespace fs = std::filesystem;

constexpr const char* kSoundfont = "/usr/share/sounds/sf2/FluidR3_GM.sf2";
constexpr int kPiano = 0;
constexpr int kBassProgram = 32;
constexpr double kMeanBpm = 84;
constexpr double kLeadIn = 0.8;  // s before bar 1
constexpr int kBeats = 3;        // of a bar
constexpr int kPieceBars = 28;

/// The players' tempo: it breathes with the phrases and holds back at the end.
double bpmAt(double beat) {
  const double breath =
      0.045 * std::sin(2 * std::numbers::pi * beat / 24 + 0.6) + 0.018 * std::sin(2 * std::numbers::pi * beat / 10.5);
  const double last = std::max(0.0, beat - (kPieceBars - 2) * kBeats);
  return kMeanBpm * (1 + breath) * (1 - 0.02 * last);
}

/// Seconds of a beat, by small steps.
double secondsOf(double beat) {
  constexpr double kStep = 1.0 / 96;
  double seconds = kLeadIn;
  for (double b = 0; b < beat; b += kStep) seconds += std::min(kStep, beat - b) * 60 / bpmAt(b + kStep / 2);
  return seconds;
}

/// So that hands are not machines: a few ms, always the same.
double looseness(int n) { return 0.005 * std::sin(n * 12.9898) + 0.003 * std::sin(n * 4.1414 + 1); }

struct Played {
  double beat;
  double beats;
  int midi;
  int velocity;
};

void write(const fs::path& file, const std::vector<Played>& notes, int program, float level, Instruments& instruments,
           double seconds, nlohmann::ordered_json& truth) {
  std::vector<float> out(static_cast<std::size_t>(seconds * kRate), 0.0F);
  int n = 0;
  for (const auto& p : notes) {
    const double start = secondsOf(p.beat) + looseness(++n);
    const double held = secondsOf(p.beat + p.beats) - secondsOf(p.beat);
    const auto sound = instruments.note(program, p.midi, p.velocity, held);
    const auto at = static_cast<std::size_t>(start * kRate);
    for (std::size_t i = 0; i < sound.size() && at + i < out.size(); ++i) out[at + i] += sound[i];
    truth.push_back({{"start", start}, {"end", start + held}, {"midi", p.midi}, {"beat", p.beat}});
  }
  float peak = 0;
  for (const float s : out) peak = std::max(peak, std::abs(s));
  for (auto& s : out) s *= level / peak;
  auto writer = AudioFileWriter::create(file, {FileFormat::flac, SampleFormat::pcm16, kRate, 1});
  if (!writer || !writer->write(out) || !writer->finish()) {
    std::fprintf(stderr, "make_free: %s cannot be written.\n", file.c_str());
    std::exit(2);
  }
}

/// What a keyboard's recorder that was told no tempo writes: 120 BPM, whatever was played.
bool writeKeys(const fs::path& file, const std::vector<Played>& notes) {
  constexpr int kPulses = 480;
  constexpr double kPulsesASecond = 2.0 * kPulses;
  std::multimap<int, std::array<int, 3>> events;
  int n = 0;
  for (const auto& p : notes) {
    const double at = secondsOf(p.beat) + looseness(++n);
    const double end = secondsOf(p.beat + p.beats) - 0.02;
    events.insert({static_cast<int>(std::lround(at * kPulsesASecond)), {0x90, p.midi, p.velocity}});
    events.insert({static_cast<int>(std::lround(end * kPulsesASecond)), {0x80, p.midi, 0}});
  }
  smf_t* smf = smf_new();
  if (!smf || smf_set_ppqn(smf, kPulses) != 0) return false;
  smf_track_t* track = smf_track_new();
  smf_add_track(smf, track);
  for (const auto& [at, bytes] : events)
    smf_track_add_event_pulses(track, smf_event_new_from_bytes(bytes[0], bytes[1], bytes[2]), at);
  const bool ok = smf_save(smf, file.c_str()) == 0;
  smf_delete(smf);
  return ok;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return std::fputs("usage: make_free FOLDER\n", stderr), 1;
  const fs::path folder = argv[1];
  fs::create_directories(folder);
  Instruments instruments(kSoundfont);
  // Four bars of harmony, over and over: root, third, fifth, seventh.
  constexpr std::array<std::array<int, 4>, 4> kChords{
      {{50, 53, 57, 60}, {46, 50, 53, 57}, {48, 52, 55, 59}, {45, 48, 52, 57}}};
  constexpr std::array<int, 12> kTune{77, 76, 74, 72, 74, 77, 79, 76, 72, 74, 72, 69};
  std::vector<Played> piano;
  std::vector<Played> bass;
  for (int bar = 0; bar < kPieceBars; ++bar) {
    const auto& chord = kChords[static_cast<std::size_t>(bar % 4)];
    const double at = bar * kBeats;
    const bool last = bar + 1 == kPieceBars;
    piano.push_back({at, last ? 3.0 : 1.0, chord[0] + 12, 78});
    if (last) {
      for (int i = 1; i < 4; ++i) piano.push_back({at, 3.0, chord[static_cast<std::size_t>(i)] + 12, 66});
    } else {
      for (const double beat : {1.0, 2.0})
        for (int i = 1; i < 4; ++i)
          piano.push_back({at + beat, 0.9, chord[static_cast<std::size_t>(i)] + 12, 54 + 2 * i});
    }
    // The tune rests in every fourth bar.
    if (bar >= 4 && bar % 4 != 3 && !last)
      for (int k = 0; k < 3; ++k) {
        const auto step = static_cast<std::size_t>((bar % 4) * 3 + k);
        piano.push_back({at + k, 1.0, kTune[step], 86});
        if (k == 1 && bar % 2 == 0) piano.push_back({at + k + 0.5, 0.5, kTune[step] + 2, 72});
      }
    if (bar >= 2) bass.push_back({at, bar % 2 == 0 ? 2.0 : 2.9, chord[0] - 12, 88});
    if (bar >= 2 && bar % 2 == 0 && !last) bass.push_back({at + 2, 0.9, chord[2] - 24, 76});
  }
  std::sort(piano.begin(), piano.end(), [](const Played& a, const Played& b) { return a.beat < b.beat; });
  const double seconds = secondsOf(kPieceBars * kBeats) + 2.5;
  nlohmann::ordered_json truth{{"piece", "Slow Water"}, {"rate", kRate}, {"meter", "3/4"}};
  for (int beat = 0; beat < kPieceBars * kBeats; ++beat) truth["beats"].push_back(secondsOf(beat));
  for (int bar = 0; bar < kPieceBars; ++bar) truth["downbeats"].push_back(secondsOf(bar * kBeats));
  truth["piano"] = nlohmann::ordered_json::array();
  truth["bass"] = nlohmann::ordered_json::array();
  write(folder / "Piano.flac", piano, kPiano, 0.5F, instruments, seconds, truth["piano"]);
  write(folder / "Bass.flac", bass, kBassProgram, 0.5F, instruments, seconds, truth["bass"]);
  if (!writeKeys(folder / "Piano.mid", piano)) return std::fputs("Piano.mid cannot be written\n", stderr), 1;
  std::ofstream(folder / "truth.json") << truth.dump(1) << "\n";
  return 0;
}
