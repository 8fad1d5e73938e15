#pragma once

#include "edits/plan_edits.h"
#include "support/performance.h"
#include "support/song_maker.h"

namespace ochron::bench {

/// A kit of 24 mics, 5 minutes, about 2 000 hits.
inline const test::MadeSong& bigSong() {
  static const test::MadeSong made = [] {
    test::Style style;
    style.bars = 150;
    style.ghostShare = 1.0;
    auto p = test::perform(style);
    while (p.mics.size() < 24) p.mics.push_back(p.mics[p.mics.size() % 4]);
    HitList hits;
    for (const auto& h : p.of({DrumClass::kick, DrumClass::snare, DrumClass::hat})) {
      Hit hit;
      hit.at = h.at, hit.drum = h.drum, hit.strength = h.velocity, hit.confidence = 1;
      if (hits.empty() || hit.at - hits.back().at > Frames{100}) hits.push_back(hit);
    }
    auto m = test::songOf(p.map, p.mics, hits);
    TimingPlan plan;
    plan.settings.on = true;
    m.song = *setTimingPlan(m.song, m.set, plan);
    return m;
  }();
  return made;
}

}  // namespace ochron::bench
