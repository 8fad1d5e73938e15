#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// Plays stereo sound at another pitch and the same speed, as it runs: short grains of it read faster or slower, each
/// begun where it goes on from the one before most alike (WSOLA, Verhelst & Roelands 1993). It reads ahead, so that
/// nothing is heard late: a grain begins within 6 ms of its place. At 0 cents it is the sound itself, to the bit.
/// Allocates, locks and throws nothing once it is made.
class GrainShift {
 public:
  static constexpr double kMostCents = 2400;  ///< up and down

  /// Where the sound comes from. Places may lie before its beginning and after its end, where there is silence.
  class Source {
   public:
    virtual ~Source() = default;
    virtual void read(std::int64_t from, std::span<float> left, std::span<float> right) noexcept = 0;
  };

  explicit GrainShift(int rate);
  /// Goes on from the sound itself, as it is at the place that is played next.
  void restart() noexcept;
  /// From the next grain on, 20 ms at most.
  void setCents(double cents) noexcept;
  /// What is put out is the sound itself.
  bool plain() const noexcept;
  /// Fills both sides with what is heard from a place on.
  void process(std::int64_t at, std::span<float> left, std::span<float> right, Source& source) noexcept;

 private:
  void beginGrain(std::int64_t at, Source& source) noexcept;
  std::int64_t mostAlike(std::int64_t first, double speed) const noexcept;

  const std::int64_t grain_;   // frames put out by one
  const std::int64_t join_;    // frames of crossfade into the next
  const std::int64_t search_;  // how far to either side a grain may begin
  std::array<std::vector<float>, 2> source_;
  std::vector<float> mono_;
  std::array<std::vector<float>, 2> out_;
  std::array<std::vector<float>, 2> tail_;
  std::vector<float> monoTail_;
  double cents_ = 0;
  bool fresh_ = true;      // nothing was put out yet
  bool ownSound_ = true;   // the grain is the sound itself
  std::int64_t next_ = 0;  // place that process() is to be asked for
  std::int64_t done_ = 0;  // frames of the grain that were put out
};

}  // namespace ochron
