#include "dsp/grain_shift.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "dsp/varispeed.h"

namespace ochron {
namespace {

constexpr double kGrainSeconds = 0.02;
constexpr double kSearchSeconds = 0.006;
constexpr int kTriesPerSecond = 12'000;
constexpr std::int64_t kAtOnce = 256;    // frames at most that are put out in one go
constexpr std::int64_t kExtraReads = 2;  // frames read ahead for each put out, until there are enough

const double kFastest = std::exp2(GrainShift::kMostCents / 1200);

std::int64_t marginAt(double speed) noexcept { return speedReach(speed) + 2; }

}  // namespace

GrainShift::GrainShift(int rate)
    : grain_(static_cast<std::int64_t>(kGrainSeconds * rate)),
      join_(grain_ / 2),
      search_(static_cast<std::int64_t>(kSearchSeconds * rate)),
      coarse_(std::max(1, rate / kTriesPerSecond)),
      back_(2 * (grain_ + join_) + search_ + marginAt(kFastest)) {
  prepareSpeedReading();
  const auto ahead = search_ + marginAt(kFastest) + std::llround(static_cast<double>(grain_ + join_) * kFastest);
  room_ =
      static_cast<std::int64_t>(std::bit_ceil(static_cast<std::uint64_t>(back_ + ahead + (kExtraReads + 2) * kAtOnce)));
  for (auto& side : ring_) side.resize(static_cast<std::size_t>(2 * room_));
  for (auto* list : {&tail_, &spare_})
    for (auto& side : *list) side.resize(static_cast<std::size_t>(join_));
  alike_.resize(static_cast<std::size_t>(join_));
  restart();
}

void GrainShift::restart() noexcept {
  for (auto& side : ring_) std::fill(side.begin(), side.end(), 0.0F);
  filled_ = played_;
  now_ = {static_cast<double>(played_ - join_), 1, true};
  from_ = From::nothing;
  done_ = join_;
}

void GrainShift::jump() noexcept {
  const auto known = now_.own ? std::min(join_, ahead()) : join_;
  std::array<std::vector<float>, 2>& to = spare_;
  for (std::size_t side = 0; side < 2; ++side)
    for (std::int64_t k = 0; k < join_; ++k) {
      float x = 0;
      if (k < known) x = heard(done_ + k, side);
      if (known < join_)
        x *= std::max(0.0F, 1 - static_cast<float>(k) / static_cast<float>(std::max<std::int64_t>(1, known)));
      to[side][static_cast<std::size_t>(k)] = x;
    }
  std::swap(tail_, spare_);
  restart();
  now_.start += static_cast<double>(join_);
  from_ = From::tail;
  done_ = 0;
}

void GrainShift::setCents(double cents) noexcept { cents_ = std::clamp(cents, -kMostCents, kMostCents); }

bool GrainShift::plain() const noexcept { return cents_ == 0 && now_.own && done_ >= join_; }

bool GrainShift::ready() const noexcept {
  const double speed = std::exp2(cents_ / 1200);
  return filled_ - played_ >= search_ + marginAt(speed) + std::llround(static_cast<double>(grain_ + join_) * speed) + 1;
}

void GrainShift::readMore(std::int64_t frames, Source& source) noexcept {
  while (frames > 0) {
    const auto at = filled_ & (room_ - 1);
    const auto n = std::min(frames, room_ - at);
    const auto part = [&](std::size_t side, std::int64_t from) {
      return std::span(ring_[side]).subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(n));
    };
    source.read(part(0, at), part(1, at));
    for (std::size_t side = 0; side < 2; ++side) std::copy_n(part(side, at).begin(), n, part(side, at + room_).begin());
    filled_ += n;
    frames -= n;
  }
}

/// At least what is put out next; for a key that is tried, what its next grain reads, bit by bit.
void GrainShift::fill(std::int64_t frames, Source& source) noexcept {
  const auto needed = std::max<std::int64_t>(0, frames - ahead());
  const bool more = cents_ != 0 ? !ready() : ahead() < frames + join_;  // to go over into another place
  readMore(more ? std::max(needed, (1 + kExtraReads) * frames) : needed, source);
}

float GrainShift::valueOf(const Grain& grain, std::int64_t frame, std::size_t side) const noexcept {
  const auto base = played_ - back_;
  const auto* data = ring_[side].data() + (base & (room_ - 1));
  if (grain.own) return data[static_cast<std::int64_t>(grain.start) + frame - base];
  const double at = grain.start + static_cast<double>(frame) * grain.speed;
  return speedRead({data, 1, back_ + ahead()}, at - static_cast<double>(base), grain.speed);
}

float GrainShift::heard(std::int64_t frame, std::size_t side) const noexcept {
  const float x = valueOf(now_, frame, side);
  if (from_ == From::nothing || frame >= join_) return x;
  const float in = (static_cast<float>(frame) + 0.5F) / static_cast<float>(join_);
  return before(frame, side) * (1 - in) + x * in;
}

float GrainShift::before(std::int64_t frame, std::size_t side) const noexcept {
  return from_ == From::tail ? tail_[side][static_cast<std::size_t>(frame)] : valueOf(last_, lastFrom_ + frame, side);
}

/// Both sides together, between frames by a straight line: enough to compare by.
double GrainShift::roughly(const Grain& grain, double frame) const noexcept {
  const auto base = played_ - back_;
  const double at = grain.start + frame * grain.speed - static_cast<double>(base);
  const auto i = std::clamp<std::int64_t>(static_cast<std::int64_t>(at), 0, back_ + ahead() - 2);
  const double along = at - static_cast<double>(i);
  const auto* l = ring_[0].data() + (base & (room_ - 1)) + i;
  const auto* r = ring_[1].data() + (base & (room_ - 1)) + i;
  return std::lerp(static_cast<double>(l[0] + r[0]), static_cast<double>(l[1] + r[1]), along);
}

/// The offset within the search at which the next grain goes on most like what is heard.
double GrainShift::mostAlike(const Grain& next) noexcept {
  const auto fine = std::max<std::int64_t>(1, coarse_ / 2);
  for (std::int64_t k = 0; k < join_; k += fine)
    alike_[static_cast<std::size_t>(k)] = roughly(last_, static_cast<double>(lastFrom_ + k));
  const auto likeness = [&](std::int64_t offset, std::int64_t step) {
    const Grain there{next.start + static_cast<double>(offset), next.speed, false};
    double product = 0;
    double power = 1e-12;
    for (std::int64_t k = 0; k < join_; k += step) {
      const double x = roughly(there, static_cast<double>(k));
      product += x * alike_[static_cast<std::size_t>(k)];
      power += x * x;
    }
    return product / std::sqrt(power);
  };
  std::int64_t best = 0;
  double most = likeness(0, coarse_);
  for (auto d = -search_; d <= search_; d += coarse_)
    if (const double l = likeness(d, coarse_); l > most) {
      most = l;
      best = d;
    }
  const auto around = best;
  most = likeness(best, fine);
  for (auto d = std::max(-search_, around - coarse_); d <= std::min(search_, around + coarse_); ++d)
    if (const double l = likeness(d, fine); l > most) {
      most = l;
      best = d;
    }
  return static_cast<double>(best);
}

void GrainShift::beginGrain() noexcept {
  const bool wasOwn = now_.own;
  last_ = now_;
  lastFrom_ = done_;
  now_ = {static_cast<double>(played_), std::exp2(cents_ / 1200), cents_ == 0 || !ready()};
  if (now_.own) now_.speed = 1;
  from_ = wasOwn && now_.own ? From::nothing : From::grain;
  done_ = from_ == From::nothing ? join_ : 0;
  now_.start -= static_cast<double>(done_);
  if (!now_.own) now_.start += mostAlike(now_);
}

void GrainShift::process(std::span<float> left, std::span<float> right, Source& source) noexcept {
  const std::array sides{left, right};
  for (std::int64_t put = 0; put < std::ssize(left);) {
    auto n = std::min(std::ssize(left) - put, kAtOnce);
    fill(n, source);
    const bool waited = now_.own && cents_ != 0 && done_ >= join_ && ready();
    if (done_ >= grain_ || waited) beginGrain();
    n = std::min(n, grain_ - done_);
    for (std::size_t side = 0; side < 2; ++side)
      for (std::int64_t k = 0; k < n; ++k) sides[side][static_cast<std::size_t>(put + k)] = heard(done_ + k, side);
    done_ += n;
    played_ += n;
    put += n;
  }
}

}  // namespace ochron
