#pragma once

#include <array>
#include <cstdint>
#include <map>
#include <optional>
#include <utility>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"
#include "base/units.h"
#include "song/formants.h"
#include "song/scale.h"
#include "terms/sung.h"

namespace ochron {

inline constexpr SettingRange kKeepCentreRange{"centre", "%", 0, 100, 1, 0};
inline constexpr SettingRange kKeepWanderRange{"wander", "%", 0, 100, 1, 100};
inline constexpr SettingRange kKeepVibratoRange{"vibrato", "%", 0, 200, 1, 100};
inline constexpr SettingRange kKeepGlideRange{"glide", "%", 0, 100, 1, 100};
inline constexpr SettingRange kPitchToleranceRange{"leave alone within", "c", 0, 50, 1, 0};
inline constexpr SettingRange kLargestPitchMoveRange{"move at most", "c", 0, 600, 5, 0};
inline constexpr SettingRange kTransposeRange{"transpose", "c", -2400, 2400, 1, 0};

/// A pitch plan's controls: where notes go, and how much of the singer stays.
struct TuneSettings {
  bool on = false;
  Scale scale = chromaticScale();
  double keepCentre = kKeepCentreRange.fallback;    ///< of a note's distance to its pitch of the scale
  double keepWander = kKeepWanderRange.fallback;    ///< of slow moves inside a note
  double keepVibrato = kKeepVibratoRange.fallback;  ///< of what moves faster
  double keepGlide = kKeepGlideRange.fallback;      ///< of the time that the voice takes from a note to the next
  double tolerance = kPitchToleranceRange.fallback;
  double largestMove = kLargestPitchMoveRange.fallback;  ///< 0: as far as needed
  double formants = kFormantsRange.fallback;             ///< 0: they stay
  double transpose = kTransposeRange.fallback;           ///< the whole line, also while the plan is off; formants stay

  bool operator==(const TuneSettings&) const = default;
};

inline constexpr std::array kTuneNumbers{
    Setting<TuneSettings>{&TuneSettings::keepCentre, kKeepCentreRange, "keep centre",
                          "of how far a note lies off the scale", "--keep-centre"},
    Setting<TuneSettings>{&TuneSettings::keepWander, kKeepWanderRange, "keep wander", "of slow moves inside a note",
                          "--keep-wander"},
    Setting<TuneSettings>{&TuneSettings::keepVibrato, kKeepVibratoRange, "keep vibrato",
                          "of what moves faster than 3 Hz", "--keep-vibrato"},
    Setting<TuneSettings>{&TuneSettings::keepGlide, kKeepGlideRange, "keep glide",
                          "of the time a voice takes from note to note", "--keep-glide"},
    Setting<TuneSettings>{&TuneSettings::formants, kFormantsRange, "formants cents", "the voice's colour, up or down",
                          "--formants"},
    Setting<TuneSettings>{&TuneSettings::tolerance, kPitchToleranceRange, "leave alone within cents",
                          "notes so near to their pitch are not moved", "--tolerance"},
    Setting<TuneSettings>{&TuneSettings::largestMove, kLargestPitchMoveRange, "move at most cents",
                          "no note is moved further; 0: as far as needed", "--move-at-most"},
    Setting<TuneSettings>{&TuneSettings::transpose, kTransposeRange, "transpose cents", "the whole line, up or down",
                          "--transpose"},
};
/// The first of them can be another one for a single note.
inline constexpr std::size_t kNoteNumbers = 5;

/// What the user decided about one note; it holds against every change of the settings.
struct NoteWish {
  std::optional<double> target;  ///< cents above 1 Hz
  bool asSung = false;
  bool accepted = false;                                  ///< looked at and found good
  std::array<std::optional<double>, kNoteNumbers> own{};  ///< its own values of the first of kTuneNumbers

  bool operator==(const NoteWish&) const = default;
};

/// What holds for one note: the plan's settings, or nothing while the plan is off, with the note's own values over
/// them.
TuneSettings settingsFor(const TuneSettings& plan, const NoteWish& wish);

/// A note by where it begins, in ms of its take: it is found again when the line is heard anew.
using NoteName = std::pair<TakeId, std::int64_t>;

/// Of a mic set: how its single line is tuned.
struct PitchPlan {
  TuneSettings settings;
  std::map<NoteName, NoteWish> wishes;

  bool operator==(const PitchPlan&) const = default;
  bool active() const { return settings.on || !wishes.empty() || settings.transpose != 0; }
};

NoteName nameOf(TakeId take, const SungNote& note);
/// What is wished for a note; nothing when the user left it to the plan. A line heard anew may put its beginning a
/// little elsewhere.
NoteWish wishFor(const PitchPlan& plan, TakeId take, const SungNote& note);
std::vector<NoteWish> wishesFor(const PitchPlan& plan, TakeId take, const std::vector<SungNote>& notes);
/// How far apart two beginnings of one note may be.
inline constexpr std::int64_t kSameNoteMs = 30;

}  // namespace ochron
