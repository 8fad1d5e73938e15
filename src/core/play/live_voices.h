#pragma once

#include <array>
#include <atomic>
#include <cstddef>
#include <cstdint>
#include <memory>
#include <span>
#include <vector>

namespace ochron {

/// A sound under a key or pad: one or two channels of equal length, at the engine's rate.
struct LiveSound {
  std::vector<std::vector<float>> channels;
  float gain = 1;
  float pan = 0;  ///< -1 left to 1 right
  int choke = 0;  ///< group whose sounds silence each other; 0: none
};

/// Sounds that can be struck, by their numbers. Immutable once it is given to the engine.
struct LiveBank {
  std::vector<LiveSound> sounds;
};

/// What is struck by hand, on top of the song: up to 128 voices. Banks travel from the controlling thread to the audio
/// thread and are freed by the first once nothing of them sounds any more.
class LiveVoices {
 public:
  static constexpr std::size_t kVoices = 128;

  explicit LiveVoices(int rate);

  /// Controlling thread: a bank on its way; what the audio thread is to be given (Given stays alive by itself).
  class Given;
  Given* give(std::shared_ptr<const LiveBank> bank);
  /// Controlling thread: frees banks that are done with.
  void collect();
  std::size_t alive() const { return alive_.size(); }

  /// Audio thread: strikes go to this bank from now on. What sounds of others rings on.
  void use(Given* bank) noexcept;
  /// Audio thread: `strength` 0 to 1. Sounds of the same choke group, and the same sound, end in 5 ms. What is no sound
  /// of the bank is silent.
  void strike(int sound, float strength) noexcept;
  /// Audio thread: all ends in 5 ms.
  void hush() noexcept;
  bool sounding() const noexcept { return sounding_ > 0; }
  /// Audio thread: adds what sounds.
  void add(std::span<float> left, std::span<float> right) noexcept;

  class Given {
   public:
    explicit Given(std::shared_ptr<const LiveBank> bank) : bank_(std::move(bank)) {}

   private:
    friend class LiveVoices;
    std::shared_ptr<const LiveBank> bank_;
    int users_ = 0;  // audio thread: voices, and one while it is the bank in use
    std::atomic<bool> done_{false};
  };

 private:
  struct Voice {
    Given* given = nullptr;  ///< none: free
    const LiveSound* sound = nullptr;
    std::size_t at = 0;
    float left = 0;
    float right = 0;
    std::int64_t ending = -1;  ///< frames of its fade that are left; below 0: it sounds on
    std::uint64_t age = 0;
  };
  static void release(Given* given) noexcept;
  void end(Voice& voice) noexcept;
  void addVoice(Voice& voice, std::span<float> left, std::span<float> right) noexcept;

  const std::int64_t fade_;  // frames
  std::vector<std::unique_ptr<Given>> alive_;
  Given* now_ = nullptr;
  std::array<Voice, kVoices> voices_{};
  std::size_t sounding_ = 0;
  std::uint64_t struck_ = 0;
};

}  // namespace ochron
