#pragma once

#include <optional>

#include "base/result.h"
#include "song/song.h"

namespace ochron {

// Markers, sections, silent spans and envelopes.

/// A marker (length 0) or a section. Fails on a negative length.
Result<Song> addMarker(const Song& song, Ticks at, Ticks length, const std::string& name);
Result<Song> setMarker(const Song& song, const Marker& marker);
Result<Song> removeMarker(const Song& song, MarkerId marker);

/// A stretch of song that is silent on some tracks. Refused on an empty range, no tracks, or locked ones.
Result<Song> addSpan(const Song& song, const std::vector<TrackId>& tracks, FrameRange range, const std::string& label);
Result<Song> setSpan(const Song& song, const MuteSpan& span);
Result<Song> removeSpan(const Song& song, SpanId span);
/// The same span again from `at` on.
Result<Song> copySpan(const Song& song, SpanId span, Frames at);

/// The last is none of the seven with names: it has its control's.
enum class EnvelopeKind { trackGain, trackPan, trackMute, clipGain, clipPitch, songGain, songSpeed, effectControl };
inline constexpr std::array<std::string_view, 7> kEnvelopeKindNames{
    "track gain", "track pan", "track mute", "clip gain", "clip pitch", "song gain", "song speed"};

/// One envelope of the song: of a track, of a clip, or of the whole.
struct EnvelopeRef {
  EnvelopeKind kind = EnvelopeKind::trackGain;
  TrackId track;
  ClipId clip;
  InsertId insert = {};      ///< of an effect's control
  std::string control = {};  ///< its symbol

  bool operator==(const EnvelopeRef&) const = default;
};

/// What the values of an envelope are.
struct EnvelopeScale {
  EnvelopeKind kind = EnvelopeKind::trackGain;
  std::string name;
  std::string unit;
  SettingRange range;  ///< without name and unit; its fallback is what holds without points
  EnvelopeWay way = EnvelopeWay::even;
  bool octaves = false;  ///< drawn so that equal ratios are equally far

  double at(const Envelope& envelope, Frames place) const { return valueAt(envelope, place, range.fallback, way); }
};
/// Of one that is in the song.
EnvelopeScale scaleOf(const Song& song, const EnvelopeRef& ref);

/// The values an envelope of one of the seven kinds can have; `fallback` is what holds without points.
const SettingRange& rangeOf(EnvelopeKind kind);
/// Null when its track or clip is not in the song.
const Envelope* envelopeOf(const Song& song, const EnvelopeRef& ref);
/// Envelopes of clips run in take time, all others in song time. A control whose last point goes holds still again.
Result<Song> setEnvelope(const Song& song, const EnvelopeRef& ref, const Envelope& envelope);

/// What the points of a track's or the song's envelopes keep to, all of them alike, those of controls in them included
/// (of a mic set's effects as the song's); none for a clip's, which go with their clip.
std::optional<Hold> envelopeHold(const Song& song, const EnvelopeRef& ref);
Result<Song> holdEnvelopes(const Song& song, const EnvelopeRef& ref, Hold hold);

/// Fades the whole song in over its first `in` frames and out over its last `out`: points of the song's gain envelope.
/// 0 leaves that end as it is.
Result<Song> fadeSong(const Song& song, Frames in, Frames out);

}  // namespace ochron
