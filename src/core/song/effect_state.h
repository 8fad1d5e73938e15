#pragma once

#include <map>
#include <string>

namespace ochron {

/// What an effect holds beside its controls, in the form of LV2: `state.ttl`, and the files that this names. None: the
/// effect is as it starts.
struct EffectState {
  std::string id;                            ///< of the content; empty: none
  std::map<std::string, std::string> files;  ///< bytes by their place beside each other; none: the content is missing

  bool any() const { return !id.empty(); }
  bool missing() const { return any() && files.empty(); }
  bool operator==(const EffectState& o) const { return id == o.id; }
};
/// Of all its files together, bytes.
inline constexpr std::size_t kLargestEffectState = 64'000'000;
inline constexpr std::size_t kMostEffectFiles = 1'000;

}  // namespace ochron
