#include "handover/session.h"

#include <algorithm>
#include <cmath>

#include "base/numbers.h"
#include "song/insert_place.h"
#include "time/grid.h"

namespace ochron {
namespace {

using Json = SessionJson;

double secondsOf(Frames f, int rate) { return static_cast<double>(f.value) / rate; }

Json tempoJson(const Song& song, Frames begin) {
  Json j{{"bar_1_at", secondsOf(song.tempo.origin() - begin, song.rate)}};
  for (const auto& t : song.tempo.tempos()) {
    Json x{{"ticks", t.at.value}, {"at", secondsOf(song.tempo.toFrames(t.at) - begin, song.rate)}, {"bpm", t.bpm}};
    if (t.ramp) x["ramp"] = true;
    j["tempos"].push_back(std::move(x));
  }
  for (const auto& m : song.tempo.meters()) j["meters"].push_back({{"bar", m.bar + 1}, {"meter", toText(m.meter)}});
  j["ticks_a_quarter"] = kTicksPerQuarter;
  return j;
}

Json fadeJson(const Fade& f, int rate) {
  return {{"seconds", secondsOf(f.length, rate)},
          {"shape", kFadeShapeNames[static_cast<std::size_t>(f.shape)]},
          {"bend", f.bend},
          {"kind", kFadeKindNames[static_cast<std::size_t>(f.kind)]}};
}

Json effectsJson(const InsertList& inserts) {
  Json out = Json::array();
  for (const auto& i : inserts)
    out.push_back({{"name", i.name}, {"uri", i.effect}, {"on", i.on}, {"values", i.values}});
  return out;
}

Json clipsJson(const Song& song, const MicSet& set, TrackId track, Frames begin) {
  Json list = Json::array();
  for (const auto& c : *set.clips) {
    Json x{{"start", secondsOf(c.start - begin, song.rate)},
           {"length", secondsOf(c.length, song.rate)},
           {"take", song.find(c.take)->name},
           {"take_from", secondsOf(c.played().start, song.rate)},
           {"take_to", secondsOf(c.played().end, song.rate)}};
    if (!c.extras->name.empty()) x["name"] = c.extras->name;
    if (const auto* mic = song.micFor(set, c, track)) {
      x["recording"] = song.find(mic->media)->name;
      x["recording_from"] = secondsOf(c.played().start - mic->offset, song.rate);
    }
    if (c.gainDb != 0) x["gain_db"] = c.gainDb;
    if (c.pan != 0) x["pan"] = c.pan;
    if (c.muted) x["muted"] = true;
    if (c.reversed) x["reversed"] = true;
    if (!c.map.identity()) x["stretched"] = true;
    if (c.fadeIn.length.value > 0) x["fade_in"] = fadeJson(c.fadeIn, song.rate);
    if (c.fadeOut.length.value > 0) x["fade_out"] = fadeJson(c.fadeOut, song.rate);
    if (c.seam.before.value + c.seam.after.value > 0)
      x["seam"] = {{"before", secondsOf(c.seam.before, song.rate)}, {"after", secondsOf(c.seam.after, song.rate)}};
    list.push_back(std::move(x));
  }
  return list;
}

/// "Compressor, Equalizer (off)".
std::string effectNames(const Json& effects) {
  std::string out;
  for (const auto& e : effects)
    out += (out.empty() ? "" : ", ") + e["name"].get<std::string>() + (e["on"].get<bool>() ? "" : " (off)");
  return out;
}

std::string clock(double seconds) {
  const double whole = std::max(0.0, seconds);
  const auto minutes = static_cast<int>(whole / 60);
  const auto text = fixed(whole - 60.0 * minutes, 3);
  return std::to_string(minutes) + ":" + (text.size() < 6 ? "0" : "") + text;
}

}  // namespace

SessionJson sessionJson(const Song& song, Frames begin, const std::map<TrackId, std::string>& files) {
  Json j{{"$schema", "session.schema.json"},
         {kSessionKey, kSessionFormat},
         {"song", song.name},
         {"rate", song.rate},
         {"length", secondsOf(song.end() - begin, song.rate)},
         {"tempo", tempoJson(song, begin)},
         {"midi", kSessionMidi}};
  for (const auto& m : song.markers) {
    Json x{{"name", m.name}, {"at", secondsOf(song.tempo.toFrames(m.at) - begin, song.rate)}, {"ticks", m.at.value}};
    if (m.length.value > 0) {
      x["until"] = secondsOf(song.tempo.toFrames(m.end()) - begin, song.rate);
      x["length_ticks"] = m.length.value;
    }
    j["markers"].push_back(std::move(x));
  }
  for (const auto& t : song.tracks) {
    const auto* set = song.setOf(t.id);
    Json x{{"name", t.name},
           {"file", files.at(t.id)},
           {"mic_set", set->name},
           {"gain_db", t.gainDb},
           {"pan", t.pan},
           {"muted", t.muted},
           {"role", kMicRoleNames[static_cast<std::size_t>(t.role)]}};
    if (const auto effects = effectsJson(insertsOf(song, t.id)); !effects.empty()) x["effects"] = effects;
    if (const auto* layer = song.layerOn(t.id))
      x["layer_of"] = song.find(layer->set)->name;
    else
      x["clips"] = clipsJson(song, *set, t.id, begin);
    j["tracks"].push_back(std::move(x));
  }
  if (const auto effects = effectsJson(*song.inserts); !effects.empty()) j["mix_effects"] = effects;
  return j;
}

std::string sessionText(const SessionJson& j) {
  std::string out =
      j["song"].get<std::string>() + "\n\nSample rate: " + std::to_string(j["rate"].get<int>()) +
      " Hz\nLength: " + clock(j["length"].get<double>()) +
      "\nAll files in tracks/ begin at the same moment; bar 1 is " + fixed(j["tempo"]["bar_1_at"].get<double>(), 6) +
      " s after it.\nTracks are as edited, without gain, pan and mute; these are listed below.\n\nTempo\n";
  for (const auto& t : j["tempo"]["tempos"])
    out += "  " + clock(t["at"].get<double>()) + "  " + fixed(t["bpm"].get<double>(), 3) + " BPM" +
           (t.contains("ramp") ? ", then gliding" : "") + "\n";
  for (const auto& m : j["tempo"]["meters"])
    out += "  bar " + std::to_string(m["bar"].get<int>()) + ": " + m["meter"].get<std::string>() + "\n";
  if (j.contains("markers")) {
    out += "\nMarkers\n";
    for (const auto& m : j["markers"])
      out += "  " + clock(m["at"].get<double>()) +
             (m.contains("until") ? " to " + clock(m["until"].get<double>()) : "") + "  " +
             m["name"].get<std::string>() + "\n";
  }
  out += "\nTracks\n";
  for (const auto& t : j["tracks"]) {
    out += "  " + t["name"].get<std::string>() + "  (" + t["file"].get<std::string>() + ")\n    gain " +
           signedFixed(t["gain_db"].get<double>(), 1) + " dB, pan " + fixed(t["pan"].get<double>(), 0) +
           (t["muted"].get<bool>() ? ", muted" : "");
    if (t.contains("layer_of")) out += ", a layer on " + t["layer_of"].get<std::string>();
    if (t.contains("clips")) out += ", " + std::to_string(t["clips"].size()) + " clips";
    if (t.contains("effects")) out += "\n    in the file: " + effectNames(t["effects"]);
    out += "\n";
  }
  if (j.contains("mix_effects")) out += "\nThe mix goes through, in no file: " + effectNames(j["mix_effects"]) + "\n";
  return out;
}

}  // namespace ochron
