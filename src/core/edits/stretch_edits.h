#pragma once

#include "base/result.h"
#include "base/setting.h"
#include "song/song.h"

namespace ochron {

inline constexpr SettingRange kStretchRatioRange{"ratio", "", 0.1, 10, 0.01, 1};
inline constexpr double kLeastApartSeconds = 0.004;  ///< of two pins set at hits: closer strokes go together

/// Makes a clip `ratio` times as long, pinned at the strokes of every hit in it: attacks stay as they were recorded,
/// what rings between them is stretched. A clip that is stretched already is stretched further. Refused when the ratio
/// is out of its range or something there is locked; what follows stays where it is and may be covered.
Result<Song> stretchAtHits(const Song& song, ClipId clip, double ratio);

/// How clips are stretched, or what a set's clips are when they say nothing; none: by their set, or by what was heard.
/// Of a plan's piece it is said of the whole clip that it was cut from.
Result<Song> setStretchMethod(const Song& song, const ClipIds& clips, std::optional<StretchMethod> method);
Result<Song> setStretchMethod(const Song& song, SetId set, std::optional<StretchMethod> method);

}  // namespace ochron
