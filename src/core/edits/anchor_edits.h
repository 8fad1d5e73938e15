#pragma once

#include "base/result.h"
#include "song/song.h"
#include "time/anchors.h"

namespace ochron {

/// Ties a bar or beat to a place of the clock: a new anchor, or an old one moved. The first anchor of a song holds bar
/// 1 where it is, unless it is bar 1 itself. The tempo map follows (mapThrough, setTempoMap). Refused when it would not
/// lie between its neighbours, or when something locked would move.
Result<Song> setAnchor(const Song& song, Ticks at, Frames frame);
/// The same for many at once; those at the places of old ones replace them.
Result<Song> setAnchors(const Song& song, const TempoAnchors& anchors);
/// Takes anchors away, those at no anchor's place are passed over. Without any the tempo map stays as it is.
Result<Song> removeAnchors(const Song& song, const std::vector<Ticks>& at);
Result<Song> setAnchorSettings(const Song& song, const AnchorSettings& settings);
/// Moves all bars, anchors too, so that a place of the song comes to a place of the clock.
Result<Song> shiftBars(const Song& song, Ticks at, Frames frame);

/// How far the map passes its anchors at most, ms.
double anchorsOffMs(const Song& song);

}  // namespace ochron
