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
  for (auto& stream : streams_) {
    for (auto& side : stream.ring) side.resize(static_cast<std::size_t>(2 * room_));
    begin(stream);
  }
  alike_.resize(static_cast<std::size_t>(join_));
}

void GrainShift::begin(Stream& s) noexcept {
  s.filled = s.played;
  for (auto& side : s.ring)
    for (auto at = s.played - back_; at < s.played; ++at)
      side[static_cast<std::size_t>(at & (room_ - 1))] = side[static_cast<std::size_t>((at & (room_ - 1)) + room_)] = 0;
  s.grain = {static_cast<double>(s.played - join_), 1, true};
  s.from = From::nothing;
  s.done = join_;
}

void GrainShift::restart() noexcept { begin(now()); }

void GrainShift::jump() noexcept {
  current_ = 1 - current_;
  begin(now());
  now().grain.start += static_cast<double>(join_);
  now().from = From::jump;
  now().done = 0;
}

void GrainShift::setCents(double cents) noexcept { cents_ = std::clamp(cents, -kMostCents, kMostCents); }

bool GrainShift::plain() const noexcept { return cents_ == 0 && now().grain.own && now().done >= join_; }

bool GrainShift::ready() const noexcept {
  const double speed = std::exp2(cents_ / 1200);
  return ahead(now()) >= search_ + marginAt(speed) + std::llround(static_cast<double>(grain_ + join_) * speed) + 1;
}

void GrainShift::readMore(std::int64_t frames, Source& source) noexcept {
  auto& s = now();
  while (frames > 0) {
    const auto at = s.filled & (room_ - 1);
    const auto n = std::min(frames, room_ - at);
    const auto part = [&](std::size_t side, std::int64_t from) {
      return std::span(s.ring[side]).subspan(static_cast<std::size_t>(from), static_cast<std::size_t>(n));
    };
    source.read(part(0, at), part(1, at));
    for (std::size_t side = 0; side < 2; ++side) std::copy_n(part(side, at).begin(), n, part(side, at + room_).begin());
    s.filled += n;
    frames -= n;
  }
}

/// At least what is put out next; for a key that is tried, what its next grain reads, bit by bit, and always as much as
/// it takes to go over into another place.
void GrainShift::fill(std::int64_t frames, Source& source) noexcept {
  const auto needed = std::max<std::int64_t>(0, frames - ahead(now()));
  const bool more = cents_ != 0 ? !ready() : ahead(now()) < frames + join_;
  readMore(more ? std::max(needed, (1 + kExtraReads) * frames) : needed, source);
}

float GrainShift::valueOf(const Stream& s, const Grain& grain, std::int64_t frame, std::size_t side) const noexcept {
  const auto base = s.played - back_;
  const auto* data = s.ring[side].data() + (base & (room_ - 1));
  if (grain.own) {
    const auto at = static_cast<std::int64_t>(grain.start) + frame;
    return at < s.filled ? data[at - base] : 0.0F;
  }
  const double at = grain.start + static_cast<double>(frame) * grain.speed;
  return speedRead({data, 1, back_ + ahead(s)}, at - static_cast<double>(base), grain.speed);
}

float GrainShift::heard(const Stream& s, std::int64_t frame, std::size_t side) const noexcept {
  const float x = valueOf(s, s.grain, frame, side);
  if (s.from == From::nothing || frame >= join_) return x;
  const float in = (static_cast<float>(frame) + 0.5F) / static_cast<float>(join_);
  if (s.from == From::grain) return valueOf(s, s.last, s.lastFrom + frame, side) * (1 - in) + x * in;
  const auto& old = streams_[1 - current_];
  return &s == &old ? x : heard(old, old.done + frame, side) * (1 - in) + x * in;
}

/// Both sides together, between frames by a straight line: enough to compare by.
double GrainShift::roughly(const Grain& grain, double frame) const noexcept {
  const auto& s = now();
  const auto base = s.played - back_;
  const double at = grain.start + frame * grain.speed - static_cast<double>(base);
  const auto i = std::clamp<std::int64_t>(static_cast<std::int64_t>(at), 0, back_ + ahead(s) - 2);
  const double along = at - static_cast<double>(i);
  const auto* l = s.ring[0].data() + (base & (room_ - 1)) + i;
  const auto* r = s.ring[1].data() + (base & (room_ - 1)) + i;
  return std::lerp(static_cast<double>(l[0] + r[0]), static_cast<double>(l[1] + r[1]), along);
}

/// The offset within the search at which the next grain goes on most like what is heard.
double GrainShift::mostAlike(const Grain& next) noexcept {
  const auto fine = std::max<std::int64_t>(1, coarse_ / 2);
  const auto& s = now();
  for (std::int64_t k = 0; k < join_; k += fine)
    alike_[static_cast<std::size_t>(k)] = roughly(s.last, static_cast<double>(s.lastFrom + k));
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
  const auto look = [&](std::int64_t from, std::int64_t to, std::int64_t apart, std::int64_t step) {
    for (auto d = from; d <= to; d += apart)
      if (const double l = likeness(d, step); l > most) {
        most = l;
        best = d;
      }
  };
  look(-search_, search_, coarse_, coarse_);
  const auto around = best;
  most = likeness(best, fine);
  look(std::max(-search_, around - coarse_), std::min(search_, around + coarse_), fine, fine);
  return static_cast<double>(best);
}

void GrainShift::beginGrain() noexcept {
  auto& s = now();
  const bool wasOwn = s.grain.own;
  s.last = s.grain;
  s.lastFrom = s.done;
  s.grain = {static_cast<double>(s.played), std::exp2(cents_ / 1200), cents_ == 0 || !ready()};
  if (s.grain.own) s.grain.speed = 1;
  s.from = wasOwn && s.grain.own ? From::nothing : From::grain;
  s.done = s.from == From::nothing ? join_ : 0;
  s.grain.start -= static_cast<double>(s.done);
  if (!s.grain.own) s.grain.start += mostAlike(s.grain);
}

void GrainShift::process(std::span<float> left, std::span<float> right, Source& source) noexcept {
  const std::array sides{left, right};
  auto& s = now();
  for (std::int64_t put = 0; put < std::ssize(left);) {
    auto n = std::min(std::ssize(left) - put, kAtOnce);
    fill(n, source);
    const bool waited = s.grain.own && cents_ != 0 && s.done >= join_ && ready();
    if (s.done >= grain_ || waited) beginGrain();
    n = std::min(n, grain_ - s.done);
    for (std::size_t side = 0; side < 2; ++side)
      for (std::int64_t k = 0; k < n; ++k) sides[side][static_cast<std::size_t>(put + k)] = heard(s, s.done + k, side);
    s.done += n;
    s.played += n;
    put += n;
  }
}

}  // namespace ochron
