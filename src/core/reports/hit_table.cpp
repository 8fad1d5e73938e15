#include "reports/hit_table.h"

#include <nlohmann/json.hpp>
#include <utility>

#include "base/numbers.h"
#include "files/file_names.h"
#include "store/midi_file.h"

namespace ochron {
namespace {

using Json = nlohmann::ordered_json;

std::string quoted(const std::string& text) {
  if (text.find_first_of(",\"\r\n") == std::string::npos) return text;
  std::string out = "\"";
  for (const char c : text) {
    if (c == '"') out += '"';
    out += c;
  }
  return out + "\"";
}

double seconds(Frames f, int rate) { return static_cast<double>(f.value) / rate; }

std::string guidesOf(const Song& song, const Hit& hit) {
  std::string out;
  for (const auto& g : hit.heardBy) {
    const auto* track = song.find(g.track);
    if (!track) continue;
    if (!out.empty()) out += ' ';
    out += track->name;
  }
  return out;
}

struct Place {
  int bar = 0;
  double beat = 0;
};

Place placeOf(const Song& song, const PlannedHit& h) {
  const auto at = h.line ? h.line->at : song.tempo.toTicks(h.home);
  const auto p = song.tempo.position(at);
  const auto beat = static_cast<double>(song.tempo.meterOfBar(p.bar).beatLength().value);
  return {p.bar + 1, p.beat + 1 + static_cast<double>(p.rest.value) / beat};
}

/// "kick+hat 6.2": each drum, with the ms that it comes after the leading one.
std::string strokesText(const Hit& hit, int rate) {
  std::string out;
  for (const auto& s : strokesOf(hit)) {
    if (!out.empty()) out += '+';
    out += kDrumClassNames[static_cast<std::size_t>(s.drum)];
    if (s.at != hit.at) out += ' ' + fixed(msFromFrames(s.at - hit.at, rate), 1);
  }
  return out;
}

}  // namespace

std::string hitsToCsv(const Song& song, const TimingResult& timing) {
  std::string out =
      "take,bar,beat,class,time,now,strength,confidence,guides,before_ms,move_ms,after_ms,by_hand,strokes\r\n";
  for (const auto& h : timing.hits) {
    const auto* take = song.find(h.take);
    const auto place = placeOf(song, h);
    out += quoted(take ? take->name : "") + ',' + std::to_string(place.bar) + ',' + fixed(place.beat, 4) + ',';
    out += kDrumClassNames[static_cast<std::size_t>(h.hit.drum)];
    for (const auto& [value, digits] :
         {std::pair{seconds(h.home, song.rate), 6}, std::pair{seconds(h.now, song.rate), 6},
          std::pair{h.hit.strength, 4}, std::pair{h.hit.confidence, 4}})
      out += ',' + fixed(value, digits);
    out += ',' + quoted(guidesOf(song, h.hit)) + ',';
    const auto move = h.movedMs(song.rate);
    // A hit without a place of its own has nothing to deviate from.
    out +=
        (h.line ? fixed(h.beforeMs, 3) : "") + ',' + fixed(move, 3) + ',' + (h.line ? fixed(h.beforeMs + move, 3) : "");
    out += h.byHand || h.hit.origin == HitOrigin::user ? ",1," : ",0,";
    out += strokesText(h.hit, song.rate) + "\r\n";
  }
  return out;
}

std::string hitsToJson(const Song& song, const TimingResult& timing) {
  Json j{{"orthochron hits", 1}, {"rate", song.rate}, {"hits", Json::array()}};
  for (const auto& h : timing.hits) {
    const auto* take = song.find(h.take);
    const auto place = placeOf(song, h);
    Json guides = Json::array();
    for (const auto& g : h.hit.heardBy)
      if (const auto* track = song.find(g.track)) guides.push_back(track->name);
    Json x{{"take", take ? take->name : ""},
           {"bar", place.bar},
           {"beat", place.beat},
           {"class", kDrumClassNames[static_cast<std::size_t>(h.hit.drum)]},
           {"time", seconds(h.home, song.rate)},
           {"now", seconds(h.now, song.rate)},
           {"strength", h.hit.strength},
           {"confidence", h.hit.confidence},
           {"guides", guides},
           {"before_ms", h.line ? Json(h.beforeMs) : Json()},
           {"move_ms", h.movedMs(song.rate)},
           {"after_ms", h.line ? Json(h.beforeMs + h.movedMs(song.rate)) : Json()},
           {"by_hand", h.byHand || h.hit.origin == HitOrigin::user}};
    for (const auto& s : strokesOf(h.hit))
      x["strokes"].push_back({{"class", kDrumClassNames[static_cast<std::size_t>(s.drum)]},
                              {"time", seconds(h.home + (s.at - h.hit.at), song.rate)},
                              {"strength", s.strength}});
    j["hits"].push_back(std::move(x));
  }
  return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<void> writeHits(const Song& song, const TimingResult& timing, const std::string& name,
                       const std::filesystem::path& file, Outputs& outputs) {
  const auto ending = endingOf(file);
  if (ending == ".csv") return outputs.add(file, hitsToCsv(song, timing));
  if (ending == ".json") return outputs.add(file, hitsToJson(song, timing));
  if (ending == ".mid" || ending == ".midi") return writeHitsMidi(song, timing, name, file, outputs);
  return fail(ErrorKind::badInput, "\"" + file.filename().string() +
                                       "\": hits are not written in this format. Give the file the ending .csv, .json "
                                       "or .mid.");
}

}  // namespace ochron
