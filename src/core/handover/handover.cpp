#include "handover/handover.h"

#include <unistd.h>

#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>
#include <set>

#include "base/numbers.h"
#include "edits/mark_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"
#include "edits/track_edits.h"
#include "files/atomic_file.h"
#include "files/content_id.h"
#include "files/file_names.h"
#include "handover/session.h"
#include "kit/layer_sounds.h"
#include "media/audio_file.h"
#include "render/export.h"
#include "song/insert_place.h"
#include "song/layer_strokes.h"
#include "song/ranges.h"
#include "store/gather.h"
#include "store/midi_file.h"
#include "store/sfz_file.h"
#include "takes/mic_names.h"
#include "time/grid.h"

namespace ochron {
namespace fs = std::filesystem;
namespace {

constexpr const char* kSession = "session.json";
constexpr const char* kText = "session.txt";
constexpr const char* kSums = "checksums.txt";
constexpr const char* kSchema = "session.schema.json";
constexpr std::size_t kLargestSession = std::size_t{256} << 20;

/// Where the files begin: bar 1, or the bar in which something begins earlier.
Frames beginningOf(const Song& song) {
  Frames first = song.tempo.origin();
  for (const auto& s : song.sets)
    if (!s.clips->empty()) first = std::min(first, s.clips->front().start);
  return song.tempo.toFrames(song.tempo.barStart(song.tempo.barAt(first)));
}

Result<void> writeLayers(const Song& song, const MediaPool& pool, const fs::path& folder, Outputs& outputs) {
  for (const auto& layer : song.layers) {
    if (strokesOf(song, layer).empty()) continue;
    const auto name = fileNameFor(layer.name, "layer");
    const auto home = folder / "layers" / name;
    if (auto ok = writeLayerMidi(song, layer, home / (name + ".mid"), outputs); !ok) return ok;
    std::vector<SfzSound> sounds;
    for (std::size_t i = 0; i < layer.sounds->sounds.size(); ++i) {
      const auto& s = layer.sounds->sounds[i];
      const auto found = pool.find(s.media);
      if (found == pool.end()) continue;
      const auto& media = *found->second;
      const auto file = "sound " + std::to_string(i + 1) + ".wav";
      std::vector<Samples> sides;
      for (int c = 0; c < media.channels(); ++c) sides.push_back(sideOf(s, media, c));
      auto writer = AudioFileWriter::create(
          outputs, home / file,
          {FileFormat::wav, SampleFormat::float32, song.rate, media.channels(), Frames{std::ssize(sides.front())}});
      if (!writer) return tl::unexpected(writer.error());
      if (auto ok = writer->writeChannels(sides); !ok) return ok;
      if (auto ok = writer->finish(); !ok) return ok;
      sounds.push_back({file, 60, static_cast<int>(std::lround(1 + s.low * 126)),
                        static_cast<int>(std::lround(1 + s.high * 126)), s.gainDb, s.pan, s.cents, 0});
    }
    if (auto ok = outputs.add(home / (name + ".sfz"), sfzText(sounds)); !ok) return ok;
  }
  return {};
}

Result<void> copyRecordings(const Song& song, const fs::path& folder, Progress& progress) {
  std::error_code ec;
  fs::create_directories(folder / "recordings", ec);  // where it failed, the first copy says so
  std::set<std::string> used;
  std::size_t done = 0;
  for (const auto& m : song.media) {
    const auto ending = fs::path(m.path).extension().string();
    auto name = fileNameFor(m.name, "recording");
    for (int n = 2; !used.insert(name + ending).second; ++n) name = fileNameFor(m.name) + " " + std::to_string(n);
    progress.beginPart(done++, song.media.size());
    if (auto ok = copyRecording(m, folder / "recordings" / (name + ending), progress); !ok) return ok;
  }
  return {};
}

/// Every file of a folder but the checksums, by its path in it.
std::vector<std::string> filesIn(const fs::path& folder) {
  std::vector<std::string> out;
  std::error_code ec;
  for (const auto& e : fs::recursive_directory_iterator(folder, ec))
    if (e.is_regular_file(ec)) out.push_back(e.path().lexically_relative(folder).string());
  std::erase(out, kSums);
  std::sort(out.begin(), out.end());
  return out;
}

Result<std::string> sumsOf(const fs::path& folder, Progress& progress) {
  std::string out;
  for (const auto& file : filesIn(folder)) {
    const auto id = contentId(folder / file, progress);
    if (!id) return tl::unexpected(id.error());
    out += *id + "  " + file + "\n";
  }
  return out;
}

/// A folder under way: gone again unless it is put in its place.
struct Building {
  fs::path path;
  explicit Building(fs::path p) : path(std::move(p)) {}
  ~Building() {
    std::error_code ec;
    if (!path.empty()) fs::remove_all(path, ec);
  }
  Building(const Building&) = delete;
  Building& operator=(const Building&) = delete;
};

Result<SessionJson> sessionOf(const fs::path& folder) {
  const auto text = readWholeFile(folder / kSession, kLargestSession);
  const auto refuse = [&](const std::string& why) {
    return fail(ErrorKind::badInput, shownPath(folder) + " is no hand-over folder: " + why + ".");
  };
  if (!text) return refuse("there is no session.json in it that can be read");
  auto j = SessionJson::parse(*text, nullptr, false);
  if (j.is_discarded() || !j.is_object() || !j.contains(kSessionKey)) return refuse("its session.json is another file");
  if (!j[kSessionKey].is_number_integer() || j[kSessionKey].get<int>() > kSessionFormat)
    return refuse("it was made by a newer version of Orthochron");
  const bool whole = j.contains("rate") && j["rate"].is_number_integer() && j.contains("tracks") &&
                     j["tracks"].is_array() && j.contains("tempo") && j["tempo"].is_object() &&
                     std::all_of(j["tracks"].begin(), j["tracks"].end(), [](const SessionJson& t) {
                       return t.is_object() && t.contains("file") && t["file"].is_string() && t.contains("name") &&
                              t["name"].is_string();
                     });
  if (!whole) return refuse("its session.json is damaged");
  return j;
}

/// Inside the folder, whatever the session says.
bool staysInside(const std::string& file) {
  const auto path = fs::path(file).lexically_normal();
  return !file.empty() && path.is_relative() && *path.begin() != "..";
}

Result<TempoMap> tempoOf(const SessionJson& j, int rate) {
  const auto bad = [] { return fail(ErrorKind::badInput, "The session's tempo map is damaged."); };
  const auto& t = j["tempo"];
  if (!t.contains("bar_1_at") || !t["bar_1_at"].is_number() || !t.contains("tempos") || !t.contains("meters"))
    return bad();
  std::vector<TempoEvent> tempos;
  for (const auto& x : t["tempos"]) {
    if (!x.is_object() || !x.contains("ticks") || !x["ticks"].is_number_integer() || !x.contains("bpm") ||
        !x["bpm"].is_number())
      return bad();
    tempos.push_back({Ticks{x["ticks"].get<std::int64_t>()}, x["bpm"].get<double>(), x.value("ramp", false)});
  }
  std::vector<MeterEvent> meters;
  for (const auto& x : t["meters"]) {
    const auto meter = x.is_object() && x.contains("meter") && x["meter"].is_string()
                           ? parseMeter(x["meter"].get<std::string>())
                           : Result<Meter>(bad());
    if (!meter || !x.contains("bar") || !x["bar"].is_number_integer()) return bad();
    meters.push_back({x["bar"].get<int>() - 1, *meter});
  }
  const double origin = t["bar_1_at"].get<double>() * rate;
  if (!(std::abs(origin) < static_cast<double>(kFarthest.value))) return bad();
  return TempoMap::make(rate, Frames{std::llround(origin)}, std::move(tempos), std::move(meters));
}

}  // namespace

Result<HandoverReport> writeHandover(const Song& song, const MediaPool& pool, const RenderPlan& plan,
                                     const std::map<SetId, TimingResult>& timing, const fs::path& folder,
                                     const HandoverSettings& settings, Progress& progress) {
  std::error_code ec;
  const auto target = fs::absolute(folder).lexically_normal();
  if (fs::exists(target, ec) && !(fs::is_directory(target, ec) && fs::is_empty(target, ec)))
    return fail(ErrorKind::refused,
                shownPath(folder) + " is there already and is not empty. Choose another name, or empty it first.");
  for (const auto& m : song.media)
    if (!pool.contains(m.id))
      return fail(ErrorKind::notFound, "The hand-over would have holes: " + m.path + " is not at hand.");
  const Building under(target.parent_path() /
                       ("." + target.filename().string() + ".part-" + std::to_string(::getpid())));
  fs::create_directories(under.path, ec);
  if (ec)
    return fail(ErrorKind::ioFailed, shownPath(folder) + " could not be made. Choose a place that you may write to.",
                ec.message());
  HandoverReport report;
  Outputs outputs;
  const auto begin = beginningOf(song);
  ExportSettings stems;
  stems.what = ExportWhat::tracks;
  stems.samples = SampleFormat::float32;
  stems.range = {begin, song.end()};
  auto written = exportSong(song, plan, stems, under.path / "tracks", outputs, progress);
  if (!written) return tl::unexpected(written.error());
  report.beyondFullScale = written->clippedSamples;
  std::map<TrackId, std::string> files;
  const auto listed = exportStems(song, stems, "tracks");
  if (!listed) return tl::unexpected(listed.error());
  for (const auto& stem : *listed) files[stem.tracks.front()] = stem.files.front().file.string();
  if (auto ok = writeSongMidi(song, timing, pool, song.tempo, begin, under.path / kSessionMidi, outputs); !ok)
    return tl::unexpected(ok.error());
  if (auto ok = writeLayers(song, pool, under.path, outputs); !ok) return tl::unexpected(ok.error());
  const auto session = sessionJson(song, begin, files);
  if (auto ok =
          outputs.add(under.path / kSession, session.dump(1, ' ', false, SessionJson::error_handler_t::replace) + "\n");
      !ok)
    return tl::unexpected(ok.error());
  if (auto ok = outputs.add(under.path / kSchema, std::string(sessionSchema())); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.add(under.path / kText, sessionText(session)); !ok) return tl::unexpected(ok.error());
  if (auto ok = outputs.commit(); !ok) return tl::unexpected(ok.error());
  if (settings.recordings)
    if (auto ok = copyRecordings(song, under.path, progress); !ok) return tl::unexpected(ok.error());
  const auto sums = sumsOf(under.path, progress);
  if (!sums) return tl::unexpected(sums.error());
  if (auto ok = writeAtomically(under.path / kSums, *sums); !ok) return tl::unexpected(ok.error());
  if (progress.cancelled()) return cancelledError();
  report.files = filesIn(under.path).size() + 1;
  if (fs::exists(target, ec)) fs::remove(target, ec);  // empty
  fs::rename(under.path, target, ec);
  if (ec)
    return fail(ErrorKind::ioFailed, shownPath(folder) + " could not be put in its place. Check the folder above it.",
                ec.message());
  return report;
}

Result<std::vector<std::string>> checkHandover(const fs::path& folder, Progress& progress) {
  const auto session = sessionOf(folder);
  if (!session) return tl::unexpected(session.error());
  std::vector<std::string> wrong;
  const auto sums = readWholeFile(folder / kSums, kLargestSession);
  if (!sums) return wrong.push_back("checksums.txt is missing: nothing can be held against it."), wrong;
  std::map<std::string, std::string> listed;
  std::string_view rest = *sums;
  while (!rest.empty()) {
    const auto end = std::min(rest.find('\n'), rest.size());
    const auto line = rest.substr(0, end);
    rest.remove_prefix(std::min(end + 1, rest.size()));
    const auto gap = line.find("  ");
    if (gap != std::string_view::npos) listed[std::string(line.substr(gap + 2))] = std::string(line.substr(0, gap));
  }
  for (const auto& [file, sum] : listed) {
    if (progress.cancelled()) return cancelledError();
    if (!staysInside(file)) {
      wrong.push_back("checksums.txt names " + file + ", which does not lie in the folder.");
      continue;
    }
    const auto id = contentId(folder / file, progress);
    if (!id)
      wrong.push_back(file + " is missing or cannot be read.");
    else if (*id != sum)
      wrong.push_back(file + " is not what was handed over: its content has changed.");
  }
  for (const auto& file : filesIn(folder))
    if (!listed.contains(file)) wrong.push_back(file + " was not handed over: checksums.txt does not name it.");
  const int rate = (*session)["rate"].get<int>();
  std::optional<Frames> length;
  for (const auto& t : (*session)["tracks"]) {
    const auto file = t["file"].get<std::string>();
    if (!staysInside(file)) {
      wrong.push_back("The session names " + file + ", which does not lie in the folder.");
      continue;
    }
    const auto reader = AudioFileReader::open(folder / file);
    if (!reader) {
      wrong.push_back(reader.error().message);
      continue;
    }
    if (reader->info().rate != rate)
      wrong.push_back(file + " runs at " + std::to_string(reader->info().rate) + " Hz, the session at " +
                      std::to_string(rate) + " Hz.");
    if (length && reader->info().length != *length) wrong.push_back(file + " is not as long as the other tracks.");
    if (!length) length = reader->info().length;
  }
  if (const auto map = tempoOf(*session, rate); !map) wrong.push_back(map.error().message);
  return wrong;
}

Result<Song> songOfHandover(const fs::path& folder, Progress& progress) {
  auto wrong = checkHandover(folder, progress);
  if (!wrong) return tl::unexpected(wrong.error());
  if (!wrong->empty()) return fail(ErrorKind::badInput, shownPath(folder) + ": " + wrong->front());
  const auto session = sessionOf(folder);
  if (!session) return tl::unexpected(session.error());
  const auto& j = *session;
  Song song;
  song.name = j.contains("song") && j["song"].is_string() ? j["song"].get<std::string>() : "Untitled";
  song.rate = j["rate"].get<int>();
  std::vector<IncomingFile> files;
  for (const auto& t : j["tracks"]) {
    const auto path = fs::absolute(folder / t["file"].get<std::string>()).lexically_normal();
    const auto reader = AudioFileReader::open(path);
    if (!reader) return tl::unexpected(reader.error());
    const auto id = contentId(path, progress);
    if (!id) return tl::unexpected(id.error());
    const auto name = t["name"].get<std::string>();
    IncomingFile f{name, path.string(),  *id, reader->info().channels, reader->info().rate, reader->info().length,
                   {},   guessRole(name)};
    if (t.contains("role") && t["role"].is_string()) {
      const auto role = std::find(kMicRoleNames.begin(), kMicRoleNames.end(), t["role"].get<std::string>());
      if (role != kMicRoleNames.end()) f.role = static_cast<MicRole>(role - kMicRoleNames.begin());
    }
    files.push_back(std::move(f));
  }
  if (files.empty()) return fail(ErrorKind::badInput, shownPath(folder) + ": there is no track in it.");
  ImportSettings settings;
  settings.takeName = song.name;
  settings.honourTimeReference = false;
  std::map<std::string, std::vector<int>> sets;
  for (std::size_t i = 0; i < files.size(); ++i)
    if (const auto& t = j["tracks"][i]; t.contains("mic_set") && t["mic_set"].is_string() && !t.contains("layer_of"))
      sets[t["mic_set"].get<std::string>()].push_back(static_cast<int>(i));
  for (auto& [name, members] : sets)
    if (members.size() > 1) settings.sets.push_back(std::move(members));
  auto next = importTake(song, files, settings);
  const auto map = tempoOf(j, song.rate);
  if (!map) return tl::unexpected(map.error());
  if (next) next = setTempoMap(*next, *map);
  if (!next) return next;
  const auto mics = next->takes.back().mics;
  for (std::size_t i = 0; i < files.size(); ++i)
    for (auto& track : next->tracks) {
      const bool plays = std::any_of(mics.begin(), mics.end(), [&](const TakeMic& m) {
        return m.track == track.id && next->find(m.media)->path == files[i].path;
      });
      if (!plays) continue;
      const auto& t = j["tracks"][i];
      track.gainDb =
          kGainRange.clamp(t.contains("gain_db") && t["gain_db"].is_number() ? t["gain_db"].get<double>() : 0);
      track.pan = kPanRange.clamp(t.contains("pan") && t["pan"].is_number() ? t["pan"].get<double>() : 0);
      track.muted = t.contains("muted") && t["muted"].is_boolean() && t["muted"].get<bool>();
    }
  if (j.contains("markers") && j["markers"].is_array())
    for (const auto& m : j["markers"]) {
      const bool whole = m.is_object() && m.contains("ticks") && m["ticks"].is_number_integer() && m.contains("name") &&
                         m["name"].is_string();
      if (!whole) continue;
      const Ticks length{m.contains("length_ticks") && m["length_ticks"].is_number_integer()
                             ? m["length_ticks"].get<std::int64_t>()
                             : 0};
      next = addMarker(*next, Ticks{m["ticks"].get<std::int64_t>()}, length, m["name"].get<std::string>());
      if (!next) return next;
    }
  if (const auto broken = brokenRules(*next); !broken.empty())
    return fail(ErrorKind::badInput, shownPath(folder) + ": its session cannot become a song: " + broken.front() + ".");
  return next;
}

}  // namespace ochron
