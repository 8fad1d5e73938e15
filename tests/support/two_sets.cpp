#include "support/two_sets.h"

#include <algorithm>
#include <random>

#include "edits/take_edits.h"
#include "render/render.h"
#include "render/render_plan.h"

namespace ochron::test {

TwoSets::TwoSets() {
  std::mt19937_64 dice(7);
  std::uniform_real_distribution<float> noise(-0.5f, 0.5f);
  std::vector<IncomingFile> files;
  for (int i = 0; i < 5; ++i) {
    IncomingFile file;
    file.name = "track " + std::to_string(i);
    file.path = "/nowhere/" + file.name + ".wav";
    file.length = Frames{480'000};
    files.push_back(file);
    auto& s = sounds.emplace_back(480'000);
    for (auto& x : s) x = noise(dice);
  }
  ImportSettings settings;
  settings.takeName = "take";
  settings.sets = {{0, 1, 2}};
  song = *importTake(song, files, settings);
  for (std::size_t i = 0; i < 5; ++i)
    pool[song.takes.front().mics[i].media] = DecodedMedia::fromSamples(48'000, {sounds[i]});
  kit = song.sets[0].id, bass = song.sets[1].id, voice = song.sets[2].id;
  kitClip = song.sets[0].clips->front().id;
  bassClip = song.sets[1].clips->front().id;
  voiceClip = song.sets[2].clips->front().id;
}

const std::vector<float>& TwoSets::sound(TrackId track) const {
  const auto at = std::find_if(song.tracks.begin(), song.tracks.end(), [&](auto& t) { return t.id == track; });
  return sounds[static_cast<std::size_t>(at - song.tracks.begin())];
}

std::vector<float> TwoSets::heard(TrackId track, FrameRange range) const {
  const auto plan = compilePlan(song, pool);
  std::vector<float> out(static_cast<std::size_t>(range.length().value), 0.0f);
  for (const auto& t : plan.tracks)
    if (t.track == track) addTrack(t, 0, range.start, out);
  return out;
}

ClipIds idsOf(const Song& song, SetId set) {
  ClipIds out;
  for (const auto& c : *song.find(set)->clips) out.push_back(c.id);
  return out;
}

}  // namespace ochron::test
