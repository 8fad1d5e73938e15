#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "base/result.h"
#include "song/take_map.h"

namespace ochron {

/// Pins as pairs of seconds, place in the recording and place it is to have: JSON ([[0, 0], [1.5, 1.62], ...]) or CSV,
/// a pair a line, with or without a heading. They may come in any order; both sides must rise, by 4 ms at least. Two to
/// 100 000 of them.
Result<std::vector<Pin>> loadPins(const std::filesystem::path& file, int rate);
/// The same from the file's text; `name` is for the error's sentence.
Result<std::vector<Pin>> pinsFromText(std::string_view text, const std::string& name, int rate);

}  // namespace ochron
