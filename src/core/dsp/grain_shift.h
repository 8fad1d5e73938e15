#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

namespace ochron {

/// Plays stereo sound at another pitch and the same speed, as it runs: short grains of it read faster or slower, each
/// begun where it goes on from the one before most alike (WSOLA, Verhelst & Roelands 1993). It reads ahead, so that
/// nothing is heard late: a grain begins within 6 ms of its place. At 0 cents it is the sound itself, to the bit.
/// What a call computes grows with its frames, never with a whole grain: what is read ahead is read a few frames for
/// each that is put out, and until there is enough the sound itself is heard, 30 ms at most.
/// Allocates, locks and throws nothing once it is made.
class GrainShift {
 public:
  static constexpr double kMostCents = 2400;  ///< up and down

  /// Where the sound comes from, frame after frame.
  class Source {
   public:
    virtual ~Source() = default;
    /// Fills both sides with the next frames and moves on.
    virtual void read(std::span<float> left, std::span<float> right) noexcept = 0;
  };

  explicit GrainShift(int rate);
  /// Nothing is heard of what was before: the next frame read is the next one put out.
  void restart() noexcept;
  /// The source stands elsewhere: what was heard goes over into what comes, within 10 ms.
  void jump() noexcept;
  /// From the next grain on, 20 ms at most.
  void setCents(double cents) noexcept;
  /// What is put out is the sound itself.
  bool plain() const noexcept;
  /// What was heard before a jump has gone: another one can be made without a step.
  bool settled() const noexcept { return now().from != From::jump || now().done >= join_; }
  /// Fills both sides with what is heard.
  void process(std::span<float> left, std::span<float> right, Source& source) noexcept;

 private:
  /// Positions count the frames read since the beginning.
  struct Grain {
    double start = 0;
    double speed = 1;
    bool own = true;  ///< the sound itself
  };
  /// What a grain comes in over.
  enum class From { nothing, grain, jump };
  /// What was read of the source since it stands where it does, and what is heard of it.
  struct Stream {
    std::array<std::vector<float>, 2> ring;  ///< each frame twice, so that any stretch lies in one piece
    Grain grain;
    Grain last;                 ///< fades out under it
    std::int64_t lastFrom = 0;  ///< frame of it at which that begins
    From from = From::nothing;
    std::int64_t done = 0;  ///< frames of the grain that were put out
    std::int64_t played = 0;
    std::int64_t filled = 0;
  };
  Stream& now() noexcept { return streams_[current_]; }
  const Stream& now() const noexcept { return streams_[current_]; }
  std::int64_t ahead(const Stream& s) const noexcept { return s.filled - s.played; }
  void begin(Stream& s) noexcept;
  void fill(std::int64_t frames, Source& source) noexcept;
  void readMore(std::int64_t frames, Source& source) noexcept;
  bool ready() const noexcept;
  void beginGrain() noexcept;
  double mostAlike(const Grain& next) noexcept;
  float valueOf(const Stream& s, const Grain& grain, std::int64_t frame, std::size_t side) const noexcept;
  float heard(const Stream& s, std::int64_t frame, std::size_t side) const noexcept;
  double roughly(const Grain& grain, double frame) const noexcept;

  const std::int64_t grain_;       // frames put out by one
  const std::int64_t join_;        // frames of crossfade into the next
  const std::int64_t search_;      // how far to either side a grain may begin
  const std::int64_t coarse_;      // frames between two tries, and between two samples that are compared
  const std::int64_t back_;        // frames that are kept behind what is put out
  std::int64_t room_ = 0;          // of a ring: a power of two
  std::array<Stream, 2> streams_;  // where the source stands, and where it stood before
  std::size_t current_ = 0;
  std::vector<double> alike_;
  double cents_ = 0;
};

}  // namespace ochron
