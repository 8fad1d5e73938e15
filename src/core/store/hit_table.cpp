#include "store/hit_table.h"

#include <cstdio>
#include <nlohmann/json.hpp>

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

double moveMs(const PlannedHit& h, int rate) { return static_cast<double>((h.now - h.home).value) * 1000 / rate; }

}  // namespace

std::string hitsToCsv(const Song& song, const TimingResult& timing) {
  std::string out = "take,bar,beat,class,time,now,strength,confidence,guides,before_ms,move_ms,after_ms,by_hand\r\n";
  for (const auto& h : timing.hits) {
    const auto* take = song.find(h.take);
    const auto place = placeOf(song, h);
    char numbers[160];
    out += quoted(take ? take->name : "");
    std::snprintf(numbers, sizeof numbers, ",%d,%.4f,", place.bar, place.beat);
    out += numbers;
    out += kDrumClassNames[static_cast<std::size_t>(h.hit.drum)];
    std::snprintf(numbers, sizeof numbers, ",%.6f,%.6f,%.4f,%.4f,", seconds(h.home, song.rate),
                  seconds(h.now, song.rate), h.hit.strength, h.hit.confidence);
    out += numbers + quoted(guidesOf(song, h.hit));
    if (h.line)
      std::snprintf(numbers, sizeof numbers, ",%.3f,%.3f,%.3f,", h.beforeMs, moveMs(h, song.rate),
                    h.beforeMs + moveMs(h, song.rate));
    else  // no place of its own: nothing to deviate from
      std::snprintf(numbers, sizeof numbers, ",,%.3f,,", moveMs(h, song.rate));
    out += numbers;
    out += h.byHand || h.hit.origin == HitOrigin::user ? "1\r\n" : "0\r\n";
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
           {"move_ms", moveMs(h, song.rate)},
           {"after_ms", h.line ? Json(h.beforeMs + moveMs(h, song.rate)) : Json()},
           {"by_hand", h.byHand || h.hit.origin == HitOrigin::user}};
    j["hits"].push_back(std::move(x));
  }
  return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace ochron
