#include "store/pattern_json.h"

#include "store/clip_json.h"

namespace ochron {

Json patternToJson(const Pattern& p) {
  Json x{{"id", p.id.value}, {"name", p.name}, {"set", p.set.value}, {"length", p.length.value}};
  x["strokes"] = Json::array();
  for (const auto& s : *p.strokes) x["strokes"].push_back({{"at", s.at.value}, {"clip", clipToJson(s.clip)}});
  return x;
}

Pattern readPattern(JsonReader& r, const Json& x) {
  Pattern p{
      readId<PatternId>(r, x, "id"), r.text(x, "name"), readId<SetId>(r, x, "set"), readTicks(r, x, "length", 1), {}};
  PatternStrokes strokes;
  r.each(x, "strokes", kMostClips, [&](const Json& s) {
    const auto at = readTicks(r, s, "at", 0);
    if (const auto* clip = r.member(s, "clip")) strokes.push_back({at, readClip(r, *clip)});
  });
  p.strokes = std::move(strokes);
  return p;
}

}  // namespace ochron
