#pragma once

#include <span>

#include "analysis/pitch.h"
#include "media/pool.h"
#include "song/song.h"

namespace ochron {

/// Hears a take on a set's mics added up; its hits say where notes begin. Material that is no single line (chords,
/// drums) fails with a sentence that says so, unless `anything` is wanted.
Result<SungLine> hearLine(const Song& song, const MicSet& set, TakeId take, const MediaPool& pool,
                          const PitchSettings& settings, Progress& progress, bool anything = false);

/// How much of what sounds has one sure pitch, 0 to 1.
double singleness(const PitchTrack& track, std::span<const float> samples, int rate);

}  // namespace ochron
