#include "analysis/hits/heard_stroke.h"

namespace ochron {

std::vector<HeardStroke> surerOfNear(const std::vector<HeardStroke>& strokes, std::int64_t apart) {
  std::vector<HeardStroke> out;
  for (const auto& s : strokes) {
    if (!out.empty() && s.at - out.back().at < apart) {
      if (s.sure <= out.back().sure) continue;
      out.pop_back();
    }
    out.push_back(s);
  }
  return out;
}

}  // namespace ochron
