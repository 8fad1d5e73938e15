#include "score.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace ochron::demo {
namespace {

/// A small generator of our own, so that the song is the same on every machine (Marsaglia's xorshift64*).
class Dice {
 public:
  explicit Dice(std::uint64_t seed) : state_(seed) {}
  double unit() {
    state_ ^= state_ >> 12, state_ ^= state_ << 25, state_ ^= state_ >> 27;
    return static_cast<double>((state_ * 2685821657736338717ull) >> 11) / 9007199254740992.0;
  }
  /// Normal by the sum of twelve uniforms, cut at three deviations.
  double normal(double deviation) {
    double s = -6;
    for (int i = 0; i < 12; ++i) s += unit();
    return std::clamp(s, -3.0, 3.0) * deviation;
  }
  bool chance(double p) { return unit() < p; }

 private:
  std::uint64_t state_;
};

constexpr std::int64_t kSixteenth = kTicksPerQuarter / 4;

double driftMs(double bar) {
  return 9.0 * std::sin(2 * std::numbers::pi * bar / 17.0 + 0.4) +
         5.0 * std::sin(2 * std::numbers::pi * bar / 9.5 + 2.0);
}

double pocketMs(DrumClass drum, int sixteenth) {
  if (drum == DrumClass::snare) return sixteenth % 8 == 4 ? 9.0 : 5.0;  // backbeats lie back
  if (drum == DrumClass::hat || drum == DrumClass::cymbal)
    return sixteenth % 4 == 2 ? 11.5 : sixteenth % 2 == 1 ? 7.0 : 1.0;
  if (drum == DrumClass::kick) return sixteenth == 0 ? -2.0 : 3.0;
  return 4.0;
}

class Drummer {
 public:
  explicit Drummer(const TempoMap& map) : map_(map) {}

  void strike(int bar, int sixteenth, DrumClass drum, int key, int velocity, double looseness = 1, bool ghost = false) {
    Stroke s;
    s.intended = map_.barStart(bar) + Ticks{sixteenth * kSixteenth};
    s.drum = drum, s.key = key, s.ghost = ghost;
    s.velocity = std::clamp(velocity + static_cast<int>(std::lround(dice_.normal(ghost ? 2 : 5))), 12, 127);
    s.driftMs = driftMs(bar + sixteenth / 16.0);
    s.pocketMs = pocketMs(drum, sixteenth);
    s.scatterMs = dice_.normal(3.6 * looseness);
    place(s);
  }
  void flam(int bar, int sixteenth, int velocity) {
    strike(bar, sixteenth, DrumClass::snare, 38, velocity);
    Stroke grace = out_.back();
    grace.grace = true;
    grace.velocity = 58;
    grace.scatterMs -= 24 + dice_.normal(2);
    place(grace);
  }
  bool chance(double p) { return dice_.chance(p); }
  std::vector<Stroke> take() {
    std::sort(out_.begin(), out_.end(), [](auto& a, auto& b) { return a.onset < b.onset; });
    return std::move(out_);
  }

 private:
  void place(Stroke s) {
    s.onset = map_.toFrames(s.intended) + Frames{std::llround((s.driftMs + s.pocketMs + s.scatterMs) * kRate / 1000.0)};
    out_.push_back(s);
  }
  const TempoMap& map_;
  Dice dice_{0x10771DE5u};
  std::vector<Stroke> out_;
};

void groove(Drummer& d, int bar, bool chorus) {
  d.strike(bar, 0, DrumClass::kick, 36, 112);
  if (bar % 2 == 0) d.strike(bar, 6, DrumClass::kick, 36, 96);
  d.strike(bar, 8, DrumClass::kick, 36, 104);
  if (chorus || bar % 4 == 3) d.strike(bar, 11, DrumClass::kick, 36, 92);
  if (bar % 8 == 5)
    d.flam(bar, 4, 114);
  else
    d.strike(bar, 4, DrumClass::snare, 38, 116);
  d.strike(bar, 12, DrumClass::snare, 38, 118);
  for (const int g : {7, 9, 15})
    if (d.chance(0.55)) d.strike(bar, g, DrumClass::snare, 38, 34, 1.3, true);
  for (int s = 0; s < 16; s += 2) {
    if (bar % 8 == 0 && s == 0 && bar > 0)
      d.strike(bar, 0, DrumClass::cymbal, 49, 104);
    else if (chorus && s % 4 == 2)
      d.strike(bar, s, DrumClass::hat, 46, 84);
    else
      d.strike(bar, s, DrumClass::hat, 42, s % 4 == 0 ? 92 : 74);
  }
  if (chorus && d.chance(0.4)) d.strike(bar, 13, DrumClass::hat, 42, 60);
}

void fill(Drummer& d, int bar, bool large) {
  d.strike(bar, 0, DrumClass::kick, 36, 110);
  d.strike(bar, 4, DrumClass::snare, 38, 112);
  for (int s = 0; s < 8; s += 2) d.strike(bar, s, DrumClass::hat, 42, 84);
  d.strike(bar, 8, DrumClass::snare, 38, 104);
  d.strike(bar, 9, DrumClass::snare, 38, 88);
  d.strike(bar, 10, DrumClass::snare, 38, 100);
  d.strike(bar, 11, DrumClass::tom, 50, 104);
  d.strike(bar, 12, DrumClass::tom, 47, 106);
  if (large) d.strike(bar, 13, DrumClass::tom, 47, 98);
  d.strike(bar, 14, DrumClass::tom, 43, 110);
  d.flam(bar, 15, 118);
}

/// Chord roots by bar (MIDI), four bars a round: D minor, B flat, F, C.
constexpr std::array<int, 4> kRoots{38, 34, 41, 36};
constexpr std::array<std::array<int, 4>, 4> kChords{
    {{50, 57, 62, 65}, {46, 53, 62, 65}, {53, 57, 60, 65}, {48, 55, 60, 64}}};

Note played(const TempoMap& map, Dice& dice, int bar, double sixteenth, double length, int midi, int velocity,
            double lateMs, double scatterMs) {
  Note n;
  n.intended = map.barStart(bar) + Ticks{std::llround(sixteenth * kSixteenth)};
  const auto shift = [&](double ms) { return Frames{std::llround(ms * kRate / 1000.0)}; };
  n.start = map.toFrames(n.intended) + shift(driftMs(bar + sixteenth / 16) + lateMs + dice.normal(scatterMs));
  n.end = map.toFrames(n.intended + Ticks{std::llround(length * kSixteenth)}) + shift(driftMs(bar));
  n.midi = midi, n.velocity = velocity;
  return n;
}

struct Sung {
  double at;  // sixteenths from the phrase's start
  double length;
  int midi;
  int vowel;
};
// Two phrases of four bars.
constexpr std::array<Sung, 13> kPhrase{{{0, 3, 62, 0},
                                        {4, 3, 65, 1},
                                        {8, 6, 69, 0},
                                        {15, 1.5, 67, 2},
                                        {16, 5, 65, 0},
                                        {22, 4, 62, 3},
                                        {28, 2.5, 60, 1},
                                        {32, 6, 65, 0},
                                        {39, 2, 67, 2},
                                        {42, 5, 69, 1},
                                        {48, 4, 67, 0},
                                        {53, 2.5, 64, 3},
                                        {56, 7, 62, 0}}};

std::vector<Note> sing(const TempoMap& map) {
  Dice dice(0x5ea51deu);
  std::vector<Note> out;
  for (const int bar : {4, 8, 12, 20, 24, 28})
    for (const auto& s : kPhrase) {
      auto n = played(map, dice, bar, s.at, s.length, s.midi, 90, 14, 11);
      n.cents = dice.normal(14);
      n.vibratoCents = s.length >= 4 ? 32 + dice.normal(6) : 0;
      n.vibratoHz = 5.4 + dice.normal(0.2);
      n.scoopCents = dice.chance(0.4) ? -90 - 40 * dice.unit() : -20;
      n.vowel = s.vowel;
      out.push_back(n);
    }
  return out;
}

}  // namespace

Score writeScore() {
  Score score;
  // Two beats of room tone before bar 1.
  score.tempo = *TempoMap::steady(kRate, kBpm, {4, 4}, Frames{std::llround(2 * 60.0 / kBpm * kRate)});
  Drummer drummer(score.tempo);
  for (int bar = 0; bar < kBars - 1; ++bar) {
    const bool chorus = (bar >= 8 && bar < 16) || bar >= 24;
    if (bar == 15)
      fill(drummer, bar, false);
    else if (bar == 31)
      fill(drummer, bar, true);
    else
      groove(drummer, bar, chorus);
  }
  drummer.strike(kBars - 1, 0, DrumClass::kick, 36, 116);
  drummer.strike(kBars - 1, 0, DrumClass::cymbal, 49, 108);
  score.drums = drummer.take();

  Dice dice(0xBA55u);
  for (int bar = 0; bar < kBars; ++bar) {
    const int root = kRoots[static_cast<std::size_t>(bar % 4)];
    const auto bass = [&](double at, double length, int midi) {
      score.bass.push_back(played(score.tempo, dice, bar, at, length, midi, 100, 4, 5));
    };
    if (bar == kBars - 1) {
      bass(0, 14, kRoots[0]);
    } else {
      bass(0, 5, root);
      bass(6, 1.6, root), bass(8, 3.5, root + 12), bass(12, 1.7, root + 7), bass(14, 1.7, root + 5);
    }
    const auto& chord = kChords[static_cast<std::size_t>(bar == kBars - 1 ? 0 : bar % 4)];
    const auto strum = [&](double at, double length, int velocity) {
      double spread = 0;
      for (const int midi : chord) {
        score.guitar.push_back(played(score.tempo, dice, bar, at, length, midi, velocity, 6 + spread, 1.2));
        spread += 9;
      }
    };
    if (bar == kBars - 1)
      strum(0, 14, 84);
    else if (bar >= 2)
      strum(0, 5.5, 84), strum(6, 3.5, 68), strum(10, 2, 74), strum(12, 3.5, 80);
  }
  score.voice = sing(score.tempo);
  return score;
}

}  // namespace ochron::demo
