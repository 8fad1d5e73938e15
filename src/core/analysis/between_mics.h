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
  double moreDb = 7;           ///< above what the close drums bring to the wide mics there is a cymbal
};

/// What the mics of a kit tell each other. A drum's level in its own mic against that in the wide ones (overheads) is
/// the same for every stroke, however hard: its balance. Another drum's bleed has another one.
class BetweenMics {
 public:
  /// Settles whose strokes are whose: bleed in a close mic counts less, strokes of the hat in its mic become its own,
  /// and what wide mics hear is guessed among the drums that have no mic of their own. Without wide mics only the
  /// latter.
  BetweenMics(std::vector<MicHearing>& mics, int rate, const BetweenMicsSettings& settings = {});

  /// Whether the wide mics hear more at a hit than its close strokes bring: a cymbal is struck too.
  bool hearMore(const std::vector<const MicStroke*>& close) const;
  bool isWide(int mic) const { return mics_[static_cast<std::size_t>(mic)].hears == MicHears::everything; }

 private:
  using Bands = AddedPower::Bands;
  struct Balance {
    Bands typical{};                               ///< own mic over wide mics, dB
    Bands alone{};                                 ///< of strokes with little else in the wide mics
    std::array<bool, BandEnergy::kBands> known{};  ///< the wide mics hear the drum in this band
  };
  Bands wide(Frames at, std::size_t except) const;
  Bands ratioDb(std::size_t mic, Frames at) const;
  std::optional<Balance> learn(std::size_t mic) const;
  void holdToBalance(std::size_t mic);
  void findHats(std::size_t mic);
  void guessTheRest();
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
