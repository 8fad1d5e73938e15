#pragma once

#include <string>
#include <vector>

#include "base/result.h"
#include "song/clip_edits.h"
#include "song/song.h"

namespace ochron {

// Edits: pure functions from a song to a song. An error leaves nothing half done, because nothing is changed in place.

struct IncomingFile {
  std::string name;  ///< track name
  std::string path;
  std::string fingerprint;
  int channels = 1;
  int fileRate = 48'000;
  Frames length;  ///< at the song's rate
  std::optional<std::int64_t> timeReference;
  MicRole role = MicRole::none;
};

struct ImportSettings {
  std::string takeName;
  Frames at;                           ///< song time of the take's start
  bool honourTimeReference = true;     ///< place files by their BWF time stamps when every file has one
  std::vector<std::vector<int>> sets;  ///< indices of files that form a mic set; the rest stay single
};

/// Adds the files as one take on new tracks, one clip a mic set.
Result<Song> importTake(const Song& song, const std::vector<IncomingFile>& files, const ImportSettings& settings);

/// Brings tracks of one take into one mic set. Fails unless their clips still are whole and lie alike. Hits found for
/// the old sets are dropped with them.
Result<Song> makeMicSet(const Song& song, const std::vector<TrackId>& tracks, const std::string& name);
/// Takes a mic set apart into single tracks with the same clips.
Result<Song> dissolveMicSet(const Song& song, SetId set);

Result<Song> setGuides(const Song& song, SetId set, const std::vector<TrackId>& guides);
Result<Song> setTrack(const Song& song, const Track& track);
Result<Song> removeTracks(const Song& song, const std::vector<TrackId>& tracks);
/// Another tempo map. Clips held by the grid keep their bars and beats, with their pins; silent spans and points of
/// track envelopes go with the clip they lie on. Refuses what a lock forbids. Plans are to be run again (carryToTempo).
Result<Song> setTempoMap(const Song& song, const TempoMap& map);
Result<Song> renameSong(const Song& song, const std::string& name);
/// Names another place where the same recording lies.
Result<Song> relinkMedia(const Song& song, MediaId media, const std::string& path);
/// What a recording turned out to be.
struct FoundMedia {
  std::string path;
  std::string fingerprint;
  int channels = 1;
  int fileRate = 48'000;
  Frames length;  ///< at the song's rate
};
/// Takes another recording in a recording's place. The take becomes longer when it is; where it is shorter there is
/// silence.
Result<Song> replaceMedia(const Song& song, MediaId media, const FoundMedia& found);

/// Locks
/// ---------------------------------------------------------------------------------------------------------------

/// Locks or unlocks a whole set: no edit changes it, its hits or its plan.
Result<Song> lockSet(const Song& song, SetId set, bool locked);
/// Locks a range of song time: what lies there stays as it is, also when the timing plan's settings change. Other edits
/// that would change it are refused. Pieces of a plan are locked whole: the range grows to their ends, or leaves out
/// one of which it holds less than 60 ms. Ranges that touch become one.
Result<Song> lockRange(const Song& song, SetId set, FrameRange range);
Result<Song> unlockRange(const Song& song, SetId set, FrameRange range);

/// Hits
/// ----------------------------------------------------------------------------------------------------------------

/// Puts newly detected hits in place of old detected ones. What the user placed, moved or removed stays.
Result<Song> setDetectedHits(const Song& song, TakeId take, SetId set, const HitList& detected);
Result<Song> addHit(const Song& song, TakeId take, SetId set, Frames at, DrumClass drum);
Result<Song> moveHit(const Song& song, TakeId take, SetId set, HitId hit, Frames to);
Result<Song> removeHits(const Song& song, TakeId take, SetId set, const std::vector<HitId>& hits);
/// Another of a hit's strokes leads it, for good: the hit stands there.
Result<Song> leadHit(const Song& song, TakeId take, SetId set, HitId hit, std::size_t stroke);
/// Another class for hits, for good: a new detection does not change it back.
Result<Song> setHitClass(const Song& song, TakeId take, SetId set, const std::vector<HitId>& hits, DrumClass drum);
/// Puts a corrected hit back to where detection found it.
Result<Song> restoreHit(const Song& song, TakeId take, SetId set, HitId hit);
Result<Song> setHitSettings(const Song& song, SetId set, const HitSettings& settings);

/// Replaces the plan's values only; seams/applyTimingPlan carries it out. Refuses to change what was decided about hits
/// in locked ranges.
Result<Song> setTimingPlan(const Song& song, SetId set, const TimingPlan& plan);
/// Takes a range of song time out of the plan (what lies there stays as it was played), or puts it back.
Result<Song> leaveAlone(const Song& song, SetId set, FrameRange range, bool alone);

/// Grooves kept with the song; a groove of the same name is replaced.
Result<Song> keepGroove(const Song& song, const Groove& groove);
Result<Song> dropGroove(const Song& song, const std::string& name);

/// Takes the pieces a plan made together again: the clips as they were before the plan.
ClipList withoutPlan(const ClipList& clips);
/// The whole song as it was before every plan.
Song withoutPlans(const Song& song);

}  // namespace ochron
