#include "store/song_json.h"

#include <algorithm>

#include "store/timing_json.h"

namespace ochron {
namespace {

using namespace std::string_view_literals;

constexpr std::int64_t kFar = std::int64_t{1} << 46;  // frames: more than 40 years at 48 kHz
constexpr std::array kLaws{"equal gain"sv, "equal power"sv, "matched"sv};
constexpr std::array kShapes{"line"sv, "s-curve"sv};
constexpr std::array kHolds{"clock"sv, "grid"sv};
constexpr std::array kOrigins{"detected"sv, "user"sv, "removed"sv};

template <class IdType>
IdType readId(JsonReader& r, const Json& j, const char* key, std::int64_t low = 1) {
  return IdType{static_cast<std::uint64_t>(
      r.integer(j, key, low, INT64_MAX, low == 0 ? std::optional<std::int64_t>(0) : std::nullopt))};
}
Frames readFrames(JsonReader& r, const Json& j, const char* key, std::int64_t low = -kFar) {
  return Frames{r.integer(j, key, low, kFar)};
}

Json tempoToJson(const TempoMap& map) {
  Json tempos = Json::array();
  for (const auto& t : map.tempos()) {
    Json x{{"at", t.at.value}, {"bpm", t.bpm}};
    if (t.ramp) x["ramp"] = true;
    tempos.push_back(std::move(x));
  }
  Json meters = Json::array();
  for (const auto& m : map.meters())
    meters.push_back({{"bar", m.bar}, {"beats", m.meter.beats}, {"unit", m.meter.unit}});
  return {{"origin", map.origin().value}, {"tempos", tempos}, {"meters", meters}};
}

TempoMap readTempo(JsonReader& r, const Json& j, int rate) {
  std::vector<TempoEvent> tempos;
  std::vector<MeterEvent> meters;
  const auto origin = readFrames(r, j, "origin");
  r.each(j, "tempos", 1'000'000, [&](const Json& x) {
    tempos.push_back({Ticks{r.integer(x, "at", -kFar, kFar)}, r.number(x, "bpm", kBpmRange.low, kBpmRange.high),
                      r.boolean(x, "ramp", false)});
  });
  r.each(j, "meters", 100'000, [&](const Json& x) {
    meters.push_back({static_cast<int>(r.integer(x, "bar", -1'000'000, 1'000'000)),
                      {static_cast<int>(r.integer(x, "beats", 1, 64)), static_cast<int>(r.integer(x, "unit", 1, 64))}});
  });
  if (!r.ok()) return {};
  auto map = TempoMap::make(rate, origin, std::move(tempos), std::move(meters));
  if (!map) return r.complain("the tempo map is not valid: " + map.error().message), TempoMap{};
  return *map;
}

Json hitToJson(const Hit& h) {
  Json x{{"id", h.id.value},
         {"at", h.at.value},
         {"strength", h.strength},
         {"confidence", h.confidence},
         {"class", kDrumClassNames[static_cast<std::size_t>(h.drum)]}};
  Json heard = Json::array();
  for (const auto& g : h.heardBy) heard.push_back({{"track", g.track.value}, {"strength", g.strength}});
  x["heard by"] = heard;
  if (h.foundAt) x["found at"] = h.foundAt->value;
  if (h.origin != HitOrigin::detected) x["origin"] = kOrigins[static_cast<std::size_t>(h.origin)];
  return x;
}

Hit readHit(JsonReader& r, const Json& x) {
  Hit h;
  h.id = readId<HitId>(r, x, "id");
  h.at = readFrames(r, x, "at", 0);
  h.strength = r.number(x, "strength", 0, 1);
  h.confidence = r.number(x, "confidence", 0, 1);
  h.drum = static_cast<DrumClass>(r.choice(x, "class", kDrumClassNames, 5));
  h.origin = static_cast<HitOrigin>(r.choice(x, "origin", kOrigins, 0));
  if (x.is_object() && x.contains("found at")) h.foundAt = readFrames(r, x, "found at", 0);
  r.each(x, "heard by", 256, [&](const Json& t) {
    if (t.is_number_unsigned())  // format 1 knew no strength of its own for each guide
      h.heardBy.push_back({TrackId{t.get<std::uint64_t>()}, h.strength});
    else
      h.heardBy.push_back({readId<TrackId>(r, t, "track"), r.number(t, "strength", 0, 1)});
  });
  return h;
}

Json fadeToJson(const Fade& f) {
  return {{"length", f.length.value}, {"shape", kShapes[static_cast<std::size_t>(f.shape)]}, {"bend", f.bend}};
}
Fade readFade(JsonReader& r, const Json& j) {
  return {readFrames(r, j, "length", 0), static_cast<FadeShape>(r.choice(j, "shape", kShapes, 0)),
          r.number(j, "bend", -1, 1, 0.0)};
}

Json clipToJson(const Clip& c) {
  Json x{{"id", c.id.value},
         {"take", c.take.value},
         {"start", c.start.value},
         {"source", c.source.value},
         {"length", c.length.value}};
  if (c.gainDb != 0) x["gain db"] = c.gainDb;
  if (c.fadeIn != Fade{}) x["fade in"] = fadeToJson(c.fadeIn);
  if (c.fadeOut != Fade{}) x["fade out"] = fadeToJson(c.fadeOut);
  if (c.seam != Seam{})
    x["seam"] = {{"before", c.seam.before.value},
                 {"after", c.seam.after.value},
                 {"law", kLaws[static_cast<std::size_t>(c.seam.law)]},
                 {"shape", kShapes[static_cast<std::size_t>(c.seam.shape)]},
                 {"bias", c.seam.bias},
                 {"fill", kSeamFillNames[static_cast<std::size_t>(c.seam.fill)]}};
  if (c.muted) x["muted"] = true;
  if (c.hold != ClipHold::clock) x["hold"] = kHolds[static_cast<std::size_t>(c.hold)];
  if (c.piece)
    x["piece"] = {{"from", c.piece->covers.start.value},
                  {"to", c.piece->covers.end.value},
                  {"home", c.piece->home.value},
                  {"hit", c.piece->hit.value},
                  {"origin", c.piece->origin.value}};
  if (!c.pins->empty()) {
    Json pins = Json::array();
    for (const auto& p : *c.pins) pins.push_back({{"take", p.take.value}, {"song", p.song.value}});
    x["pins"] = pins;
  }
  return x;
}

Clip readClip(JsonReader& r, const Json& x) {
  Clip c;
  c.id = readId<ClipId>(r, x, "id");
  c.take = readId<TakeId>(r, x, "take");
  c.start = readFrames(r, x, "start");
  c.source = readFrames(r, x, "source");
  c.length = readFrames(r, x, "length", 1);
  c.gainDb = r.number(x, "gain db", kGainRange.low, kGainRange.high, 0.0);
  if (const auto* f = r.member(x, "fade in", false)) c.fadeIn = readFade(r, *f);
  if (const auto* f = r.member(x, "fade out", false)) c.fadeOut = readFade(r, *f);
  if (const auto* s = r.member(x, "seam", false)) {
    c.seam.before = readFrames(r, *s, "before", 0), c.seam.after = readFrames(r, *s, "after", 0);
    c.seam.law = static_cast<CrossfadeLaw>(r.choice(*s, "law", kLaws, 2));
    c.seam.shape = static_cast<FadeShape>(r.choice(*s, "shape", kShapes, 0));
    c.seam.bias = r.number(*s, "bias", -1, 1, 0.0);
    c.seam.fill = static_cast<SeamFill>(r.choice(*s, "fill", kSeamFillNames, 0));
  }
  c.muted = r.boolean(x, "muted", false);
  c.hold = static_cast<ClipHold>(r.choice(x, "hold", kHolds, 0));
  if (const auto* p = r.member(x, "piece", false))
    c.piece = PlanPiece{{readFrames(r, *p, "from"), readFrames(r, *p, "to")},
                        readFrames(r, *p, "home"),
                        readId<HitId>(r, *p, "hit", 0),
                        readId<ClipId>(r, *p, "origin")};
  if (x.is_object() && x.contains("pins")) {
    std::vector<Pin> pins;
    r.each(x, "pins", 1'000'000, [&](const Json& p) {
      pins.push_back({readFrames(r, p, "take"), readFrames(r, p, "song")});
    });
    c.pins = std::move(pins);
  }
  return c;
}

Json mediaToJson(const Media& m) {
  Json x{{"id", m.id.value},       {"name", m.name},          {"path", m.path},          {"fingerprint", m.fingerprint},
         {"channels", m.channels}, {"file rate", m.fileRate}, {"length", m.length.value}};
  if (m.timeReference) x["time reference"] = *m.timeReference;
  return x;
}

Media readMedia(JsonReader& r, const Json& x) {
  Media m;
  m.id = readId<MediaId>(r, x, "id");
  m.name = r.text(x, "name"), m.path = r.text(x, "path"), m.fingerprint = r.text(x, "fingerprint", "");
  m.channels = static_cast<int>(r.integer(x, "channels", 1, 64));
  m.fileRate = static_cast<int>(r.integer(x, "file rate", 1'000, 768'000));
  m.length = readFrames(r, x, "length", 1);
  if (x.is_object() && x.contains("time reference")) m.timeReference = r.integer(x, "time reference", 0, INT64_MAX);
  return m;
}

Json takeToJson(const Take& t) {
  Json mics = Json::array();
  for (const auto& m : t.mics)
    mics.push_back({{"track", m.track.value}, {"media", m.media.value}, {"offset", m.offset.value}});
  Json hits = Json::array();
  for (const auto& h : t.hits) {
    Json list = Json::array();
    for (const auto& x : *h.hits) list.push_back(hitToJson(x));
    hits.push_back({{"set", h.set.value}, {"list", std::move(list)}});
  }
  return {{"id", t.id.value}, {"name", t.name}, {"length", t.length.value}, {"mics", mics}, {"hits", hits}};
}

Take readTake(JsonReader& r, const Json& x) {
  Take t;
  t.id = readId<TakeId>(r, x, "id");
  t.name = r.text(x, "name");
  t.length = readFrames(r, x, "length", 1);
  r.each(x, "mics", 1024, [&](const Json& m) {
    t.mics.push_back({readId<TrackId>(r, m, "track"), readId<MediaId>(r, m, "media"), readFrames(r, m, "offset", 0)});
  });
  r.each(x, "hits", 1024, [&](const Json& h) {
    HitList list;
    r.each(h, "list", 2'000'000, [&](const Json& one) { list.push_back(readHit(r, one)); });
    t.hits.push_back({readId<SetId>(r, h, "set"), std::move(list)});
  });
  return t;
}

Json trackToJson(const Track& t) {
  return {{"id", t.id.value},   {"name", t.name},   {"role", kMicRoleNames[static_cast<std::size_t>(t.role)]},
          {"colour", t.colour}, {"guide", t.guide}, {"gain db", t.gainDb},
          {"pan", t.pan},       {"muted", t.muted}, {"solo", t.solo}};
}

Track readTrack(JsonReader& r, const Json& x) {
  Track t;
  t.id = readId<TrackId>(r, x, "id");
  t.name = r.text(x, "name");
  t.role = static_cast<MicRole>(r.choice(x, "role", kMicRoleNames, 0));
  t.colour = static_cast<int>(r.integer(x, "colour", 0, 1'000'000, 0));
  t.guide = r.boolean(x, "guide", false);
  t.gainDb = r.setting(x, "gain db", kGainRange), t.pan = r.setting(x, "pan", kPanRange);
  t.muted = r.boolean(x, "muted", false), t.solo = r.boolean(x, "solo", false);
  return t;
}

Json setToJson(const MicSet& s) {
  Json tracks = Json::array();
  for (auto t : s.tracks) tracks.push_back(t.value);
  Json clips = Json::array();
  for (const auto& c : *s.clips) clips.push_back(clipToJson(c));
  Json guides = Json::array();
  for (const auto& [track, g] : s.hits.guides)
    guides.push_back({{"track", track.value}, {"weight", g.weight}, {"sensitivity", g.sensitivity}});
  Json x{{"id", s.id.value},
         {"name", s.name},
         {"tracks", tracks},
         {"sensitivity", s.hits.sensitivity},
         {"minimum spacing ms", s.hits.minSpacingMs}};
  if (!guides.empty()) x["guides"] = guides;
  if (s.locked) x["locked"] = true;
  if (!s.locks.empty()) {
    x["locks"] = Json::array();
    for (const auto& l : s.locks) x["locks"].push_back({{"from", l.start.value}, {"to", l.end.value}});
  }
  x["plan"] = planToJson(*s.plan);
  x["clips"] = std::move(clips);
  return x;
}

MicSet readSet(JsonReader& r, const Json& x) {
  MicSet s;
  s.id = readId<SetId>(r, x, "id");
  s.name = r.text(x, "name");
  r.each(x, "tracks", 1024, [&](const Json& t) {
    if (!t.is_number_unsigned()) return r.complain("\"tracks\" holds something that is no track");
    s.tracks.push_back(TrackId{t.get<std::uint64_t>()});
  });
  s.hits.sensitivity = r.setting(x, "sensitivity", kSensitivityRange);
  s.hits.minSpacingMs = r.setting(x, "minimum spacing ms", kMinSpacingRange);
  r.each(
      x, "guides", 1024,
      [&](const Json& g) {
        s.hits.guides[readId<TrackId>(r, g, "track")] = {r.setting(g, "weight", kGuideWeightRange),
                                                         r.setting(g, "sensitivity", kGuideSensitivityRange)};
      },
      false);
  s.locked = r.boolean(x, "locked", false);
  r.each(
      x, "locks", 100'000,
      [&](const Json& l) {
        s.locks.push_back({readFrames(r, l, "from"), readFrames(r, l, "to")});
      },
      false);
  if (const auto* p = r.member(x, "plan")) s.plan = readPlan(r, *p);
  ClipList clips;
  r.each(x, "clips", 2'000'000, [&](const Json& c) { clips.push_back(readClip(r, c)); });
  s.clips = std::move(clips);
  return s;
}

}  // namespace

std::string songToJson(const Song& song) {
  Json j{{"orthochron song", kSongSchema},
         {"name", song.name},
         {"rate", song.rate},
         {"last id", song.lastId},
         {"tempo map", tempoToJson(song.tempo)}};
  for (const char* key : {"media", "takes", "tracks", "mic sets"}) j[key] = Json::array();
  for (const auto& m : song.media) j["media"].push_back(mediaToJson(m));
  for (const auto& t : song.takes) j["takes"].push_back(takeToJson(t));
  for (const auto& t : song.tracks) j["tracks"].push_back(trackToJson(t));
  for (const auto& s : song.sets) j["mic sets"].push_back(setToJson(s));
  if (!song.grooves.empty()) j["grooves"] = Json::array();
  for (const auto& g : song.grooves) j["grooves"].push_back(grooveToJson(g));
  return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Song> songFromJson(std::string_view text, const std::string& fileName) {
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput,
                fileName + " cannot be opened as a song: " + why + ". Open an older copy, or the autosaved one.");
  };
  const auto j = Json::parse(text, nullptr, false);
  if (j.is_discarded()) return refuse("it is damaged or cut short");
  JsonReader r;
  const auto schema = r.integer(j, "orthochron song", 1, 1'000'000);
  if (!r.ok()) return refuse("it is not an Orthochron song");
  if (schema > kSongSchema)
    return fail(ErrorKind::badInput, fileName + " was saved by a newer version of Orthochron (format " +
                                         std::to_string(schema) + "). Update Orthochron to open it.");
  Song song;
  song.name = r.text(j, "name");
  song.rate = static_cast<int>(r.integer(j, "rate", 8'000, 384'000));
  song.lastId = static_cast<std::uint64_t>(r.integer(j, "last id", 0, INT64_MAX));
  if (!r.ok()) return refuse(r.problem());
  if (const auto* t = r.member(j, "tempo map")) song.tempo = readTempo(r, *t, song.rate);
  r.each(j, "media", 100'000, [&](const Json& x) { song.media.push_back(readMedia(r, x)); });
  r.each(j, "takes", 10'000, [&](const Json& x) { song.takes.push_back(readTake(r, x)); });
  r.each(j, "tracks", 10'000, [&](const Json& x) { song.tracks.push_back(readTrack(r, x)); });
  r.each(j, "mic sets", 10'000, [&](const Json& x) { song.sets.push_back(readSet(r, x)); });
  r.each(
      j, "grooves", 10'000, [&](const Json& x) { song.grooves.push_back(readGroove(r, x)); }, false);
  if (!r.ok()) return refuse(r.problem());
  if (const auto broken = brokenRules(song); !broken.empty()) return refuse(broken.front());
  return song;
}

}  // namespace ochron
