#include "edits/differing.h"

#include <algorithm>

namespace ochron {

FrameRange differing(const ClipList& a, const ClipList& b) {
  const auto [fromA, fromB] = std::mismatch(a.begin(), a.end(), b.begin(), b.end());
  const auto [backA, backB] =
      std::mismatch(a.rbegin(), std::make_reverse_iterator(fromA), b.rbegin(), std::make_reverse_iterator(fromB));
  FrameRange out;
  const auto add = [&](auto first, auto last) {
    if (first == last) return;
    const FrameRange range{first->start, std::prev(last)->end()};
    out = out.empty() ? range : FrameRange{std::min(out.start, range.start), std::max(out.end, range.end)};
  };
  add(fromA, backA.base());
  add(fromB, backB.base());
  return out;
}

}  // namespace ochron
