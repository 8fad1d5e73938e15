#include "dsp/patched_samples.h"

#include <algorithm>

namespace ochron {

PatchedSamples::PatchedSamples(const Samples& base, std::vector<Patch> patches)
    : base_(base), patches_(std::move(patches)) {}

std::vector<PatchedSamples::Patch>::const_iterator PatchedSamples::firstEndingBehind(std::size_t i) const noexcept {
  return std::partition_point(patches_.begin(), patches_.end(), [&](const Patch& p) { return p.end() <= i; });
}

float PatchedSamples::at(std::size_t i) const noexcept {
  const auto p = firstEndingBehind(i);
  return p != patches_.end() && p->at <= i ? p->sound[i - p->at] : base_[i];
}

void PatchedSamples::read(std::size_t from, std::span<float> out) const noexcept {
  auto p = firstEndingBehind(from);
  for (std::size_t done = 0; done < out.size();) {
    const auto here = from + done;
    const bool patched = p != patches_.end() && p->at <= here;
    const auto until = p == patches_.end() ? from + out.size() : patched ? p->end() : p->at;
    const auto part = out.subspan(done, std::min(until, from + out.size()) - here);
    if (patched)
      p->sound.subspan(here - p->at, part.size()).read(part);
    else
      base_.subspan(here, part.size()).read(part);
    if (patched) ++p;
    done += part.size();
  }
}

}  // namespace ochron
