#include "render/stretch_head.h"

#include <algorithm>
#include <cmath>

#include "song/envelope.h"

namespace ochron {

void StretchHead::prepare(int rate) { stretch_.prepare(rate, kSpeedRange.low / 100, kSpeedRange.high / 100); }

void StretchHead::reset() noexcept {
  stretch_.reset();
  ahead_ = 0;
}

Frames StretchHead::ahead() const noexcept { return Frames{std::llround(ahead_)}; }

void StretchHead::process(std::span<float> left, std::span<float> right, SongStream& input) noexcept {
  for (std::size_t done = 0; done < left.size();) {
    const auto n = std::min(stretch_.ready(), left.size() - done);
    stretch_.take(left.subspan(done, n), right.subspan(done, n));
    done += n;
    ahead_ -= static_cast<double>(n) * speed_;
    if (done == left.size()) break;
    for (auto& side : read_) side.fill(0.0F);
    if (const double speed = input.speed(); speed != 0) speed_ = speed;
    input.read(read_[0], read_[1]);
    stretch_.put(read_[0], read_[1], speed_);
    ahead_ += static_cast<double>(LiveStretch::kBlock);
  }
}

}  // namespace ochron
