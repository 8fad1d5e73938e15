#include "store/song_json.h"

#include <algorithm>

#include "song/insert_place.h"
#include "store/clip_json.h"
#include "store/foreign_json.h"
#include "store/insert_json.h"
#include "store/layer_json.h"
#include "store/pattern_json.h"
#include "store/pitch_json.h"
#include "store/print_json.h"
#include "store/timing_json.h"

namespace ochron {
namespace {

using namespace std::string_view_literals;

constexpr int kWithoutLayers =
    4;  // the format that says all of a song without layers; what is foreign is kept from there on
constexpr int kWithoutEffects = 5;
constexpr int kWithoutPatterns = 6;
constexpr int kWithoutCellSounds = 7;
constexpr int kWithoutMovedControls = 8;
constexpr int kWithoutEffectStates = 9;
constexpr int kWithoutPrintManners = 10;
constexpr std::array kOrigins{"detected"sv, "user"sv, "removed"sv};

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
  r.each(j, "tempos", kMostPoints, [&](const Json& x) {
    tempos.push_back({readTicks(r, x, "at"), r.number(x, "bpm", kBpmRange), r.boolean(x, "ramp", false)});
  });
  r.each(j, "meters", kMostMarks, [&](const Json& x) {
    meters.push_back({static_cast<int>(r.integer(x, "bar", -kMostBars, kMostBars)),
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
  for (const auto& s : h.strokes)
    x["strokes"].push_back(
        {{"at", s.at.value}, {"class", kDrumClassNames[static_cast<std::size_t>(s.drum)]}, {"strength", s.strength}});
  if (h.foundAt) x["found at"] = h.foundAt->value;
  if (h.origin != HitOrigin::detected) x["origin"] = kOrigins[static_cast<std::size_t>(h.origin)];
  return x;
}

Hit readHit(JsonReader& r, const Json& x) {
  Hit h;
  h.id = readId<HitId>(r, x, "id");
  h.at = readFrames(r, x, "at", 0);
  h.strength = r.number(x, "strength", kShareRange);
  h.confidence = r.number(x, "confidence", kShareRange);
  h.drum = static_cast<DrumClass>(r.choice(x, "class", kDrumClassNames, 5));
  h.origin = static_cast<HitOrigin>(r.choice(x, "origin", kOrigins, 0));
  if (x.is_object() && x.contains("found at")) h.foundAt = readFrames(r, x, "found at", 0);
  r.each(x, "heard by", kMostHearers, [&](const Json& t) {
    if (t.is_number_unsigned())  // format 1 knew no strength of its own for each guide
      h.heardBy.push_back({TrackId{t.get<std::uint64_t>()}, h.strength});
    else
      h.heardBy.push_back({readId<TrackId>(r, t, "track"), r.number(t, "strength", kShareRange)});
  });
  if (x.is_object() && x.contains("strokes"))
    r.each(x, "strokes", kMostStrokes, [&](const Json& s) {
      h.strokes.push_back({readFrames(r, s, "at", 0), static_cast<DrumClass>(r.choice(s, "class", kDrumClassNames, 5)),
                           r.number(s, "strength", kShareRange)});
    });
  return h;
}

/// Names of files are bytes, texts are UTF-8: what is none is written byte by byte.
Json bytesToJson(const std::string& path) {
  Json bytes = Json::array();
  for (const char c : path) bytes.push_back(static_cast<unsigned char>(c));
  return bytes;
}

std::string readPath(JsonReader& r, const Json& x) {
  if (r.ok() && !x.contains("path bytes")) return r.text(x, "path");
  std::string path;
  r.each(x, "path bytes", kLongestText, [&](const Json& c) {
    if (!c.is_number_unsigned() || c.get<std::uint64_t>() < 1 || c.get<std::uint64_t>() > 255)
      return r.complain("\"path bytes\" holds something that is no byte");
    path += static_cast<char>(static_cast<unsigned char>(c.get<std::uint64_t>()));
  });
  return path;
}

Json mediaToJson(const Media& m) {
  Json x{{"id", m.id.value}, {"name", m.name}};
  x[within(m.path) ? "path" : "path bytes"] = within(m.path) ? Json(m.path) : bytesToJson(m.path);
  x["fingerprint"] = m.fingerprint;
  x["channels"] = m.channels;
  x["file rate"] = m.fileRate;
  x["length"] = m.length.value;
  if (m.timeReference) x["time reference"] = *m.timeReference;
  if (m.bpm) x["bpm"] = *m.bpm;
  for (const auto from : m.printedFrom) x["printed from"].push_back(from.value);
  return x;
}

Media readMedia(JsonReader& r, const Json& x) {
  Media m;
  m.id = readId<MediaId>(r, x, "id");
  m.name = r.text(x, "name");
  m.path = readPath(r, x);
  m.fingerprint = r.text(x, "fingerprint", "");
  m.channels = static_cast<int>(r.integer(x, "channels", 1, kMostChannels));
  m.fileRate = static_cast<int>(
      r.integer(x, "file rate", static_cast<int>(kFileRateRange.low), static_cast<int>(kFileRateRange.high)));
  m.length = readFrames(r, x, "length", 1);
  r.each(
      x, "printed from", kMostMembers,
      [&](const Json& from) {
        if (!from.is_number_unsigned()) return r.complain("\"printed from\" holds something that is no recording");
        m.printedFrom.push_back(MediaId{from.get<std::uint64_t>()});
      },
      false);
  if (x.is_object() && x.contains("bpm")) m.bpm = r.number(x, "bpm", kBpmRange);
  if (x.is_object() && x.contains("time reference")) m.timeReference = r.integer(x, "time reference", 0, INT64_MAX);
  return m;
}

Json takeToJson(const Take& t) {
  Json mics = Json::array();
  for (const auto& m : t.mics)
    mics.push_back({{"track", m.track.value}, {"media", m.media.value}, {"offset", m.offset.value}});
  Json hits = Json::array();
  for (const auto& h : t.facts) {
    Json list = Json::array();
    for (const auto& x : *h.hits) list.push_back(hitToJson(x));
    Json facts{{"set", h.set.value}, {"list", std::move(list)}};
    if (!h.line->track.values.empty()) facts["line"] = lineToJson(*h.line);
    if (h.struck) facts["struck"] = *h.struck;
    hits.push_back(std::move(facts));
  }
  Json out{{"id", t.id.value}, {"name", t.name}, {"length", t.length.value}, {"mics", mics}, {"hits", hits}};
  if (t.tempo) out["tempo"] = {{"bpm", t.tempo->bpm}, {"first downbeat", t.tempo->firstDownbeat.value}};
  return out;
}

Take readTake(JsonReader& r, const Json& x) {
  Take t;
  t.id = readId<TakeId>(r, x, "id");
  t.name = r.text(x, "name");
  t.length = readFrames(r, x, "length", 1);
  r.each(x, "mics", kMostMembers, [&](const Json& m) {
    t.mics.push_back({readId<TrackId>(r, m, "track"), readId<MediaId>(r, m, "media"), readFrames(r, m, "offset", 0)});
  });
  if (const auto* tempo = r.member(x, "tempo", false))
    t.tempo = SourceTempo{r.number(*tempo, "bpm", kBpmRange), readFrames(r, *tempo, "first downbeat")};
  r.each(x, "hits", kMostMembers, [&](const Json& h) {
    HitList list;
    r.each(h, "list", kMostHits, [&](const Json& one) { list.push_back(readHit(r, one)); });
    SetFacts facts{readId<SetId>(r, h, "set"), std::move(list), {}, {}};
    if (h.is_object() && h.contains("struck")) facts.struck = r.number(h, "struck", kShareRange);
    if (const auto* line = r.member(h, "line", false)) facts.line = readLine(r, *line);
    t.facts.push_back(std::move(facts));
  });
  return t;
}

Json trackToJson(const Track& t) {
  Json x{{"id", t.id.value},   {"name", t.name},   {"role", kMicRoleNames[static_cast<std::size_t>(t.role)]},
         {"colour", t.colour}, {"guide", t.guide}, {"gain db", t.gainDb},
         {"pan", t.pan},       {"muted", t.muted}, {"solo", t.solo}};
  putEnvelope(x, "gain envelope", *t.gainEnvelope);
  putEnvelope(x, "pan envelope", *t.panEnvelope);
  putEnvelope(x, "mute envelope", *t.muteEnvelope);
  putHold(x, t.envelopeHold, Hold::clock);
  putInserts(x, *t.inserts);
  return x;
}

Track readTrack(JsonReader& r, const Json& x) {
  Track t;
  t.id = readId<TrackId>(r, x, "id");
  t.name = r.text(x, "name");
  t.role = static_cast<MicRole>(r.choice(x, "role", kMicRoleNames, 0));
  t.colour = static_cast<int>(r.integer(x, "colour", 0, kMostColours, 0));
  t.guide = r.boolean(x, "guide", false);
  t.gainDb = r.setting(x, "gain db", kGainRange);
  t.pan = r.setting(x, "pan", kPanRange);
  t.muted = r.boolean(x, "muted", false);
  t.solo = r.boolean(x, "solo", false);
  t.gainEnvelope = readEnvelope(r, x, "gain envelope", kGainEnvelopeRange);
  t.panEnvelope = readEnvelope(r, x, "pan envelope", kPanRange);
  t.muteEnvelope = readEnvelope(r, x, "mute envelope", kMuteRange);
  t.envelopeHold = readHold(r, x, Hold::clock);
  if (auto inserts = readInserts(r, x); !inserts.empty()) t.inserts = std::move(inserts);
  return t;
}

Json setToJson(const MicSet& s) {
  Json tracks = Json::array();
  for (auto t : s.tracks) tracks.push_back(t.value);
  Json clips = Json::array();
  for (const auto& c : *s.clips) clips.push_back(clipToJson(c));
  Json guides = Json::array();
  for (const auto& [track, g] : s.hits.guides) {
    guides.push_back({{"track", track.value}});
    putSettings(guides.back(), g, kGuideNumbers);
  }
  Json x{{"id", s.id.value}, {"name", s.name}, {"tracks", tracks}};
  putSettings(x, s.hits, kHitNumbers);
  if (!guides.empty()) x["guides"] = guides;
  if (s.method) x["method"] = kStretchMethodNames[static_cast<std::size_t>(*s.method)];
  if (s.locked) x["locked"] = true;
  if (!s.locks.empty()) {
    x["locks"] = Json::array();
    for (const auto& l : s.locks) x["locks"].push_back({{"from", l.start.value}, {"to", l.end.value}});
  }
  x["plan"] = planToJson(*s.plan);
  if (*s.pitch != PitchPlan{}) x["pitch plan"] = pitchPlanToJson(*s.pitch);
  x["clips"] = std::move(clips);
  putInserts(x, *s.inserts);
  return x;
}

void marksToJson(const Song& song, Json& j) {
  if (!song.markers.empty()) j["markers"] = Json::array();
  for (const auto& m : song.markers) {
    Json x{{"id", m.id.value}, {"at", m.at.value}, {"length", m.length.value}, {"name", m.name}};
    putHold(x, m.hold, Hold::grid);
    j["markers"].push_back(std::move(x));
  }
  if (!song.spans.empty()) j["silent spans"] = Json::array();
  for (const auto& s : song.spans) {
    Json tracks = Json::array();
    for (const auto t : s.tracks) tracks.push_back(t.value);
    Json x{{"id", s.id.value},
           {"from", s.range.start.value},
           {"to", s.range.end.value},
           {"label", s.label},
           {"tracks", tracks}};
    putHold(x, s.hold, Hold::clock);
    j["silent spans"].push_back(std::move(x));
  }
  if (!song.bundles.empty()) j["bundles"] = Json::array();
  for (const auto& b : song.bundles) j["bundles"].push_back(bundleToJson(b));
  putEnvelope(j, "gain envelope", *song.gainEnvelope);
  putEnvelope(j, "speed envelope", *song.speedEnvelope);
  if (song.speedManner.keepsPitch) j["speed keeps pitch"] = true;
  if (!song.speedManner.exported) j["speed only heard"] = true;
  putHold(j, song.envelopeHold, Hold::clock);
}

void readMarks(JsonReader& r, const Json& j, Song& song) {
  r.each(
      j, "markers", kMostMarks,
      [&](const Json& x) {
        song.markers.push_back({readId<MarkerId>(r, x, "id"), readTicks(r, x, "at"), readTicks(r, x, "length", 0),
                                r.text(x, "name"), readHold(r, x, Hold::grid)});
      },
      false);
  r.each(
      j, "silent spans", kMostMarks,
      [&](const Json& x) {
        MuteSpan s{readId<SpanId>(r, x, "id"),
                   {readFrames(r, x, "from"), readFrames(r, x, "to")},
                   r.text(x, "label"),
                   {},
                   readHold(r, x, Hold::clock)};
        r.each(x, "tracks", kMostMembers, [&](const Json& t) {
          if (!t.is_number_unsigned()) return r.complain("\"tracks\" holds something that is no track");
          s.tracks.push_back(TrackId{t.get<std::uint64_t>()});
        });
        song.spans.push_back(std::move(s));
      },
      false);
  r.each(
      j, "bundles", kMostMarks, [&](const Json& x) { song.bundles.push_back(readBundle(r, x)); }, false);
  song.gainEnvelope = readEnvelope(r, j, "gain envelope", kGainEnvelopeRange);
  song.speedEnvelope = readEnvelope(r, j, "speed envelope", kSpeedRange);
  song.speedManner.keepsPitch = r.boolean(j, "speed keeps pitch", false);
  song.speedManner.exported = !r.boolean(j, "speed only heard", false);
  song.envelopeHold = readHold(r, j, Hold::clock);
}

MicSet readSet(JsonReader& r, const Json& x) {
  MicSet s;
  s.id = readId<SetId>(r, x, "id");
  s.name = r.text(x, "name");
  r.each(x, "tracks", kMostMembers, [&](const Json& t) {
    if (!t.is_number_unsigned()) return r.complain("\"tracks\" holds something that is no track");
    s.tracks.push_back(TrackId{t.get<std::uint64_t>()});
  });
  r.settings(x, s.hits, kHitNumbers);
  r.each(
      x, "guides", kMostMembers,
      [&](const Json& g) { r.settings(g, s.hits.guides[readId<TrackId>(r, g, "track")], kGuideNumbers); }, false);
  s.method = readMethod(r, x);
  s.locked = r.boolean(x, "locked", false);
  r.each(
      x, "locks", kMostMarks,
      [&](const Json& l) {
        s.locks.push_back({readFrames(r, l, "from"), readFrames(r, l, "to")});
      },
      false);
  if (const auto* p = r.member(x, "plan")) s.plan = readPlan(r, *p);
  if (const auto* p = r.member(x, "pitch plan", false)) s.pitch = readPitchPlan(r, *p);
  ClipList clips;
  r.each(x, "clips", kMostClips, [&](const Json& c) { clips.push_back(readClip(r, c)); });
  s.clips = std::move(clips);
  if (auto inserts = readInserts(r, x); !inserts.empty()) s.inserts = std::move(inserts);
  return s;
}

void anchorsToJson(const Song& song, Json& j) {
  if (!song.anchors->empty()) j["anchors"] = Json::array();
  for (const auto& a : *song.anchors) j["anchors"].push_back({{"at", a.at.value}, {"frame", a.frame.value}});
  for (const auto& [kind, at] : song.acceptedTempo)
    j["accepted tempo"].push_back({{"at", at.value}, {"check", kCheckKindNames[static_cast<std::size_t>(kind)]}});
  if (const auto& d = song.tempoDoubt) {
    j["tempo doubt"] = {{"beat", d->beat}, {"bars", d->bars}, {"other bpm", d->otherBpm}};
    if (d->otherBar) j["tempo doubt"]["other bar"] = d->otherBar->value;
  }
  if (song.anchorSettings == AnchorSettings{}) return;
  Json s{{"ramps", song.anchorSettings.ramps}};
  putSettings(s, song.anchorSettings, kAnchorNumbers);
  j["anchor settings"] = s;
}

void readAnchors(JsonReader& r, const Json& j, Song& song) {
  TempoAnchors anchors;
  r.each(
      j, "anchors", kMostMarks,
      [&](const Json& x) {
        anchors.push_back({readTicks(r, x, "at"), readFrames(r, x, "frame")});
      },
      false);
  song.anchors = std::move(anchors);
  r.each(
      j, "accepted tempo", kMostMarks,
      [&](const Json& x) {
        song.acceptedTempo.emplace(static_cast<CheckKind>(r.choice(x, "check", kCheckKindNames, 0)),
                                   readTicks(r, x, "at"));
      },
      false);
  if (const auto* d = r.member(j, "tempo doubt", false)) {
    song.tempoDoubt = TempoDoubt{
        r.number(*d, "beat", 0, 1), r.number(*d, "bars", 0, 1), r.number(*d, "other bpm", 0, kBpmRange.high), {}};
    if (r.member(*d, "other bar", false)) song.tempoDoubt->otherBar = readFrames(r, *d, "other bar");
  }
  const auto* s = r.member(j, "anchor settings", false);
  if (!s) return;
  song.anchorSettings.ramps = r.boolean(*s, "ramps", false);
  r.settings(*s, song.anchorSettings, kAnchorNumbers);
}

}  // namespace

namespace {

/// The earliest format that says all of a song.
int formatOf(const Song& song) {
  bool states = false;
  bool moves = false;
  eachInsertList(song, [&](const Shared<InsertList>& inserts) {
    for (const auto& i : *inserts) {
      states = states || i.state->any();
      moves = moves || !i.moved.empty();
    }
  });
  for (const auto& p : song.prints)
    if (p.manner != PrintManner{} || p.levelDb != 0 || p.cutBefore || p.cutAfter) return kSongSchema;
  if (states) return kWithoutPrintManners;
  if (moves) return kWithoutEffectStates;
  const auto sounds = [](const ClipList& clips) {
    return std::any_of(clips.begin(), clips.end(), [](const Clip& c) { return c.extras->sound.has_value(); });
  };
  for (const auto& s : song.sets)
    if (sounds(*s.clips)) return kWithoutMovedControls;
  for (const auto& p : song.prints)
    if (sounds(*p.clips)) return kWithoutMovedControls;
  for (const auto& p : song.patterns)
    for (const auto& s : *p.strokes)
      if (s.clip.extras->sound) return kWithoutMovedControls;
  if (!song.patterns.empty()) return kWithoutCellSounds;
  if (anyInserts(song)) return kWithoutPatterns;
  return song.layers.empty() && song.prints.empty() ? kWithoutLayers : kWithoutEffects;
}

Json toJson(const Song& song, const std::string& continues) {
  Json j{{"orthochron song", std::max(formatOf(song), song.foreign->format)},
         {"name", song.name},
         {"rate", song.rate},
         {"last id", song.lastId}};
  if (!continues.empty()) j["continues"] = continues;
  j["tempo map"] = tempoToJson(song.tempo);
  anchorsToJson(song, j);
  for (const char* key : {"media", "takes", "tracks", "mic sets"}) j[key] = Json::array();
  for (const auto& m : song.media) j["media"].push_back(mediaToJson(m));
  for (const auto& t : song.takes) j["takes"].push_back(takeToJson(t));
  for (const auto& t : song.tracks) j["tracks"].push_back(trackToJson(t));
  for (const auto& s : song.sets) j["mic sets"].push_back(setToJson(s));
  if (!song.grooves.empty()) j["grooves"] = Json::array();
  for (const auto& g : song.grooves) j["grooves"].push_back(grooveToJson(g));
  marksToJson(song, j);
  for (const auto& l : song.layers) j["layers"].push_back(layerToJson(l));
  for (const auto& p : song.patterns) j["patterns"].push_back(patternToJson(p));
  for (const auto& p : song.prints) j["prints"].push_back(printToJson(p));
  putInserts(j, *song.inserts);
  return j;
}

}  // namespace

std::string songToJson(const Song& song, const std::string& continues) {
  auto j = toJson(song, continues);
  putForeign(j, song.foreign->keys);
  return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::string continuedState(std::string_view text) {
  const auto j = Json::parse(text, nullptr, false);
  JsonReader r;
  return j.is_object() ? r.text(j, "continues", "") : std::string();
}

Result<Song> songFromJson(std::string_view text, const std::string& fileName, Newer newer) {
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput,
                fileName + " cannot be opened as a song: " + why + ". Open an older copy, or the autosaved one.");
  };
  const auto j = Json::parse(text, nullptr, false);
  if (j.is_discarded()) return refuse("it is damaged or cut short");
  JsonReader r;
  const auto schema = r.integer(j, "orthochron song", 1, 1'000'000);
  if (!r.ok()) return refuse("it is not an Orthochron song");
  if (schema > kSongSchema && newer == Newer::refuse)
    return fail(ErrorKind::badInput, fileName + " was saved by a newer version of Orthochron (format " +
                                         std::to_string(schema) + "). Update Orthochron to open it.");
  Song song;
  song.name = r.text(j, "name");
  song.rate = static_cast<int>(
      r.integer(j, "rate", static_cast<int>(kSongRateRange.low), static_cast<int>(kSongRateRange.high)));
  song.lastId = static_cast<std::uint64_t>(r.integer(j, "last id", 0, INT64_MAX));
  if (!r.ok()) return refuse(r.problem());
  if (const auto* t = r.member(j, "tempo map")) song.tempo = readTempo(r, *t, song.rate);
  readAnchors(r, j, song);
  r.each(j, "media", kMostMarks, [&](const Json& x) { song.media.push_back(readMedia(r, x)); });
  r.each(j, "takes", kMostTracks, [&](const Json& x) { song.takes.push_back(readTake(r, x)); });
  r.each(j, "tracks", kMostTracks, [&](const Json& x) { song.tracks.push_back(readTrack(r, x)); });
  r.each(j, "mic sets", kMostTracks, [&](const Json& x) { song.sets.push_back(readSet(r, x)); });
  r.each(
      j, "grooves", kMostTracks, [&](const Json& x) { song.grooves.push_back(readGroove(r, x)); }, false);
  readMarks(r, j, song);
  r.each(
      j, "layers", kMostTracks, [&](const Json& x) { song.layers.push_back(readLayer(r, x)); }, false);
  r.each(
      j, "patterns", kMostMarks, [&](const Json& x) { song.patterns.push_back(readPattern(r, x)); }, false);
  r.each(
      j, "prints", kMostMarks, [&](const Json& x) { song.prints.push_back(readPrint(r, x)); }, false);
  if (auto inserts = readInserts(r, j); !inserts.empty()) song.inserts = std::move(inserts);
  if (!r.ok()) return refuse(r.problem());
  if (const auto broken = brokenRules(song); !broken.empty()) return refuse(broken.front());
  if (schema < kWithoutLayers) return song;  // keys of earlier formats are read in other words, not kept
  ForeignKeys foreign{schema > kSongSchema ? static_cast<int>(schema) : 0, foreignIn(j, toJson(song, {}))};
  if (foreign != ForeignKeys{}) song.foreign = std::move(foreign);
  return song;
}

}  // namespace ochron
