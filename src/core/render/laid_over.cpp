#include "render/laid_over.h"

#include <algorithm>
#include <numeric>

namespace ochron {
namespace {

constexpr std::int64_t kBlock = 4096;

/// Where sound first and last differs from a recording: begin and end, the same where it does not.
std::pair<std::int64_t, std::int64_t> differing(const Samples& recording, std::int64_t begin, const Samples& sound) {
  std::vector<float> raw(kBlock);
  std::vector<float> own(kBlock);
  std::int64_t first = -1;
  std::int64_t last = -1;
  for (std::int64_t at = 0; at < static_cast<std::int64_t>(sound.size()); at += kBlock) {
    const auto n =
        static_cast<std::size_t>(std::min<std::int64_t>(kBlock, static_cast<std::int64_t>(sound.size()) - at));
    recording.subspan(static_cast<std::size_t>(begin + at), n).read(std::span(raw).first(n));
    sound.subspan(static_cast<std::size_t>(at), n).read(std::span(own).first(n));
    for (std::size_t i = 0; i < n; ++i) {
      if (own[i] == raw[i]) continue;
      last = at + static_cast<std::int64_t>(i);
      if (first < 0) first = last;
    }
  }
  return first < 0 ? std::pair{begin, begin} : std::pair{begin + first, begin + last + 1};
}

}  // namespace

void LaidOver::add(std::int64_t at, const Samples& sound) {
  const auto length = static_cast<std::int64_t>(recording_.size());
  const auto begin = std::clamp<std::int64_t>(at, 0, length);
  const auto end = std::clamp<std::int64_t>(at + static_cast<std::int64_t>(sound.size()), begin, length);
  const auto within = sound.subspan(static_cast<std::size_t>(begin - at), static_cast<std::size_t>(end - begin));
  const auto [first, last] = differing(recording_, begin, within);
  if (last > first)
    pieces_.push_back(
        {first, last, within.subspan(static_cast<std::size_t>(first - begin), static_cast<std::size_t>(last - first))});
}

void LaidOver::add(std::int64_t begin, std::int64_t end, Lay lay) {
  begin = std::max<std::int64_t>(begin, 0);
  end = std::min(end, static_cast<std::int64_t>(recording_.size()));
  if (end > begin) pieces_.push_back({begin, end, {}, std::move(lay)});
}

void LaidOver::put(const Piece& piece, std::int64_t from, std::span<const float> raw, std::span<float> to) const {
  if (piece.lay) return piece.lay(from, raw, to);
  const auto sound = piece.sound.copy();
  const auto first = static_cast<std::size_t>(piece.begin - from);
  for (std::size_t i = 0; i < sound.size(); ++i)
    if (sound[i] != raw[first + i]) to[first + i] = sound[i];
}

std::vector<PatchedSamples::Patch> LaidOver::patches(std::deque<std::vector<float>>& owned) const {
  std::vector<std::size_t> order(pieces_.size());
  std::iota(order.begin(), order.end(), std::size_t{0});
  std::stable_sort(order.begin(), order.end(),
                   [&](std::size_t a, std::size_t b) { return pieces_[a].begin < pieces_[b].begin; });
  std::vector<PatchedSamples::Patch> out;
  for (std::size_t i = 0; i < order.size();) {
    const auto begin = pieces_[order[i]].begin;
    auto end = pieces_[order[i]].end;
    auto next = i + 1;
    for (; next < order.size() && pieces_[order[next]].begin < end; ++next)
      end = std::max(end, pieces_[order[next]].end);
    if (const auto& only = pieces_[order[i]]; next == i + 1 && !only.lay) {
      out.push_back({static_cast<std::size_t>(begin), only.sound});
    } else {
      const auto raw =
          recording_.subspan(static_cast<std::size_t>(begin), static_cast<std::size_t>(end - begin)).copy();
      auto& sound = owned.emplace_back(raw);
      std::vector<std::size_t> together(order.begin() + static_cast<std::ptrdiff_t>(i),
                                        order.begin() + static_cast<std::ptrdiff_t>(next));
      std::sort(together.begin(), together.end());
      for (const auto p : together) put(pieces_[p], begin, raw, sound);
      out.push_back({static_cast<std::size_t>(begin), Samples(sound)});
    }
    i = next;
  }
  return out;
}

}  // namespace ochron
