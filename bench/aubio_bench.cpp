// Onset detection beside aubio's, on the same made-up performances: accuracy in the counters, speed in the time column.

#include <aubio/aubio.h>
#include <benchmark/benchmark.h>
#include <algorithm>

#include "analysis/drums/onsets.h"
#include "song/hit.h"
#include "support/performance.h"

namespace {

using namespace ochron;

const test::Performance& performance() {
  static const auto p = [] {
    test::Style s;
    s.bars = 60;
    return test::perform(s);
  }();
  return p;
}

std::vector<Frames> truth() {
  std::vector<Frames> out;
  for (const auto& h : performance().of({DrumClass::kick, DrumClass::snare})) out.push_back(h.at);
  return out;
}

void report(benchmark::State& state, const std::vector<Frames>& found) {
  const auto s = test::compare(truth(), found, 48'000, 5);
  state.counters["F1 at 5 ms"] = s.f1;
  state.counters["median ms"] = s.medianMs;
  state.counters["p95 ms"] = s.p95Ms;
}

void OurOnsets(benchmark::State& state) {
  const auto& p = performance();
  std::vector<Frames> found;
  for (auto _ : state) {
    Progress progress;
    found.clear();
    const auto onsets = detectOnsets({{p.mics[0], Frames{0}}, {p.mics[1], Frames{0}}}, 48'000, progress);
    for (const auto& o : *onsets)
      if (!o.guides.empty() && o.guides.front().claim >= strengthThreshold(kSensitivityRange.fallback))
        found.push_back(o.at);
  }
  report(state, found);
}
BENCHMARK(OurOnsets)->UseRealTime()->Unit(benchmark::kMillisecond);

void AubioOnsets(benchmark::State& state) {
  const auto& p = performance();
  std::vector<Frames> found;
  for (auto _ : state) {
    found.clear();
    for (int mic = 0; mic < 2; ++mic) {
      auto* onset = new_aubio_onset("hfc", 1024, 256, 48'000);
      auto* in = new_fvec(256);
      auto* out = new_fvec(1);
      const auto& samples = p.mics[static_cast<std::size_t>(mic)];
      for (std::size_t i = 0; i + 256 <= samples.size(); i += 256) {
        std::copy_n(samples.begin() + static_cast<std::ptrdiff_t>(i), 256, in->data);
        aubio_onset_do(onset, in, out);
        if (fvec_get_sample(out, 0) != 0) found.emplace_back(static_cast<std::int64_t>(aubio_onset_get_last(onset)));
      }
      del_aubio_onset(onset);
      del_fvec(in);
      del_fvec(out);
    }
    std::sort(found.begin(), found.end());
    // One hit where both guides report one within 15 ms.
    found.erase(std::unique(found.begin(), found.end(), [](Frames a, Frames b) { return (b - a).value < 720; }),
                found.end());
  }
  report(state, found);
}
BENCHMARK(AubioOnsets)->Unit(benchmark::kMillisecond);

}  // namespace
