#pragma once

#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <string_view>

#include "song/song.h"

namespace ochron {

using SessionJson = nlohmann::ordered_json;

inline constexpr int kSessionFormat = 2;
inline constexpr const char* kSessionKey = "orthochron handover";
inline constexpr const char* kSessionMidi = "tempo, markers, hits and notes.mid";

/// What a song is, for programs: docs/file-format.md and sessionSchema(). Seconds count from `begin`; `files`: of each
/// track, its path in the folder.
SessionJson sessionJson(const Song& song, Frames begin, const std::map<TrackId, std::string>& files);
/// The same for people.
std::string sessionText(const SessionJson& session);
/// What holds of every sessionJson(), as a JSON Schema (draft 2020-12).
std::string_view sessionSchema();

}  // namespace ochron
