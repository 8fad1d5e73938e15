#include "kit/slices.h"

#include <algorithm>

#include "base/numbers.h"
#include "files/file_names.h"

namespace ochron {
namespace {

constexpr double kBeginsMs = 10;  // either way

}  // namespace

std::vector<Slice> slicesAtHits(const Song& song, TakeId take, SetId set, FrameRange within) {
  std::vector<Slice> out;
  for (const auto& h : activeHits(*song.hitsOf(take, set), song.find(set)->hits, song.rate, within)) {
    if (!out.empty()) out.back().range.end = h.at;
    out.push_back({{h.at, within.end}, h.drum, h.strength, h.id});
  }
  std::erase_if(out, [](const Slice& s) { return s.range.empty(); });
  return out;
}

std::vector<Slice> slicesAt(const Song& song, TakeId take, SetId set, FrameRange within,
                            const std::vector<Frames>& places) {
  const auto hits = activeHits(*song.hitsOf(take, set), song.find(set)->hits, song.rate, within);
  const auto near = framesFromMs(kBeginsMs, song.rate);
  std::vector<Slice> out;
  for (const auto at : places) {
    if (!within.contains(at)) continue;
    if (!out.empty()) out.back().range.end = at;
    Slice s{{at, within.end}, DrumClass::other, 0, {}};
    for (auto h = std::lower_bound(hits.begin(), hits.end(), at - near, [](const Hit&x, Frames f) { return x.at < f; });
         h != hits.end() && h->at <= at + near; ++h)
      if (h->strength > s.strength) s = {s.range, h->drum, h->strength, h->id};
    out.push_back(s);
  }
  std::erase_if(out, [](const Slice& s) { return s.range.empty(); });
  return out;
}

int keyOfSlice(std::size_t slice, std::size_t count) {
  constexpr int kFirstKey = 36;
  const int first = static_cast<int>(count) > kSliceKeys - kFirstKey ? 0 : kFirstKey;
  return first + static_cast<int>(slice);
}

std::string sliceName(std::string pattern, const SliceLabel& label) {
  auto number = std::to_string(label.number + 1);
  number.insert(0, std::to_string(label.count).size() - number.size(), '0');
  const auto fill = [&](const std::string& what, const std::string& with) {
    for (auto at = pattern.find(what); at != std::string::npos; at = pattern.find(what, at + with.size()))
      pattern.replace(at, what.size(), with);
  };
  fill("{input}", label.input);
  fill("{n}", number);
  fill("{class}", std::string(kDrumClassNames[static_cast<std::size_t>(label.drum)]));
  fill("{bpm}", fixed(label.bpm, 1));
  fill("{key}", std::to_string(keyOfSlice(label.number, label.count)));
  return fileNameFor(pattern, "slice");
}

}  // namespace ochron
