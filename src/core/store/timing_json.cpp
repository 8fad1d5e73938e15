#include "store/timing_json.h"

#include "store/clip_json.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace ochron {
namespace {
using namespace std::string_view_literals;
constexpr std::array kMethods{"slice"sv, "stretch"sv};
}  // namespace

Json gridToJson(const Grid& g) { return Json{{"step", toText(g)}, {"swing", g.swing}}; }

Grid readGrid(JsonReader& r, const Json& j) {
  const auto text = r.text(j, "step");
  auto grid = parseGrid(text);
  if (!grid) return r.complain("\"step\" is not a grid"), Grid{};
  grid->swing = r.setting(j, "swing", kSwingRange);
  return *grid;
}

Json grooveToJson(const Groove& g) {
  Json j{{"name", g.name},
         {"grid", gridToJson(g.grid)},
         {"meter", toText(g.meter)},
         {"offsets ms", g.offsetsMs},
         {"loudness", g.loudness}};
  if (!g.scatterMs.empty()) j["scatter ms"] = g.scatterMs;
  return j;
}

Groove readGroove(JsonReader& r, const Json& j) {
  Groove g;
  g.name = r.text(j, "name");
  if (const auto* grid = r.member(j, "grid")) g.grid = readGrid(r, *grid);
  if (auto meter = parseMeter(r.text(j, "meter")))
    g.meter = *meter;
  else
    r.complain("\"meter\" is not a meter");
  const auto number = [&](const Json& v, const char* key, const SettingRange& range, std::vector<double>& to) {
    const double x = v.is_number() ? v.get<double>() : NAN;
    if (!range.accepts(x)) return r.complain(std::string("\"") + key + "\" holds something out of range");
    to.push_back(x);
  };
  const auto read = [&](const char* key, const SettingRange& range, std::vector<double>& to) {
    r.each(j, key, kMostPlaces, [&](const Json& v) { number(v, key, range, to); });
  };
  read("offsets ms", kGroovePlaceRange, g.offsetsMs);
  read("loudness", kShareRange, g.loudness);
  r.each(
      j, "scatter ms", kMostPlaces,
      [&](const Json& place) {
        if (!place.is_array() || place.size() > kMostScatter)
          return r.complain("\"scatter ms\" is not a list of short lists");
        auto& to = g.scatterMs.emplace_back();
        for (const auto& v : place) number(v, "scatter ms", kGroovePlaceRange, to);
        std::sort(to.begin(), to.end());
      },
      false);
  return g;
}

GridRule readGridRule(JsonReader& r, const Json& j) {
  GridRule rule;
  if (const auto* grid = r.member(j, "grid")) rule.grid = readGrid(r, *grid);
  if (j.is_object() && j.contains("class"))
    rule.drum = static_cast<DrumClass>(r.choice(j, "class", kDrumClassNames, 5));
  if (j.is_object() && j.contains("from")) rule.stretch = {readTicks(r, j, "from"), readTicks(r, j, "to")};
  return rule;
}

Json seamToJson(const SeamOverride& s) {
  Json j = Json::object();
  if (s.leadIn) j["lead-in"] = s.leadIn->value;
  if (s.length) j["length"] = s.length->value;
  if (s.law) j["law"] = kCrossfadeLawNames[static_cast<std::size_t>(*s.law)];
  if (s.shape) j["shape"] = kFadeShapeNames[static_cast<std::size_t>(*s.shape)];
  if (s.bias) j["bias"] = *s.bias;
  if (s.fill) j["fill"] = kSeamFillNames[static_cast<std::size_t>(*s.fill)];
  return j;
}

SeamOverride readSeam(JsonReader& r, const Json& j) {
  SeamOverride s;
  if (!j.is_object()) {
    r.complain("a hit's \"seam\" is not an object");
    return s;
  }
  if (j.contains("lead-in")) s.leadIn = Frames{r.integer(j, "lead-in", 0, kLongestSeamChoice.value)};
  if (j.contains("length")) s.length = Frames{r.integer(j, "length", 0, kLongestSeamChoice.value)};
  if (j.contains("law")) s.law = static_cast<CrossfadeLaw>(r.choice(j, "law", kCrossfadeLawNames, 2));
  if (j.contains("shape")) s.shape = static_cast<FadeShape>(r.choice(j, "shape", kFadeShapeNames, 0));
  if (j.contains("bias")) s.bias = r.setting(j, "bias", kBiasRange);
  if (j.contains("fill")) s.fill = static_cast<SeamFill>(r.choice(j, "fill", kSeamFillNames, 0));
  return s;
}

Json timingToJson(const TimingSettings& s) {
  Json j{{"on", s.on}, {"grid", gridToJson(s.grid)}};
  putSettings(j, s, kTimingNumbers);
  j["law"] = kCrossfadeLawNames[static_cast<std::size_t>(s.law)];
  j["shape"] = kFadeShapeNames[static_cast<std::size_t>(s.shape)];
  j["method"] = kMethods[static_cast<std::size_t>(s.method)];
  for (const auto& rule : s.gridRules) {
    Json x{{"grid", gridToJson(rule.grid)}};
    if (rule.drum) x["class"] = kDrumClassNames[static_cast<std::size_t>(*rule.drum)];
    if (rule.stretch) x["from"] = rule.stretch->first.value, x["to"] = rule.stretch->second.value;
    j["grid rules"].push_back(std::move(x));
  }
  for (const auto drum : s.classes) j["classes"].push_back(kDrumClassNames[static_cast<std::size_t>(drum)]);
  if (s.groove) j["groove"] = grooveToJson(*s.groove);
  return j;
}

TimingSettings readTiming(JsonReader& r, const Json& j) {
  TimingSettings s;
  s.on = r.boolean(j, "on", false);
  if (const auto* grid = r.member(j, "grid")) s.grid = readGrid(r, *grid);
  r.settings(j, s, kTimingNumbers);
  s.law = static_cast<CrossfadeLaw>(r.choice(j, "law", kCrossfadeLawNames, 2));
  s.shape = static_cast<FadeShape>(r.choice(j, "shape", kFadeShapeNames, 0));
  r.each(
      j, "grid rules", kMostTracks, [&](const Json& x) { s.gridRules.push_back(readGridRule(r, x)); }, false);
  r.each(
      j, "classes", kDrumClassNames.size(),
      [&](const Json& x) {
        const Json named{{"class", x}};
        s.classes.push_back(static_cast<DrumClass>(r.choice(named, "class", kDrumClassNames, 5)));
      },
      false);
  s.method = static_cast<TimingMethod>(r.choice(j, "method", kMethods, 0));
  if (const auto* g = r.member(j, "groove", false)) s.groove = readGroove(r, *g);
  return s;
}

Json planToJson(const TimingPlan& plan) {
  Json j{{"settings", timingToJson(plan.settings)}, {"overrides", Json::array()}, {"left alone", Json::array()}};
  for (const auto& [hit, o] : plan.overrides) {
    Json x{{"hit", hit.value}};
    if (o.target) x["target"] = o.target->value;
    if (o.seam != SeamOverride{}) x["seam"] = seamToJson(o.seam);
    if (o.frozen) x["frozen"] = true;
    if (o.out) x["out"] = true;
    if (o.joined) x["joined"] = *o.joined;
    j["overrides"].push_back(std::move(x));
  }
  for (const auto& g : plan.gaps)
    j["left alone"].push_back({{"take", g.take.value}, {"from", g.range.start.value}, {"to", g.range.end.value}});
  for (const auto& [hit, kind] : plan.accepted)
    j["accepted"].push_back({{"hit", hit.value}, {"check", kCheckKindNames[static_cast<std::size_t>(kind)]}});
  return j;
}

TimingPlan readPlan(JsonReader& r, const Json& j) {
  TimingPlan plan;
  if (const auto* s = r.member(j, "settings")) plan.settings = readTiming(r, *s);
  r.each(j, "overrides", kMostDecisions, [&](const Json& x) {
    HitOverride o;
    if (x.contains("target")) o.target = readTicks(r, x, "target");
    if (x.contains("seam")) o.seam = readSeam(r, x["seam"]);
    o.frozen = r.boolean(x, "frozen", false);
    o.out = r.boolean(x, "out", false);
    if (x.contains("joined")) o.joined = r.boolean(x, "joined", false);
    plan.overrides[HitId{static_cast<std::uint64_t>(r.integer(x, "hit", 1, INT64_MAX))}] = o;
  });
  r.each(j, "left alone", kMostMarks, [&](const Json& x) {
    plan.gaps.push_back({TakeId{static_cast<std::uint64_t>(r.integer(x, "take", 1, INT64_MAX))},
                         {readFrames(r, x, "from"), readFrames(r, x, "to")}});
  });
  r.each(
      j, "accepted", kMostDecisions,
      [&](const Json& x) {
        plan.accepted.emplace(HitId{static_cast<std::uint64_t>(r.integer(x, "hit", 1, INT64_MAX))},
                              static_cast<CheckKind>(r.choice(x, "check", kCheckKindNames, 0)));
      },
      false);
  return plan;
}

}  // namespace ochron
