#include "takes/hear_line.h"

#include <algorithm>
#include <cmath>

#include "analysis/pitch/note_overlap.h"
#include "analysis/pitch/notes.h"
#include "analysis/pitch/one_line.h"
#include "base/numbers.h"
#include "dsp/listening.h"
#include "takes/hear_tempo.h"

namespace ochron {
namespace {

// As fine as song files keep it: 0.2 cents at 85 Hz.
constexpr double kHertzParts = 100;
constexpr double kVoicedParts = 100;

/// What the user knows it by: the set that was chosen, and the take where it plays several.
std::string nameOf(const Song& song, const MicSet& set, TakeId take) {
  const bool several = std::any_of(set.clips->begin(), set.clips->end(), [&](const Clip& c) { return c.take != take; });
  return "\"" + set.name + "\"" + (several ? " in \"" + song.find(take)->name + "\"" : "");
}

std::string percent(double share) { return std::to_string(std::lround(100 * share)) + " %"; }

std::string whyNoLine(const OneLine& line) {
  if (line.besideTooMuch())
    return "another note sounds beside it for " + percent(std::max(line.beside, line.faintBeside)) + " of the time";
  return "only " + percent(line.share) + " of what sounds has one pitch at a time";
}

}  // namespace

Result<HeardLine> hearLine(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool,
                           const PitchSettings& settings, Progress& progress, bool anything) {
  const auto recorded = mixOf(song, set, take, pool);
  const auto listened = Listening::to(recorded, song.rate);
  if (!listened) return tl::unexpected(listened.error());
  const auto mono = listened->samples();
  auto track = pitchOf(mono, kListeningRate, settings, progress);
  if (!track) return tl::unexpected(track.error());
  const auto line = oneLine(*track, mono, kListeningRate);
  if (!anything && !line.one())
    return fail(ErrorKind::badInput, nameOf(song, set, take) + " is no single line: " + whyNoLine(line) +
                                         ". Chords, drums and mixes can be transposed as a whole.");
  std::vector<double> onsets;
  for (const auto& h : activeHits(*song.hitsOf(take, set.id), set.hits, song.rate))
    onsets.push_back(static_cast<double>(h.at.value) / song.rate);
  HeardLine out;
  out.how = line;
  out.notes = notesOf(*track, mono, kListeningRate, onsets, progress);
  if (progress.cancelled()) return cancelledError();
  out.track = withBeginnings(std::move(*track), mono, kListeningRate, out.notes);
  for (auto& v : out.track.values) {
    v.hertz = std::round(v.hertz * kHertzParts) / kHertzParts;
    v.voiced = std::round(v.voiced * kVoicedParts) / kVoicedParts;
  }
  return out;
}

std::string lineText(const OneLine& line) {
  constexpr double kQuietDb = 30;  // so far under the loudest nobody hears it as room or noise
  constexpr std::size_t kShown = 3;
  std::string out = "one line for " + percent(line.share);
  if (line.noiseDb < kQuietDb) out += ", with room or noise " + fixed(line.noiseDb, 0) + " dB under it";
  for (std::size_t i = 0; i < std::min(kShown, line.elsewhere.size()); ++i)
    out += (i == 0 ? "; not at " : ", ") + fixed(line.elsewhere[i].start, 1) + " to " +
           fixed(line.elsewhere[i].end, 1) + " s";
  if (line.elsewhere.size() > kShown) out += " and " + std::to_string(line.elsewhere.size() - kShown) + " places more";
  return out;
}

}  // namespace ochron
