#pragma once

#include <memory>
#include <span>
#include <vector>

#include "base/units.h"

namespace ochron {

/// What a chain reads: the song's mix, from its play line on. Read on the audio thread: allocates, locks and throws
/// nothing.
class SongStream {
 public:
  virtual ~SongStream() = default;
  /// Adds the next frames of the song to both sides, which are silent before, and moves on.
  virtual void read(std::span<float> left, std::span<float> right) noexcept = 0;
  /// How fast the song runs where it is read next (1: as recorded); 0: it runs as recorded throughout.
  virtual double speed() const noexcept = 0;
  /// Whether pitch stays at another speed; else it goes along.
  virtual bool keepsPitch() const noexcept { return false; }
};

/// A stage with state or latency that the song's mix runs through on its way to the device or the file.
class ChainNode {
 public:
  virtual ~ChainNode() = default;
  /// Takes all the memory it will ever need. Before anything else, not on the audio thread.
  virtual void prepare(int rate) = 0;
  /// The stream begins anew: what was read before is forgotten.
  virtual void reset() noexcept = 0;
  /// Frames that it puts out later than it takes them in.
  virtual Frames latency() const noexcept = 0;
  /// Frames of its input that it has read beyond what it has put out.
  virtual Frames ahead() const noexcept { return {}; }
  /// Fills both sides, silent before, from `input`.
  virtual void process(std::span<float> left, std::span<float> right, SongStream& input) noexcept = 0;
};

/// The nodes in order. Lives as long as the playing or the export: a new plan changes what is read, not the chain.
class Chain {
 public:
  explicit Chain(int rate);
  ~Chain();
  void reset() noexcept;
  Frames latency() const noexcept;
  /// Song frames that were read beyond what is heard.
  Frames ahead() const noexcept;
  void process(std::span<float> left, std::span<float> right, SongStream& song) noexcept;

 private:
  std::vector<std::unique_ptr<ChainNode>> nodes_;  // the first reads the song
};

}  // namespace ochron
