#include "handover/cells.h"

#include <algorithm>

#include "files/file_names.h"
#include "kit/slices.h"
#include "media/audio_file.h"
#include "render/cell_sound.h"
#include "store/midi_file.h"
#include "store/sfz_file.h"

namespace ochron {
namespace {

/// The drum of the strongest hit that a clip plays within its first 10 ms; its loudest one's, else.
DrumClass drumOf(const Song& song, const MicSet& set, const Clip& clip) {
  const auto from = clip.played().start;
  const auto near = from + framesFromMs(10, song.rate);
  const Hit* best = nullptr;
  for (const auto& h : *song.hitsIn(set, clip)) {
    if (!clip.played().contains(h.at)) continue;
    if (!best || (h.at <= near) > (best->at <= near) ||
        ((h.at <= near) == (best->at <= near) && h.strength > best->strength))
      best = &h;
  }
  return best ? best->drum : DrumClass::other;
}

Result<void> writeSound(const std::array<std::vector<float>, 2>& sides, int rate, const std::filesystem::path& file,
                        Outputs& outputs) {
  auto writer = AudioFileWriter::create(
      outputs, file,
      {FileFormat::wav, SampleFormat::pcm24, rate, 2, Frames{static_cast<std::int64_t>(sides[0].size())}});
  if (!writer) return tl::unexpected(writer.error());
  std::vector<float> both;
  both.reserve(2 * sides[0].size());
  for (std::size_t i = 0; i < sides[0].size(); ++i) both.insert(both.end(), {sides[0][i], sides[1][i]});
  if (auto ok = writer->write(both); !ok) return ok;
  return writer->finish();
}

}  // namespace

Result<std::size_t> writeCells(const Song& song, const RenderPlan& plan, SetId id, const std::filesystem::path& folder,
                               Outputs& outputs, Progress& progress) {
  const auto* set = song.find(id);
  std::vector<const Clip*> clips;
  if (set)
    for (const auto& c : *set->clips)
      if (!c.muted) clips.push_back(&c);
  if (clips.empty())
    return fail(ErrorKind::badInput, "There is no clip to write. Choose a mic set that plays something.");
  const auto leftOut = allBut(plan, id);
  const auto& map = song.tempo;
  const auto begin = map.barStart(map.barAt(clips.front()->start));
  std::vector<SfzSound> instrument;
  std::vector<PatternNote> notes;
  for (std::size_t i = 0; i < clips.size(); ++i) {
    if (progress.cancelled()) return cancelledError();
    const auto& c = *clips[i];
    const auto at = map.toTicks(c.start);
    const auto name =
        sliceName("{input}-{n}-{class}", {set->name, i, clips.size(), drumOf(song, *set, c), map.bpmAt(at)});
    if (auto ok = writeSound(cellSound(plan, c.range(), leftOut), plan.rate, folder / (name + ".wav"), outputs); !ok)
      return tl::unexpected(ok.error());
    if (const int key = keyOfSlice(i, clips.size()); key < kSliceKeys) {
      SfzSound sound{name + ".wav", key};
      sound.choke = c.extras->choke;
      instrument.push_back(std::move(sound));
      notes.push_back({at - begin, map.toTicks(c.end()) - at, key, 1});
    }
    progress.report(static_cast<double>(i + 1) / static_cast<double>(clips.size()));
  }
  const auto base = fileNameFor(set->name, "cells");
  if (auto ok = outputs.add(folder / (base + ".sfz"), sfzText(instrument)); !ok) return tl::unexpected(ok.error());
  if (auto ok = writePatternMidi(map, begin, notes, set->name, folder / (base + ".mid"), outputs); !ok)
    return tl::unexpected(ok.error());
  return clips.size();
}

}  // namespace ochron
