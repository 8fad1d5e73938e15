#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/result.h"
#include "feel/plan_timing.h"
#include "files/outputs.h"
#include "song/song.h"

namespace ochron {

/// A set's hits as a table for other programs. Times are seconds of song time, as played and as they stand now;
/// positions are bars and beats counted from 1.
///
/// CSV after RFC 4180 with a heading line:
/// take,bar,beat,class,time,now,strength,confidence,guides,before_ms,move_ms,after_ms,by_hand
/// JSON: {"orthochron hits":1,"rate":..,"hits":[{the same names}]}
std::string hitsToCsv(const Song& song, const TimingResult& timing);
std::string hitsToJson(const Song& song, const TimingResult& timing);

/// A set's hits in the format that the file's ending names: .csv, .json, or notes as .mid. Refused for any other.
Result<void> writeHits(const Song& song, const TimingResult& timing, const std::string& name,
                       const std::filesystem::path& file, Outputs& outputs);

}  // namespace ochron
