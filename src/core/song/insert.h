#pragma once

#include <map>
#include <string>
#include <vector>

#include "base/ids.h"
#include "base/setting.h"

namespace ochron {

inline constexpr std::size_t kMostInserts = 32;          ///< in one place
inline constexpr std::size_t kMostInsertValues = 1'000;  ///< of one effect
/// What a value of an effect's control may be; each control has a narrower range of its own.
inline constexpr SettingRange kInsertValueRange{"value", "", -1e9, 1e9, 0.01, 0};

/// An effect in a track, in all tracks of a mic set alike, or in the mix.
struct Insert {
  InsertId id;
  std::string effect;                    ///< URI of an LV2 plug-in
  std::string name;                      ///< as it is shown, also where the plug-in is missing
  bool on = true;                        ///< off: what comes in goes out, as late as through the effect
  std::map<std::string, double> values;  ///< by the symbol of a control; others are at their default

  bool operator==(const Insert&) const = default;
};
/// In the order in which sound goes through them.
using InsertList = std::vector<Insert>;

}  // namespace ochron
