#pragma once

namespace ochron {

/// While one of these lives, what decoding libraries print on standard error about damaged files goes nowhere: the
/// program says itself, in one sentence, what is wrong. Any thread; calls nest.
class QuietDecoders {
 public:
  explicit QuietDecoders(bool on = true);
  ~QuietDecoders();
  QuietDecoders(const QuietDecoders&) = delete;
  QuietDecoders& operator=(const QuietDecoders&) = delete;

 private:
  bool on_;
};

}  // namespace ochron
