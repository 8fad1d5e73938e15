#include "store/pitch_json.h"

#include <cmath>

#include "song/ranges.h"

namespace ochron {
namespace {

Json scaleToJson(const Scale& s) {
  return {{"name", s.name}, {"tonic", s.tonic}, {"steps", s.steps}, {"octave", s.octave}, {"a4", s.reference}};
}

Scale readScale(JsonReader& r, const Json& j) {
  Scale s;
  s.name = r.text(j, "name");
  s.tonic = static_cast<int>(r.integer(j, "tonic", 0, 11));
  s.octave = r.number(j, "octave", kOctaveRange);
  s.reference = r.setting(j, "a4", kReferencePitchRange);
  s.steps.clear();
  r.each(j, "steps", kMostScaleSteps, [&](const Json& x) {
    const double step = x.is_number() ? x.get<double>() : NAN;
    const bool rises = s.steps.empty() ? step == 0 : step > s.steps.back();
    if (!rises || !(step < s.octave)) return r.complain("the steps of a scale do not rise from 0 within its octave");
    s.steps.push_back(step);
  });
  if (s.steps.empty()) r.complain("a scale has no steps");
  return s;
}

}  // namespace

Json lineToJson(const SungLine& line) {
  Json values = Json::array();
  for (const auto& v : line.track.values) {
    values.push_back(std::llround(v.hertz * 100));
    values.push_back(std::llround(v.voiced * 100));
  }
  Json notes = Json::array();
  for (const auto& n : line.notes) {
    notes.push_back({{"start", n.start}, {"end", n.end}, {"hertz", n.hertz}});
    if (n.byHand) notes.back()["by hand"] = true;
  }
  return {{"values", values}, {"notes", notes}};
}

SungLine readLine(JsonReader& r, const Json& j) {
  SungLine line;
  bool hertz = true;
  r.each(j, "values", 2 * kMostPitches, [&](const Json& x) {
    const double most = hertz ? kSungHertzRange.high : kShareRange.high;
    const double v = x.is_number_integer() ? x.get<double>() / 100 : -1;
    if (!(v >= 0 && v <= most)) return r.complain("a line holds something that is no pitch");
    if (hertz)
      line.track.values.push_back({v, 0});
    else
      line.track.values.back().voiced = v;
    hertz = !hertz;
  });
  r.each(j, "notes", kMostPitches, [&](const Json& x) {
    const SungNote n{r.number(x, "start", kNoteSecondsRange), r.number(x, "end", kNoteSecondsRange),
                     r.number(x, "hertz", kNoteHertzRange), r.boolean(x, "by hand", false)};
    if (n.end <= n.start || (!line.notes.empty() && n.start < line.notes.back().end))
      return r.complain("the notes of a line overlap or have no length");
    line.notes.push_back(n);
  });
  return line;
}

Json pitchPlanToJson(const PitchPlan& plan) {
  Json j{{"on", plan.settings.on}, {"scale", scaleToJson(plan.settings.scale)}};
  putSettings(j, plan.settings, kTuneNumbers);
  for (const auto& [name, wish] : plan.wishes) {
    Json x{{"take", name.first.value}, {"at ms", name.second}};
    if (wish.target) x["target cents"] = *wish.target;
    if (wish.asSung) x["as sung"] = true;
    if (wish.accepted) x["accepted"] = true;
    for (std::size_t i = 0; i < kNoteNumbers; ++i)
      if (wish.own[i]) x[std::string(kTuneNumbers[i].key)] = *wish.own[i];
    j["notes"].push_back(std::move(x));
  }
  return j;
}

PitchPlan readPitchPlan(JsonReader& r, const Json& j) {
  PitchPlan plan;
  plan.settings.on = r.boolean(j, "on", false);
  if (const auto* s = r.member(j, "scale")) plan.settings.scale = readScale(r, *s);
  r.settings(j, plan.settings, kTuneNumbers);
  r.each(
      j, "notes", kMostDecisions,
      [&](const Json& x) {
        NoteWish wish;
        if (x.is_object() && x.contains("target cents")) wish.target = r.number(x, "target cents", kNoteTargetRange);
        wish.asSung = r.boolean(x, "as sung", false);
        wish.accepted = r.boolean(x, "accepted", false);
        for (std::size_t i = 0; i < kNoteNumbers; ++i)
          if (const std::string key(kTuneNumbers[i].key); x.is_object() && x.contains(key))
            wish.own[i] = r.setting(x, key.c_str(), kTuneNumbers[i].range);
        plan.wishes[{TakeId{static_cast<std::uint64_t>(r.integer(x, "take", 1, INT64_MAX))},
                     r.integer(x, "at ms", 0, static_cast<std::int64_t>(kNoteSecondsRange.high) * 1000)}] = wish;
      },
      false);
  return plan;
}

}  // namespace ochron
