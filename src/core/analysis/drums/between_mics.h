#pragma once

#include <array>
#include <optional>
#include <vector>

#include "analysis/drums/mic_strokes.h"

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

  /// What the wide mics hear of a hit beyond its strokes on mics of their own, by band.
  struct Beyond {
    AddedPower::Bands more{};    ///< dB over what these strokes bring there
    AddedPower::Bands varies{};  ///< dB by which what they bring differs from stroke to stroke
    AddedPower::Bands rings{};   ///< dB by which there is more 0.12 s later than before
  };
  /// The same of the 20 ms from a place on. None without wide mics, or where a stroke's drum has no balance known.
  std::optional<Beyond> beyond(const std::vector<const MicStroke*>& close, Frames from) const;
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
  /// How near `mic` hears the sure strokes of `drum`'s own mic in a band against the wide ones, dB.
  std::vector<double> ratiosOf(std::size_t drum, std::size_t mic, std::size_t band) const;
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
