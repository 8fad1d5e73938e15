#include "store/layer_json.h"

#include "store/clip_json.h"

namespace ochron {
namespace {

constexpr double kLoudest = 400;  // dB, either way, of what was measured

Json soundToJson(const KitSound& s) {
  Json x{{"name", s.name},          {"media", s.media.value}, {"from", s.range.start.value},
         {"to", s.range.end.value}, {"softest", s.low},       {"hardest", s.high}};
  if (s.gainDb != 0) x["gain db"] = s.gainDb;
  if (s.pan != 0) x["pan"] = s.pan;
  if (s.cents != 0) x["cents"] = s.cents;
  if (!s.listened) return x;
  x["heard"] = {{"attack", s.attack.value},
                {"loudness db", s.peakDb},
                {"lag", s.lag.value},
                {"likeness", s.likeness},
                {"turned", s.turned}};
  return x;
}

KitSound readSound(JsonReader& r, const Json& x) {
  KitSound s;
  s.name = r.text(x, "name", "");
  s.media = readId<MediaId>(r, x, "media");
  s.range = {readFrames(r, x, "from", 0), readFrames(r, x, "to", 1)};
  s.low = r.number(x, "softest", kShareRange);
  s.high = r.number(x, "hardest", kShareRange);
  s.gainDb = r.setting(x, "gain db", kStrokeGainRange);
  s.pan = r.setting(x, "pan", kPanRange);
  s.cents = r.setting(x, "cents", kLayerPitchRange);
  if (const auto* h = r.member(x, "heard", false)) {
    s.listened = true;
    s.attack = readFrames(r, *h, "attack", 0);
    s.peakDb = r.number(*h, "loudness db", -kLoudest, kLoudest);
    s.lag = readFrames(r, *h, "lag");
    s.likeness = r.number(*h, "likeness", kUnitRange);
    s.turned = r.boolean(*h, "turned", false);
  }
  return s;
}

Json heardToJson(const HeardStrokes& heard) {
  Json takes = Json::array();
  for (const auto& [take, attacks] : heard.takes) {
    Json list = Json::array();
    for (const auto& a : attacks) list.push_back({a.stroke.value, a.at.value, a.db});
    takes.push_back({{"take", take.value}, {"strokes", std::move(list)}});
  }
  return {{"mic", heard.mic.value}, {"full db", heard.fullDb}, {"takes", std::move(takes)}};
}

HeardStrokes readHeard(JsonReader& r, const Json& x) {
  HeardStrokes out;
  out.mic = TrackId{static_cast<std::uint64_t>(r.integer(x, "mic", 0, INT64_MAX))};
  out.fullDb = r.number(x, "full db", -kLoudest, kLoudest);
  r.each(x, "takes", kMostTracks, [&](const Json& t) {
    auto& list = out.takes[readId<TakeId>(r, t, "take")];
    r.each(t, "strokes", kMostHits, [&](const Json& a) {
      const bool three =
          a.is_array() && a.size() == 3 && a[0].is_number_integer() && a[1].is_number_integer() && a[2].is_number();
      if (!three) return r.complain("\"strokes\" holds something that is no stroke");
      list.push_back({Frames{a[0].get<std::int64_t>()}, Frames{a[1].get<std::int64_t>()}, a[2].get<double>()});
    });
  });
  return out;
}

}  // namespace

Json layerToJson(const Layer& l) {
  Json x{{"id", l.id.value}, {"name", l.name}, {"set", l.set.value}, {"track", l.track.value}};
  if (l.drum) x["class"] = kDrumClassNames[static_cast<std::size_t>(*l.drum)];
  if (!l.on) x["off"] = true;
  if (l.midi) x["midi"] = true;
  putSettings(x, l.settings, kLayerNumbers);
  x["line up"] = kLineUpNames[static_cast<std::size_t>(l.lineUp)];
  if (l.turned) x["turned"] = *l.turned;
  for (const auto& p : l.curve) x["curve"].push_back({{"strength", p.strength}, {"db", p.db}});
  Json sounds = Json::array();
  for (const auto& s : l.sounds->sounds) sounds.push_back(soundToJson(s));
  x["sounds"] = {{"name", l.sounds->name}, {"full db", l.sounds->fullDb}, {"list", std::move(sounds)}};
  if (!l.sounds->origin.empty() && within(l.sounds->origin)) x["sounds"]["origin"] = l.sounds->origin;
  if (*l.heard != HeardStrokes{}) x["heard"] = heardToJson(*l.heard);
  for (const auto& [hit, w] : l.wishes) {
    Json wish{{"hit", hit.value}};
    if (w.sound) wish["sound"] = *w.sound;
    if (w.gainDb != 0) wish["gain db"] = w.gainDb;
    if (w.heard) wish["heard"] = *w.heard;
    x["strokes"].push_back(std::move(wish));
  }
  return x;
}

Layer readLayer(JsonReader& r, const Json& x) {
  Layer l;
  l.id = readId<LayerId>(r, x, "id");
  l.name = r.text(x, "name");
  l.set = readId<SetId>(r, x, "set");
  l.track = readId<TrackId>(r, x, "track");
  if (x.is_object() && x.contains("class")) l.drum = static_cast<DrumClass>(r.choice(x, "class", kDrumClassNames, 0));
  l.on = !r.boolean(x, "off", false);
  l.midi = r.boolean(x, "midi", false);
  r.settings(x, l.settings, kLayerNumbers);
  l.lineUp = static_cast<LineUp>(r.choice(x, "line up", kLineUpNames, 0));
  if (x.is_object() && x.contains("turned")) l.turned = r.boolean(x, "turned", false);
  r.each(
      x, "curve", kMostPlaces,
      [&](const Json& p) {
        l.curve.push_back({r.number(p, "strength", kShareRange), r.number(p, "db", kCurveRange)});
      },
      false);
  if (const auto* s = r.member(x, "sounds")) {
    SoundSet set;
    set.name = r.text(*s, "name");
    set.origin = r.text(*s, "origin", "");
    set.fullDb = r.number(*s, "full db", -kLoudest, kLoudest);
    r.each(*s, "list", kMostSounds, [&](const Json& one) { set.sounds.push_back(readSound(r, one)); });
    l.sounds = std::move(set);
  }
  if (const auto* h = r.member(x, "heard", false)) l.heard = readHeard(r, *h);
  r.each(
      x, "strokes", kMostDecisions,
      [&](const Json& w) {
        StrokeWish wish;
        if (w.is_object() && w.contains("sound"))
          wish.sound = static_cast<std::size_t>(r.integer(w, "sound", 0, kMostSounds));
        wish.gainDb = r.setting(w, "gain db", kStrokeGainRange);
        if (w.is_object() && w.contains("heard")) wish.heard = r.boolean(w, "heard", true);
        l.wishes[readId<HitId>(r, w, "hit")] = wish;
      },
      false);
  return l;
}

}  // namespace ochron
