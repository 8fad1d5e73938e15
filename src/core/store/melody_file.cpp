#include "store/melody_file.h"

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>

#include "base/numbers.h"
#include "base/text.h"
#include "files/atomic_file.h"
#include "media/midi_reader.h"

namespace ochron {
namespace {

using Notes = std::vector<SungNote>;

constexpr std::size_t kLargestMelody = std::size_t{64} << 20;
constexpr std::size_t kMostNotes = 100'000;
constexpr double kLatest = 360'000;  // s
constexpr double kLowest = 8;        // Hz: the lowest key there is
constexpr double kHighest = 13'000;
constexpr double kChord = 0.02;  // s that two notes begin apart at least

double hertzOfKey(double key) { return 440 * std::exp2((key - 69) / 12); }

tl::unexpected<Error> refusal(const std::string& name, const std::string& why) {
  return fail(ErrorKind::badInput, name + " cannot be read as a melody: " + why +
                                       " Give a MIDI file of one line, or its notes as CSV (start,end,hertz) or JAMS.");
}

Result<Notes> inOrder(Notes notes, const std::string& name) {
  if (notes.empty()) return refusal(name, "it holds no note.");
  if (notes.size() > kMostNotes) return refusal(name, "it holds more than 100000 notes.");
  for (const auto& n : notes) {
    if (!(n.start >= 0 && n.end > n.start && n.end <= kLatest))
      return refusal(name, "a note does not last from one place to a later one, within 0 to 360000 seconds.");
    if (!(n.hertz >= kLowest && n.hertz <= kHighest)) return refusal(name, "a pitch is not 8 to 13000 Hz.");
  }
  std::stable_sort(notes.begin(), notes.end(), [](const SungNote& a, const SungNote& b) { return a.start < b.start; });
  for (std::size_t i = 0; i + 1 < notes.size(); ++i) {
    if (notes[i + 1].start - notes[i].start < kChord)
      return refusal(name, "two notes begin together at " + fixed(notes[i].start, 3) + " s.");
    notes[i].end = std::min(notes[i].end, notes[i + 1].start);
  }
  return notes;
}

Result<Notes> fromMidi(std::string_view bytes, const std::string& name) {
  const auto midi = readMidi(bytes, name + " cannot be read as a melody");
  if (!midi) return tl::unexpected(midi.error());
  Notes out;
  for (const auto& n : midi->notes) {
    if (n.channel == MidiFile::kPercussion || n.end <= n.at) continue;
    out.push_back({midi->seconds(n.at), midi->seconds(n.end), hertzOfKey(n.key + n.bend)});
  }
  return inOrder(std::move(out), name);
}

std::vector<std::string_view> cellsOf(std::string_view row) {
  std::vector<std::string_view> out;
  while (true) {
    const auto end = row.find_first_of(",;\t");
    out.push_back(trimmed(row.substr(0, end)));
    if (end == std::string_view::npos) return out;
    row.remove_prefix(end + 1);
  }
}

/// Which cell of a row is what.
struct Columns {
  static constexpr std::size_t kNone = static_cast<std::size_t>(-1);
  std::size_t start = 0, end = 1, hertz = 2, midi = kNone, cents = kNone;

  static std::optional<Columns> named(const std::vector<std::string_view>& heading) {
    const auto at = [&](std::string_view word) {
      const auto found = std::find(heading.begin(), heading.end(), word);
      return found == heading.end() ? kNone : static_cast<std::size_t>(found - heading.begin());
    };
    const Columns c{at("start"), at("end"), at("hertz"), at("midi"), at("cents")};
    if (c.start == kNone || c.end == kNone || (c.hertz == kNone && c.midi == kNone)) return {};
    return c;
  }

  std::optional<SungNote> note(const std::vector<std::string_view>& row) const {
    const auto cell = [&](std::size_t i) { return i < row.size() ? parseNumber(row[i]) : std::nullopt; };
    const auto from = cell(start);
    const auto to = cell(end);
    const auto pitch = cell(hertz != kNone ? hertz : midi);
    if (!from || !to || !pitch) return {};
    if (hertz != kNone) return SungNote{*from, *to, *pitch};
    return SungNote{*from, *to, hertzOfKey(*pitch + cell(cents).value_or(0) / 100)};
  }
};

Result<Notes> fromCsv(std::string_view text, const std::string& name) {
  Notes out;
  Columns columns;
  for (std::size_t line = 1; !text.empty(); ++line) {
    const auto end = std::min(text.find('\n'), text.size());
    const auto cells = cellsOf(trimmed(text.substr(0, end)));
    text.remove_prefix(std::min(end + 1, text.size()));
    if (cells.size() == 1 && cells[0].empty()) continue;
    if (const auto named = line == 1 ? Columns::named(cells) : std::nullopt) {
      columns = *named;
    } else if (const auto note = columns.note(cells)) {
      out.push_back(*note);
    } else {
      return refusal(name, "line " + std::to_string(line) + " is no note.");
    }
  }
  return inOrder(std::move(out), name);
}

std::optional<double> numberIn(const nlohmann::json& object, const char* key) {
  const auto found = object.find(key);
  return found != object.end() && found->is_number() ? std::optional(found->get<double>()) : std::nullopt;
}

/// Of JAMS, or of what the command line prints.
Result<Notes> fromJson(std::string_view text, const std::string& name) {
  const auto j = nlohmann::json::parse(text, nullptr, false);
  if (!j.is_object()) return refusal(name, "it is no JSON.");
  Notes out;
  const auto add = [&](std::optional<double> start, std::optional<double> end, std::optional<double> hertz) {
    if (start && end && hertz) out.push_back({*start, *end, *hertz});
    return start && end && hertz;
  };
  if (const auto notes = j.find("notes"); notes != j.end() && notes->is_array()) {
    for (const auto& n : *notes)
      if (!n.is_object() || !add(numberIn(n, "start"), numberIn(n, "end"), numberIn(n, "hz")))
        return refusal(name, "a note has no start, end and hz.");
    return inOrder(std::move(out), name);
  }
  const auto annotations = j.find("annotations");
  if (annotations == j.end() || !annotations->is_array()) return refusal(name, "it holds no annotations.");
  for (const auto& a : *annotations) {
    if (!a.is_object() || !a.contains("namespace") || !a.contains("data") || !a["data"].is_array()) continue;
    const bool keys = a["namespace"] == "note_midi";
    if (!keys && a["namespace"] != "note_hz") continue;
    for (const auto& n : a["data"]) {
      if (!n.is_object()) return refusal(name, "an observation is no note.");
      const auto at = numberIn(n, "time");
      const auto lasts = numberIn(n, "duration");
      auto value = numberIn(n, "value");
      if (value && keys) value = hertzOfKey(*value);
      if (!add(at, at && lasts ? std::optional(*at + *lasts) : std::nullopt, value))
        return refusal(name, "an observation has no time, duration and value.");
    }
    return inOrder(std::move(out), name);
  }
  return refusal(name, "it holds no note_midi or note_hz annotation.");
}

}  // namespace

Result<Notes> loadMelody(const std::filesystem::path& file) {
  auto text = readWholeFile(file, kLargestMelody);
  if (!text) return tl::unexpected(text.error());
  return melodyFromText(*text, file.string());
}

Result<Notes> melodyFromText(std::string_view text, const std::string& name) {
  constexpr std::string_view kByteOrderMark = "\xef\xbb\xbf";  // as spreadsheets write it
  if (text.starts_with(kByteOrderMark)) text.remove_prefix(kByteOrderMark.size());
  if (text.starts_with("MThd")) return fromMidi(text, name);
  const auto begins = text.find_first_not_of(" \t\r\n");
  if (begins != std::string_view::npos && text[begins] == '{') return fromJson(text, name);
  return fromCsv(text, name);
}

}  // namespace ochron
