#include "store/clip_json.h"

namespace ochron {
void putHold(Json& to, Hold hold, Hold usual) {
  if (hold != usual) to["hold"] = kHoldNames[static_cast<std::size_t>(hold)];
}
Hold readHold(JsonReader& r, const Json& from, Hold usual) {
  return static_cast<Hold>(r.choice(from, "hold", kHoldNames, static_cast<int>(usual)));
}

Json fadeToJson(const Fade& f) {
  Json x{{"length", f.length.value}, {"shape", kFadeShapeNames[static_cast<std::size_t>(f.shape)]}, {"bend", f.bend}};
  if (f.kind != FadeKind::gain) x["kind"] = kFadeKindNames[static_cast<std::size_t>(f.kind)];
  return x;
}
Fade readFade(JsonReader& r, const Json& j) {
  return {readFrames(r, j, "length", 0), static_cast<FadeShape>(r.choice(j, "shape", kFadeShapeNames, 0)),
          r.setting(j, "bend", kUnitRange), static_cast<FadeKind>(r.choice(j, "kind", kFadeKindNames, 0))};
}

void putEnvelope(Json& to, const char* key, const Envelope& envelope) {
  if (envelope.empty()) return;
  Json points = Json::array();
  for (const auto& p : envelope) {
    Json x{{"at", p.at.value}, {"value", p.value}};
    if (p.bend != 0) x["bend"] = p.bend;
    points.push_back(std::move(x));
  }
  to[key] = std::move(points);
}

Envelope readEnvelope(JsonReader& r, const Json& from, const char* key, const SettingRange& range) {
  Envelope out;
  r.each(
      from, key, kMostPoints,
      [&](const Json& p) {
        out.push_back({readFrames(r, p, "at"), r.number(p, "value", range), r.setting(p, "bend", kUnitRange)});
      },
      false);
  return out;
}

std::optional<StretchMethod> readMethod(JsonReader& r, const Json& from) {
  if (!from.is_object() || !from.contains("method")) return {};
  return static_cast<StretchMethod>(r.choice(from, "method", kStretchMethodNames, 0));
}

namespace {

constexpr std::array<const char*, 1> kAlong{"along"};

void extrasToJson(const ClipExtras& e, Json& x) {
  if (!e.name.empty()) x["name"] = e.name;
  if (e.colour) x["colour"] = *e.colour;
  if (e.sync) x["sync"] = e.sync->value;
  if (!e.media.empty()) {
    x["media"] = Json::array();
    for (const auto m : e.media) x["media"].push_back(m.value);
  }
  if (e.sound) x["sound"] = {{"media", e.sound->media.value}, {"offset", e.sound->offset.value}};
  putEnvelope(x, "gain envelope", e.gain);
  putEnvelope(x, "pitch envelope", e.pitch);
  if (e.method) x["method"] = kStretchMethodNames[static_cast<std::size_t>(*e.method)];
  if (e.choke != 0) x["choke"] = e.choke;
  if (e.formants) x["formants"] = e.formants->along ? Json("along") : Json(e.formants->cents);
}

ClipExtras readExtras(JsonReader& r, const Json& x) {
  ClipExtras e;
  e.name = r.text(x, "name", "");
  if (x.is_object() && x.contains("colour")) e.colour = static_cast<int>(r.integer(x, "colour", 0, kMostColours));
  if (x.is_object() && x.contains("sync")) e.sync = readFrames(r, x, "sync", 0);
  r.each(
      x, "media", kMostMembers,
      [&](const Json& m) {
        if (!m.is_number_unsigned()) return r.complain("\"media\" holds something that is no recording");
        e.media.push_back(MediaId{m.get<std::uint64_t>()});
      },
      false);
  if (const auto* s = x.is_object() ? r.member(x, "sound", false) : nullptr)
    e.sound = TakeMic{{}, readId<MediaId>(r, *s, "media"), readFrames(r, *s, "offset")};
  e.gain = readEnvelope(r, x, "gain envelope", kGainEnvelopeRange);
  e.pitch = readEnvelope(r, x, "pitch envelope", kPitchRange);
  e.method = readMethod(r, x);
  e.choke = static_cast<int>(r.integer(x, "choke", 0, kMostChokes, 0));
  if (x.is_object() && x.contains("formants")) {
    e.formants.emplace();
    if (x["formants"].is_string())
      e.formants->along = r.choice(x, "formants", kAlong, 0) == 0;
    else
      e.formants->cents = r.number(x, "formants", kFormantsRange);
  }
  return e;
}

void mapToJson(const TakeMap& map, Json& to) {
  if (map.identity()) return;
  Json pins = Json::array();
  for (const auto& p : map.pins()) pins.push_back({{"take", p.take.value}, {"stretched", p.stretched.value}});
  to["pins"] = std::move(pins);
}

/// `shift`: song time minus stretched time of the clip, as formats before 4 tied pins to the song. They may hold two at
/// one place: the first stands.
TakeMap readMap(JsonReader& r, const Json& x, Frames shift) {
  std::vector<Pin> pins;
  r.each(
      x, "pins", kMostPoints,
      [&](const Json& p) {
        const bool early = p.is_object() && p.contains("song");
        const Pin pin{readFrames(r, p, "take"),
                      early ? readFrames(r, p, "song") - shift : readFrames(r, p, "stretched")};
        const bool rises = pins.empty() || (pin.take > pins.back().take && pin.stretched > pins.back().stretched);
        if (!early || rises) pins.push_back(pin);
      },
      false);
  return TakeMap(std::move(pins));
}

}  // namespace

Json clipToJson(const Clip& c) {
  Json x{{"id", c.id.value},
         {"take", c.take.value},
         {"start", c.start.value},
         {"source", c.source.value},
         {"length", c.length.value}};
  if (c.gainDb != 0) x["gain db"] = c.gainDb;
  if (c.pan != 0) x["pan"] = c.pan;
  if (c.fadeIn != Fade{}) x["fade in"] = fadeToJson(c.fadeIn);
  if (c.fadeOut != Fade{}) x["fade out"] = fadeToJson(c.fadeOut);
  if (c.seam != Seam{})
    x["seam"] = {{"before", c.seam.before.value},
                 {"after", c.seam.after.value},
                 {"law", kCrossfadeLawNames[static_cast<std::size_t>(c.seam.law)]},
                 {"shape", kFadeShapeNames[static_cast<std::size_t>(c.seam.shape)]},
                 {"bias", c.seam.bias},
                 {"fill", kSeamFillNames[static_cast<std::size_t>(c.seam.fill)]}};
  if (c.muted) x["muted"] = true;
  if (c.reversed) x["reversed"] = true;
  if (c.bundle) x["bundle"] = c.bundle.value;
  putHold(x, c.hold, Hold::clock);
  if (c.piece) {
    x["piece"] = {{"from", c.piece->covers.start.value},
                  {"to", c.piece->covers.end.value},
                  {"home", c.piece->home.value},
                  {"hit", c.piece->hit.value},
                  {"origin", c.piece->origin.value}};
    if (c.piece->unheard) x["piece"]["unheard"] = true;
    mapToJson(c.piece->map, x["piece"]);
  }
  mapToJson(c.map, x);
  extrasToJson(*c.extras, x);
  return x;
}

Clip readClip(JsonReader& r, const Json& x) {
  Clip c;
  c.id = readId<ClipId>(r, x, "id");
  c.take = readId<TakeId>(r, x, "take");
  c.start = readFrames(r, x, "start");
  c.source = readFrames(r, x, "source");
  c.length = readFrames(r, x, "length", 1);
  c.gainDb = r.setting(x, "gain db", kGainRange);
  if (const auto* f = r.member(x, "fade in", false)) c.fadeIn = readFade(r, *f);
  if (const auto* f = r.member(x, "fade out", false)) c.fadeOut = readFade(r, *f);
  if (const auto* s = r.member(x, "seam", false)) {
    c.seam.before = readFrames(r, *s, "before", 0);
    c.seam.after = readFrames(r, *s, "after", 0);
    c.seam.law = static_cast<CrossfadeLaw>(r.choice(*s, "law", kCrossfadeLawNames, 2));
    c.seam.shape = static_cast<FadeShape>(r.choice(*s, "shape", kFadeShapeNames, 0));
    c.seam.bias = r.setting(*s, "bias", kUnitRange);
    c.seam.fill = static_cast<SeamFill>(r.choice(*s, "fill", kSeamFillNames, 0));
  }
  c.pan = r.setting(x, "pan", kPanRange);
  c.muted = r.boolean(x, "muted", false);
  c.reversed = r.boolean(x, "reversed", false);
  c.bundle = readId<BundleId>(r, x, "bundle", 0);
  c.hold = readHold(r, x, Hold::clock);
  if (const auto* p = r.member(x, "piece", false))
    c.piece = PlanPiece{{readFrames(r, *p, "from"), readFrames(r, *p, "to")},
                        readFrames(r, *p, "home"),
                        readId<HitId>(r, *p, "hit", 0),
                        readId<ClipId>(r, *p, "origin"),
                        readMap(r, *p, {}),
                        r.boolean(*p, "unheard", false)};
  c.map = readMap(r, x, c.shift());
  if (auto extras = readExtras(r, x); extras != ClipExtras{}) c.extras = std::move(extras);
  return c;
}

}  // namespace ochron
