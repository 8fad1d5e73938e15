#include "takes/hear_line.h"

#include <algorithm>
#include <cmath>

#include "analysis/note_overlap.h"
#include "analysis/notes.h"
#include "takes/hear_tempo.h"

namespace ochron {
namespace {

constexpr double kLeastSingle = 0.5;
constexpr double kSounds = 30;  // dB below the loudest
// As fine as song files keep it: 0.2 cents at 85 Hz.
constexpr double kHertzParts = 100;
constexpr double kVoicedParts = 100;

/// What the user knows it by: the set that was chosen, and the take where it plays several.
std::string nameOf(const Song& song, const MicSet& set, TakeId take) {
  const bool several = std::any_of(set.clips->begin(), set.clips->end(), [&](const Clip& c) { return c.take != take; });
  return "\"" + set.name + "\"" + (several ? " in \"" + song.find(take)->name + "\"" : "");
}

}  // namespace

double singleness(const PitchTrack& track, std::span<const float> samples, int rate) {
  const auto hop = PitchTrack::kHop * rate;
  std::vector<double> power;
  for (std::size_t t = 0; t < track.values.size(); ++t) {
    const auto first = static_cast<std::int64_t>(static_cast<double>(t) * hop);
    double sum = 0;
    for (auto i = first; i < std::min<std::int64_t>(first + static_cast<std::int64_t>(hop), std::ssize(samples)); ++i)
      sum += static_cast<double>(samples[static_cast<std::size_t>(i)]) * samples[static_cast<std::size_t>(i)];
    power.push_back(sum);
  }
  if (power.empty()) return 0;
  const double least = *std::max_element(power.begin(), power.end()) * std::pow(10, -kSounds / 10);
  double sounds = 0;
  double sure = 0;
  for (std::size_t t = 0; t < power.size(); ++t) {
    if (power[t] <= least) continue;
    sounds += 1;
    sure += std::max(0.0, 2 * track.values[t].voiced - 1);
  }
  return sounds > 0 ? sure / sounds : 0;
}

Result<SungLine> hearLine(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool,
                          const PitchSettings& settings, Progress& progress, bool anything) {
  const auto mono = mixOf(song, set, take, pool);
  auto track = pitchOf(mono, song.rate, settings, progress);
  if (!track) return tl::unexpected(track.error());
  if (!anything && singleness(*track, mono, song.rate) < kLeastSingle)
    return fail(ErrorKind::badInput,
                nameOf(song, set, take) +
                    " is no single line: too little of it has one pitch at a time. Chords, drums and mixes can be "
                    "transposed as a whole.");
  std::vector<double> onsets;
  for (const auto& h : activeHits(*song.hitsOf(take, set.id), set.hits, song.rate))
    onsets.push_back(static_cast<double>(h.at.value) / song.rate);
  SungLine out;
  out.notes = notesOf(*track, mono, song.rate, onsets, progress);
  if (progress.cancelled()) return cancelledError();
  out.track = withBeginnings(std::move(*track), mono, song.rate, out.notes);
  for (auto& v : out.track.values) {
    v.hertz = std::round(v.hertz * kHertzParts) / kHertzParts;
    v.voiced = std::round(v.voiced * kVoicedParts) / kVoicedParts;
  }
  return out;
}

}  // namespace ochron
