#pragma once

#include <map>
#include <string>

#include "base/result.h"
#include "song/insert_place.h"

namespace ochron {

/// A new effect at the end of a place. The insert's id is given here.
Result<Song> addInsert(const Song& song, const InsertPlace& place, Insert insert);
Result<Song> removeInsert(const Song& song, InsertId insert);
/// So many places further down (negative: up). Refused at the ends.
Result<Song> moveInsert(const Song& song, InsertId insert, int by);
Result<Song> setInsertOn(const Song& song, InsertId insert, bool on);
/// Values by control; those not named stay.
Result<Song> setInsertValues(const Song& song, InsertId insert, const std::map<std::string, double>& values);
/// Values by control, those not named stay, and what it holds beside them.
Result<Song> setInsertState(const Song& song, InsertId insert, const std::map<std::string, double>& values,
                            EffectState state);
/// Moves a control along the song as its points say; without points it holds still, at its value, again.
Result<Song> moveControl(const Song& song, InsertId insert, const std::string& control, MovedControl moved);
/// Gives a track all that stands in another one's way to the mix: gain, pan, mute, solo, their envelopes, and effects
/// like its own and those of its set.
Result<Song> mixAlike(const Song& song, TrackId from, TrackId to);

}  // namespace ochron
