#include "handover/cells.h"

#include <algorithm>
#include <map>

#include "files/file_names.h"
#include "kit/slices.h"
#include "media/audio_file.h"
#include "render/cell_sound.h"
#include "store/midi_file.h"
#include "store/sfz_file.h"

namespace ochron {
namespace {

/// A clip that is written, and what it is called.
struct Cell {
  const Clip* clip;
  std::string name;  ///< without its ending
  double strength;
};

std::vector<Cell> cellsOf(const Song& song, const MicSet& set) {
  std::vector<Cell> out;
  for (const auto& c : *set.clips)
    if (!c.muted) out.push_back({&c, {}, 1});
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto& c = *out[i].clip;
    const auto hit = song.hitAtStart(set, c);
    out[i].name = sliceName("{input}-{n}-{class}", {set.name, i, out.size(), hit ? hit->drum : DrumClass::other,
                                                    song.tempo.bpmAt(song.tempo.toTicks(c.start))});
    if (hit && hit->strength > 0) out[i].strength = hit->strength;
  }
  return out;
}

/// The instrument, or the pattern, of a set.
std::filesystem::path beside(const MicSet& set, const std::filesystem::path& folder, const char* ending) {
  return folder / (fileNameFor(set.name, "cells") + ending);
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

std::vector<std::filesystem::path> cellFiles(const Song& song, SetId id, const std::filesystem::path& folder) {
  std::vector<std::filesystem::path> out;
  const auto* set = song.find(id);
  if (!set) return out;
  for (const auto& cell : cellsOf(song, *set)) out.push_back(folder / (cell.name + ".wav"));
  if (out.empty()) return out;
  for (const char* ending : {".sfz", ".mid"}) out.push_back(beside(*set, folder, ending));
  return out;
}

Result<std::size_t> writeCells(const Song& song, const RenderPlan& plan, SetId id, const std::filesystem::path& folder,
                               Outputs& outputs, Progress& progress) {
  const auto* set = song.find(id);
  const auto cells = set ? cellsOf(song, *set) : std::vector<Cell>{};
  if (!set || cells.empty())
    return fail(ErrorKind::badInput, "There is no clip to write. Choose a mic set that plays something.");
  const auto leftOut = allBut(plan, id);
  const auto& map = song.tempo;
  const auto begin = map.barStart(map.barAt(cells.front().clip->start));
  std::vector<SfzSound> instrument;
  std::vector<PatternNote> notes;
  for (std::size_t i = 0; i < cells.size(); ++i) {
    if (progress.cancelled()) return cancelledError();
    const auto& [clip, name, strength] = cells[i];
    const auto sound = name + ".wav";
    if (auto ok = writeSound(cellSound(plan, clip->range(), leftOut), plan.rate, folder / sound, outputs); !ok)
      return tl::unexpected(ok.error());
    if (const int key = keyOfSlice(i, cells.size()); key < kSliceKeys) {
      instrument.push_back({sound, key});
      instrument.back().choke = clip->extras->choke;
      const auto at = map.toTicks(clip->start);
      notes.push_back({at - begin, map.toTicks(clip->end()) - at, key, strength});
    }
    progress.report(static_cast<double>(i + 1) / static_cast<double>(cells.size()));
  }
  if (auto ok = outputs.add(beside(*set, folder, ".sfz"), sfzText(instrument)); !ok) return tl::unexpected(ok.error());
  if (auto ok = writePatternMidi(map, begin, notes, set->name, beside(*set, folder, ".mid"), outputs); !ok)
    return tl::unexpected(ok.error());
  return cells.size();
}

Result<void> writePattern(const Song& song, const Pattern& pattern, Frames from, const std::filesystem::path& file,
                          Outputs& outputs) {
  const auto* set = song.find(pattern.set);
  if (!set) return fail(ErrorKind::notFound, "The mic set of this pattern is not in the song any more.");
  std::map<std::pair<TakeId, Frames>, std::size_t> slices;
  for (const auto& s : *pattern.strokes) slices[{s.clip.take, s.clip.source}] = 0;
  std::size_t number = 0;
  for (auto& [where, slice] : slices) slice = number++;
  const auto begin = song.tempo.toTicks(from);
  std::vector<PatternNote> notes;
  for (const auto& s : *pattern.strokes) {
    const auto start = song.tempo.toFrames(begin + s.at);
    const auto hit = song.hitAtStart(*set, s.clip);
    const int key = keyOfSlice(slices.at({s.clip.take, s.clip.source}), slices.size());
    if (key < kSliceKeys)
      notes.push_back({s.at, song.tempo.toTicks(start + s.clip.length) - begin - s.at, key,
                       hit && hit->strength > 0 ? hit->strength : 1});
  }
  return writePatternMidi(song.tempo, begin, notes, pattern.name, file, outputs);
}

}  // namespace ochron
