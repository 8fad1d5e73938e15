#include "reports/line_table.h"

#include <cmath>
#include <nlohmann/json.hpp>

#include "base/numbers.h"

namespace ochron {
namespace {

using Json = nlohmann::ordered_json;

double midiOf(double hertz) { return 69 + 12 * std::log2(hertz / 440); }

Json annotation(const char* space, Json data, double seconds) {
  return {{"namespace", space},
          {"annotation_metadata", {{"annotation_tools", "orthochron-cli pitch"}, {"data_source", "program"}}},
          {"time", 0},
          {"duration", seconds},
          {"data", std::move(data)}};
}

}  // namespace

std::string notesToCsv(const SungLine& line) {
  std::string out = "start,end,hertz,midi,cents\r\n";
  for (const auto& n : line.notes) {
    const double midi = midiOf(n.hertz);
    out += fixed(n.start, 6) + "," + fixed(n.end, 6) + "," + fixed(n.hertz, 3) + "," + fixed(std::round(midi), 0) +
           "," + fixed(100 * (midi - std::round(midi)), 1) + "\r\n";
  }
  return out;
}

std::string lineToJams(const SungLine& line, const std::string& title, double seconds) {
  Json contour = Json::array();
  for (std::size_t t = 0; t < line.track.values.size(); ++t) {
    const auto& v = line.track.values[t];
    contour.push_back({{"time", PitchTrack::secondsAt(t)},
                       {"duration", PitchTrack::kHop},
                       {"value", {{"index", 0}, {"frequency", v.hertz}, {"voiced", v.sounds()}}},
                       {"confidence", v.voiced}});
  }
  Json notes = Json::array();
  for (const auto& n : line.notes)
    notes.push_back(
        {{"time", n.start}, {"duration", n.end - n.start}, {"value", midiOf(n.hertz)}, {"confidence", nullptr}});
  const Json j{
      {"file_metadata", {{"title", title}, {"duration", seconds}, {"jams_version", "0.3.4"}}},
      {"annotations",
       {annotation("pitch_contour", std::move(contour), seconds), annotation("note_midi", std::move(notes), seconds)}},
      {"sandbox", Json::object()}};
  return j.dump(1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace ochron
