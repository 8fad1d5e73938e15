#pragma once

#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "base/setting.h"

namespace ochron {

inline constexpr SettingRange kReferencePitchRange{"A4", "Hz", 380, 500, 0.1, 440};

inline constexpr std::size_t kMostScaleSteps = 1200;  ///< in an octave

/// The pitches that notes are brought to: a pattern of steps that repeats from octave to octave.
struct Scale {
  std::string name;                                  ///< as parseScale() reads it, or the title of a scale file
  int tonic = 0;                                     ///< semitones above C, 0 to 11
  std::vector<double> steps{0};                      ///< cents above the tonic, rising, the first 0, all below `octave`
  double octave = 1200;                              ///< cents after which the steps repeat
  double reference = kReferencePitchRange.fallback;  ///< Hz of A4

  bool operator==(const Scale&) const = default;

  /// The scale's pitch nearest to one; both in cents above 1 Hz.
  double nearest(double cents) const;
  /// Cents above 1 Hz of the tonic in the octave of middle C.
  double tonicCents() const;
};

/// All twelve semitones.
Scale chromaticScale();
/// "chromatic", or a tonic and a kind: "C major", "F# dorian", "Bb minor pentatonic". Fails with a sentence that names
/// the kinds.
Result<Scale> parseScale(std::string_view text);
/// The scale so many cents higher: its nearest pitch to what lies as much higher is as much higher. Semitones move the
/// tonic, and its name with it; what is left moves the reference.
Scale transposedBy(Scale scale, double cents);
/// The kinds that parseScale() knows, the commonest first.
const std::vector<std::string>& scaleKinds();
/// The tonics' names from C upwards.
const std::vector<std::string>& tonicNames();

/// A pitch's note name and what it is off that, "E4 +12"; cents above 1 Hz.
std::string noteName(double cents, double reference = kReferencePitchRange.fallback);
/// The same, spelled as the scale's key asks for: "G#4" in A major, "Ab4" in F minor.
std::string noteName(double cents, const Scale& scale);

/// Reads a pitch as a user writes it: a note's name, perhaps with cents ("E4", "f#3 -20", "Bb2+15", "B\u266d2"), or
/// signed cents from `from` ("+30"). Cents above 1 Hz. Fails with a sentence that says how.
Result<double> parsePitch(std::string_view text, double from, double reference);

}  // namespace ochron
