#pragma once

#include <array>
#include <optional>
#include <vector>

#include "analysis/mic_strokes.h"

namespace ochron {

/// Thresholds of what the levels between mics tell, from takes with truth (docs/figures.md).
struct BetweenMicsSettings {
  double ownSure = 0.3;        ///< strokes from which a mic's balance is learned
  double foreignDb = -7;       ///< so far off its balance a stroke is another drum's
  double foreignScaleDb = 10;  ///< by so much more it surely is
  double hatSpreadDb = 3;      ///< hat strokes lie within this of each other
  double hatOverOthersDb = 6;  ///< the hat's mic hears it at least so much nearer than kick and snare
  double hatReachDb = 8;       ///< under its balance a hat struck together with others still shows
  double hatFaintestDb = 35;   ///< under a loud hat
  double tomDb = 1.5;          ///< above what kick and snare bring to the wide mics there is a tom, where it sounds
  double tomSpread = 0.5;      ///< and by so many times as that varies from stroke to stroke
  double brighterDb = 6;       ///< more in the bands of cymbals than in a tom's it is a cymbal that reaches down there
  double cymbalDb = 1.2;       ///< above what the close drums bring there is a cymbal, where cymbals sound
  double cymbalSpread = 0.3;   ///< and by so many times as that varies
  double mostSpreadDb = 15;    ///< a band in which what is brought varies by more tells nothing
};

/// What the mics of a kit tell each other. A drum's level in its own mic against that in the wide ones (overheads) is
/// the same for every stroke, however hard: its balance. Another drum's bleed has another one.
class BetweenMics {
 public:
  /// Settles whose strokes are whose: bleed in a close mic counts less, strokes of the hat in its mic become its own,
  /// and what wide mics hear is guessed among the drums that have no mic of their own. Without wide mics only the
  /// latter.
  BetweenMics(std::vector<MicHearing>& mics, int rate, const BetweenMicsSettings& settings = {});

  /// What is struck along with a hit's close strokes that has no mic of its own: the wide mics hear more than these
  /// bring, and it rings on. A tom or a cymbal, if anything. `begins`: where the first mic hears the hit.
  std::optional<DrumClass> struckAlong(const std::vector<const MicStroke*>& close, Frames begins) const;
  bool isWide(int mic) const { return mics_[static_cast<std::size_t>(mic)].hears == MicHears::everything; }

 private:
  using Bands = AddedPower::Bands;
  struct Balance {
    Bands typical{};                               ///< own mic over wide mics, dB
    Bands alone{};                                 ///< of strokes with little else in the wide mics
    Bands spread{};                                ///< how far these lie from those in the middle
    std::array<bool, BandEnergy::kBands> known{};  ///< the wide mics hear the drum in this band
  };
  Bands wide(Frames at, std::size_t except) const;
  Bands ratioDb(std::size_t mic, Frames at) const;
  std::optional<Balance> learn(std::size_t mic) const;
  void holdToBalance(std::size_t mic);
  void findHats(std::size_t mic);
  void guessTheRest();
  /// How near a mic hears the snares against the wide ones, dB.
  std::optional<double> ofSnares(std::size_t mic) const;
  /// The same of the 20 ms from a place on.
  std::optional<DrumClass> soundsAlong(const std::vector<const MicStroke*>& close, Frames from) const;
  /// Drum of the surest stroke that a close mic has where a wide one hears something.
  std::optional<DrumClass> closeDrumAt(Frames at) const;

  std::vector<MicHearing>& mics_;
  BetweenMicsSettings settings_;
  std::vector<std::size_t> wide_;
  std::vector<std::optional<Balance>> balances_;  ///< one a mic
  bool hatsKnown_ = false;
  int rate_;
};

}  // namespace ochron
