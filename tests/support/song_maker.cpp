#include "support/song_maker.h"

#include <gtest/gtest.h>

#include "edits/hit_edits.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "feel/plan_timing.h"
#include "render/render.h"
#include "render/render_plan.h"

namespace ochron::test {

MadeSong songOf(const TempoMap& map, const std::vector<std::vector<float>>& mics, const std::vector<Hit>& hits) {
  MadeSong m;
  m.song.rate = map.rate();
  m.song.tempo = map;
  std::vector<IncomingFile> files;
  std::vector<int> all;
  for (std::size_t i = 0; i < mics.size(); ++i) {
    IncomingFile f;
    f.name = "mic " + std::to_string(i);
    f.path = "/nowhere/" + f.name + ".wav";
    f.fileRate = map.rate();
    f.length = Frames{std::ssize(mics[i])};
    files.push_back(f);
    all.push_back(static_cast<int>(i));
  }
  ImportSettings settings;
  settings.takeName = "take";
  settings.sets = {all};
  auto song = importTake(m.song, files, settings);
  EXPECT_TRUE(song.has_value());
  m.song = *song;
  m.take = m.song.takes.front().id;
  m.set = m.song.sets.front().id;
  for (std::size_t i = 0; i < mics.size(); ++i)
    m.pool[m.song.takes.front().mics[i].media] = DecodedMedia::fromSamples(map.rate(), {mics[i]});
  auto withHits = setDetectedHits(m.song, m.take, m.set, hits);
  EXPECT_TRUE(withHits.has_value());
  m.song = *withHits;
  return m;
}

MadeSong songOf(const Performance& p) {
  std::vector<Hit> hits;
  for (const auto& h : p.of({DrumClass::kick, DrumClass::snare})) {
    Hit hit;
    hit.at = h.at;
    hit.strength = h.velocity;
    hit.confidence = 1;
    hit.drum = h.drum;
    hits.push_back(hit);
  }
  return songOf(p.map, p.mics, hits);
}

std::vector<float> rendered(const MadeSong& made, std::size_t mic, FrameRange range) {
  const auto plan = compilePlan(made.song, made.pool);
  std::vector<float> out(static_cast<std::size_t>(range.length().value), 0.0f);
  addSegments(*plan.tracks[mic].channels[0], range.start, out);
  return out;
}

TimingResult planOf(const MadeSong& made, const TimingSettings& settings) {
  TimingPlan plan;
  plan.settings = settings;
  plan.settings.on = true;
  return planTiming(*setTimingPlan(made.song, made.set, plan), made.set);
}

}  // namespace ochron::test
