#include "song/scale.h"

#include <algorithm>
#include <array>
#include <bitset>
#include <cctype>
#include <cmath>
#include <optional>
#include <utility>

#include "base/numbers.h"
#include "base/text.h"

namespace ochron {
namespace {

constexpr int kSemitones = 12;
constexpr double kSemitone = 100;
constexpr int kAAboveC = 9;
constexpr int kA4 = 69;  // MIDI

struct Kind {
  std::string_view name;
  std::vector<int> semitones;
};

const std::vector<Kind>& kinds() {
  static const std::vector<Kind> all{
      {"major", {0, 2, 4, 5, 7, 9, 11}},
      {"minor", {0, 2, 3, 5, 7, 8, 10}},
      {"harmonic minor", {0, 2, 3, 5, 7, 8, 11}},
      {"melodic minor", {0, 2, 3, 5, 7, 9, 11}},
      {"major pentatonic", {0, 2, 4, 7, 9}},
      {"minor pentatonic", {0, 3, 5, 7, 10}},
      {"blues", {0, 3, 5, 6, 7, 10}},
      {"dorian", {0, 2, 3, 5, 7, 9, 10}},
      {"phrygian", {0, 1, 3, 5, 7, 8, 10}},
      {"lydian", {0, 2, 4, 6, 7, 9, 11}},
      {"mixolydian", {0, 2, 4, 5, 7, 9, 10}},
      {"locrian", {0, 1, 3, 5, 6, 8, 10}},
      {"whole tone", {0, 2, 4, 6, 8, 10}},
  };
  return all;
}

std::string lower(std::string_view text) {
  std::string out;
  for (const char c : text) out += static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return out;
}

/// "C", "f#", "Bb".
std::optional<int> tonicOf(std::string_view text) {
  constexpr std::array<int, 7> kFromA{9, 11, 0, 2, 4, 5, 7};
  if (text.empty() || text.size() > 2) return {};
  const auto letter = std::tolower(static_cast<unsigned char>(text.front()));
  if (letter < 'a' || letter > 'g') return {};
  int out = kFromA[static_cast<std::size_t>(letter - 'a')];
  if (text.size() == 2) {
    if (text[1] != '#' && text[1] != 'b') return {};
    out += text[1] == '#' ? 1 : -1;
  }
  return (out + kSemitones) % kSemitones;
}

tl::unexpected<Error> noSuchScale(std::string_view text) {
  std::string names;
  for (const auto& k : kinds()) names += (names.empty() ? "" : ", ") + std::string(k.name);
  return fail(ErrorKind::badInput, "\"" + std::string(text) + "\" is no scale. Say chromatic, or a tonic and one of: " +
                                       names + "; for instance \"C major\" or \"F# dorian\".");
}

using Names = std::array<std::string_view, kSemitones>;
constexpr Names kSharps{"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};
constexpr Names kFlats{"C", "Db", "D", "Eb", "E", "F", "Gb", "G", "Ab", "A", "Bb", "B"};
constexpr Names kMixed{"C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"};

/// Spelled as its tonic is; after a plain tonic so that no letter stands for two of its steps.
const Names& namesFor(const Scale& scale) {
  const bool hasTonic = tonicOf(scale.name.substr(0, scale.name.find(' '))) == scale.tonic;
  if (!hasTonic || scale.steps.size() > 7) return kMixed;
  if (scale.name[1] == '#') return kSharps;
  if (scale.name[1] == 'b') return kFlats;
  for (const auto* names : {&kSharps, &kFlats}) {
    std::bitset<7> letters;
    for (const double s : scale.steps) {
      const auto& name = (*names)[static_cast<std::size_t>((scale.tonic + std::lround(s / kSemitone)) % kSemitones)];
      letters.set(static_cast<std::size_t>(name[0] - 'A'));
    }
    if (letters.count() == scale.steps.size()) return *names;
  }
  return kMixed;
}

std::string named(double cents, double reference, const Names& names) {
  const double midi = kA4 + (cents - 1200 * std::log2(reference)) / kSemitone;
  const auto nearest = static_cast<int>(std::lround(midi));
  const int octave = static_cast<int>(std::floor(nearest / 12.0)) - 1;
  const int off = static_cast<int>(std::lround(kSemitone * (midi - nearest)));
  std::string out{names[static_cast<std::size_t>(((nearest % kSemitones) + kSemitones) % kSemitones)]};
  out += std::to_string(octave);
  if (off != 0) out += (off > 0 ? " +" : " ") + std::to_string(off);
  return out;
}

/// What a note's name begins with: semitones up, and how many bytes it is.
std::pair<int, std::size_t> accidentalOf(std::string_view text) {
  for (const auto& [sign, by] : {std::pair{"#", 1}, {"b", -1}, {"\u266f", 1}, {"\u266d", -1}})
    if (text.starts_with(sign)) return {by, std::string_view(sign).size()};
  return {0, 0};
}

}  // namespace

double Scale::tonicCents() const { return 1200 * std::log2(reference) + (tonic - kAAboveC) * kSemitone; }

double Scale::nearest(double cents) const {
  const double base = tonicCents();
  const auto within = static_cast<int>(std::floor((cents - base) / octave));
  double best = 0;
  double least = 1e12;
  for (int o = within - 1; o <= within + 1; ++o)
    for (const double s : steps) {
      const double at = base + o * octave + s;
      if (std::abs(at - cents) >= least) continue;
      least = std::abs(at - cents);
      best = at;
    }
  return best;
}

Scale chromaticScale() {
  Scale out;
  out.name = "chromatic";
  out.steps.clear();
  for (int i = 0; i < kSemitones; ++i) out.steps.push_back(kSemitone * i);
  return out;
}

Result<Scale> parseScale(std::string_view text) {
  const auto whole = trimmed(text);
  if (lower(whole) == "chromatic") return chromaticScale();
  const auto blank = whole.find(' ');
  const auto tonic = tonicOf(whole.substr(0, blank));
  if (!tonic || blank == std::string_view::npos) return noSuchScale(text);
  const auto wanted = lower(trimmed(whole.substr(blank + 1)));
  for (const auto& k : kinds()) {
    if (k.name != wanted) continue;
    Scale out;
    out.name = std::string(whole.substr(0, blank)) + " " + wanted;
    out.name.front() = static_cast<char>(std::toupper(static_cast<unsigned char>(out.name.front())));
    out.tonic = *tonic;
    out.steps.clear();
    for (const int s : k.semitones) out.steps.push_back(kSemitone * s);
    return out;
  }
  return noSuchScale(text);
}

Scale transposedBy(Scale scale, double cents) {
  // A tonic goes round in octaves of twelve semitones, a scale of another octave does not.
  const bool round = std::abs(scale.octave - kSemitones * kSemitone) < 1e-9;
  const auto semitones = round ? static_cast<int>(std::lround(cents / kSemitone)) : 0;
  const bool named = tonicOf(scale.name.substr(0, scale.name.find(' '))) == scale.tonic;
  scale.tonic = ((scale.tonic + semitones) % kSemitones + kSemitones) % kSemitones;
  scale.reference *= std::exp2((cents - semitones * kSemitone) / 1200);
  if (named && semitones % kSemitones != 0)
    scale.name = tonicNames()[static_cast<std::size_t>(scale.tonic)] + scale.name.substr(scale.name.find(' '));
  return scale;
}

const std::vector<std::string>& scaleKinds() {
  static const std::vector<std::string> names = [] {
    std::vector<std::string> out;
    for (const auto& k : kinds()) out.emplace_back(k.name);
    return out;
  }();
  return names;
}

const std::vector<std::string>& tonicNames() {
  static const std::vector<std::string> names{"C", "C#", "D", "Eb", "E", "F", "F#", "G", "Ab", "A", "Bb", "B"};
  return names;
}

std::string noteName(double cents, double reference) { return named(cents, reference, kMixed); }

std::string noteName(double cents, const Scale& scale) { return named(cents, scale.reference, namesFor(scale)); }

Result<double> parsePitch(std::string_view text, double from, double reference) {
  constexpr double kMostCents = 4800;
  constexpr int kHighestOctave = 9;
  const auto wrong = [&] {
    return fail(ErrorKind::badInput,
                "\"" + std::string(text) +
                    "\" is no pitch. Write a note with its octave, such as E4 or F#3 -20, or cents "
                    "from where it is, such as +30.");
  };
  auto rest = trimmed(text);
  if (rest.empty()) return wrong();
  const auto cents = [&](std::string_view t) -> std::optional<double> {
    const auto value = parseNumber(trimmed(t));
    return value && std::abs(*value) <= kMostCents ? value : std::nullopt;
  };
  if (rest.front() == '+' || rest.front() == '-') {
    const auto moved = cents(rest.front() == '+' ? rest.substr(1) : rest);
    return moved ? Result<double>(from + *moved) : wrong();
  }
  constexpr std::string_view kLetters = "cdefgab";
  constexpr std::array kSteps{0, 2, 4, 5, 7, 9, 11};
  const auto letter = kLetters.find(static_cast<char>(std::tolower(static_cast<unsigned char>(rest.front()))));
  if (letter == std::string_view::npos) return wrong();
  int semitone = kSteps[letter];
  rest.remove_prefix(1);
  const auto [by, bytes] = accidentalOf(rest);
  semitone += by;
  rest.remove_prefix(bytes);
  if (rest.empty() || rest.front() < '0' || rest.front() > '0' + kHighestOctave) return wrong();
  const int octave = rest.front() - '0';
  rest = trimmed(rest.substr(1));
  double off = 0;
  if (!rest.empty()) {
    if (rest.front() != '+' && rest.front() != '-') return wrong();
    const auto aside = cents(rest.front() == '+' ? rest.substr(1) : rest);
    if (!aside) return wrong();
    off = *aside;
  }
  return 1200 * std::log2(reference) + kSemitone * (semitone + 12 * (octave + 1) - kA4) + off;
}

}  // namespace ochron
