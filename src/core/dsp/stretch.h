#pragma once

#include <map>
#include <memory>
#include <span>
#include <vector>

namespace ochron {

/// Changes the length of sound without its pitch (Rubber Band, offline, full quality). All channels go through one
/// engine together, so that their phases stay in step. Not thread-safe: one object per thread.
class Stretcher {
 public:
  /// What the material is; each says when to use it.
  enum class Material {
    drums,  ///< attacks count most
    tone,   ///< single notes, chords and full mixes
  };
  /// What becomes of the pitch.
  struct Shift {
    double ratio = 1;           ///< of every frequency
    bool keepFormants = false;  ///< a voice stays the same person's
  };
  Stretcher(int rate, int channels, Material material, Shift shift);
  Stretcher(int rate, int channels, Material material);
  ~Stretcher();
  Stretcher(Stretcher&&) noexcept;
  Stretcher& operator=(Stretcher&&) noexcept;

  /// Brings `in` (channels of equal length, at least 1 frame) to exactly `frames` frames. `keys` says which frame of
  /// the input lands on which of the output, both rising; none: the same ratio throughout.
  std::vector<std::vector<float>> stretch(const std::vector<std::span<const float>>& in, std::size_t frames,
                                          const std::map<std::size_t, std::size_t>& keys = {});

 private:
  std::vector<std::vector<float>> run(const std::vector<std::span<const float>>& in, std::size_t frames,
                                      const std::map<std::size_t, std::size_t>& keys, std::size_t& made);
  struct State;
  std::unique_ptr<State> state_;
};

}  // namespace ochron
