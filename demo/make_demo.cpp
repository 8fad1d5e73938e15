// Renders the demo song "Low Tide Lanterns" into a folder: one FLAC a mic, the truth about every hit and note, and a
// project that has the hits found and a timing plan set. The same output every time.

#include <cmath>
#include <cstdio>
#include <fstream>
#include <nlohmann/json.hpp>

#include "edits/hit_edits.h"
#include "edits/plan_edits.h"
#include "edits/take_edits.h"
#include "edits/tempo_edits.h"
#include "edits/track_edits.h"
#include "instruments.h"
#include "kit_mics.h"
#include "media/audio_file.h"
#include "score.h"
#include "seams/apply_plan.h"
#include "store/project.h"
#include "takes/detect_hits.h"
#include "takes/mic_names.h"
#include "voice.h"

namespace {

using namespace ochron;
using namespace ochron::demo;
namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

constexpr const char* kSoundfont = "/usr/share/sounds/sf2/FluidR3_GM.sf2";
constexpr const char* kName = "Low Tide Lanterns";

void check(const auto& result) {
  if (result) return;
  std::fprintf(stderr, "make_demo: %s\n", result.error().message.c_str());
  std::exit(2);
}

std::vector<float> playNotes(const std::vector<Note>& notes, int program, Instruments& instruments, std::size_t frames,
                             float level) {
  std::vector<float> out(frames, 0.0f);
  for (const auto& n : notes) {
    const auto sound =
        instruments.note(program, n.midi, n.velocity, static_cast<double>((n.end - n.start).value) / kRate);
    for (std::size_t i = 0; i < sound.size() && static_cast<std::size_t>(n.start.value) + i < frames; ++i)
      out[static_cast<std::size_t>(n.start.value) + i] += sound[i];
  }
  float peak = 0;
  for (const float s : out) peak = std::max(peak, std::abs(s));
  std::uint64_t noise = 2463534242ull;
  for (auto& s : out) {
    noise ^= noise << 13, noise ^= noise >> 7, noise ^= noise << 17;
    s = s * level / peak + 5e-5f * (static_cast<float>(noise >> 40) / 8388608.0f - 1.0f);
  }
  return out;
}

Json truthOf(const Score& score) {
  Json j{{"song", kName},
         {"rate", kRate},
         {"bpm", kBpm},
         {"meter", "4/4"},
         {"bar 1 at frame", score.tempo.origin().value},
         {"ticks a quarter", kTicksPerQuarter}};
  j["hits"] = Json::array();
  for (const auto& s : score.drums) {
    const auto p = score.tempo.position(s.intended);
    j["hits"].push_back({{"frame", s.onset.value},
                         {"class", kDrumClassNames[static_cast<std::size_t>(s.drum)]},
                         {"bar", p.bar + 1},
                         {"beat", p.beat + 1},
                         {"tick", p.rest.value},
                         {"velocity", s.velocity},
                         {"ghost", s.ghost},
                         {"grace", s.grace},
                         {"drift ms", s.driftMs},
                         {"pocket ms", s.pocketMs},
                         {"scatter ms", s.scatterMs}});
  }
  for (const auto& [key, notes] :
       {std::pair{"bass", &score.bass}, std::pair{"guitar", &score.guitar}, std::pair{"voice", &score.voice}}) {
    j[key] = Json::array();
    for (const auto& n : *notes) {
      Json x{{"start", n.start.value}, {"end", n.end.value}, {"tick", n.intended.value}, {"midi", n.midi}};
      if (notes == &score.voice)
        x["cents"] = n.cents, x["vibrato cents"] = n.vibratoCents, x["vibrato hz"] = n.vibratoHz,
        x["scoop cents"] = n.scoopCents;
      j[key].push_back(std::move(x));
    }
  }
  return j;
}

Song makeProject(const Score& score, const std::vector<MicSound>& mics, const fs::path& media, std::size_t frames) {
  Song song;
  song.name = kName;
  song.rate = kRate;
  std::vector<IncomingFile> files;
  std::vector<std::string> names;
  for (const auto& m : mics) {
    const auto path = media / (m.name + ".flac");
    Progress progress;
    auto print = contentId(path, progress);
    check(print);
    files.push_back({m.name,
                     fs::absolute(path).lexically_normal().string(),
                     *print,
                     1,
                     kRate,
                     Frames{static_cast<std::int64_t>(frames)},
                     {},
                     guessRole(m.name)});
    names.push_back(m.name);
  }
  ImportSettings settings;
  settings.takeName = "Take 2";
  settings.sets = {guessDrumKit(names)};
  auto next = importTake(song, files, settings);
  check(next);
  next = setTempoMap(*next, score.tempo);
  check(next);
  const auto set = next->sets.front().id;
  std::vector<MicRole> roles;
  for (auto t : next->sets.front().tracks) roles.push_back(next->find(t)->role);
  std::vector<TrackId> guides;
  for (const int g : guessGuides(roles)) guides.push_back(next->sets.front().tracks[static_cast<std::size_t>(g)]);
  next = setGuides(*next, set, guides);
  check(next);
  const std::vector<std::pair<double, double>> mix{{-4, 0},  {-9, 0},     {-5, 0},    {-14, 0}, {-16, -35}, {-9, -80},
                                                   {-9, 80}, {-15, -100}, {-15, 100}, {-6, 0},  {-13, 25},  {-8, 0}};
  for (std::size_t i = 0; i < next->tracks.size(); ++i)
    next->tracks[i].gainDb = mix[i].first, next->tracks[i].pan = mix[i].second;

  MediaPool pool;
  for (const auto& m : next->media) {
    Progress progress;
    auto decoded =
        decodeMedia(m.path, m.fingerprint, {fs::temp_directory_path() / "orthochron-make-demo", kRate}, progress);
    check(decoded);
    pool[m.id] = *decoded;
  }
  Progress progress;
  auto hits = detectHits(*next, next->takes.front().id, set, pool, progress);
  check(hits);
  next = setDetectedHits(*next, next->takes.front().id, set, *hits);
  check(next);
  TimingPlan plan;
  plan.settings.on = true;
  plan.settings.keepPocket = 100;
  plan.settings.keepScatter = 50;
  next = setTimingPlan(*next, set, plan);
  check(next);
  next = applyTimingPlan(*next, set, pool);
  check(next);
  return *next;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return std::fputs("usage: make_demo FOLDER\n", stderr), 1;
  const fs::path folder = argv[1];
  const auto project = folder / (std::string(kName) + kProjectEnding);
  const auto media = project / "media";
  const auto score = writeScore();
  const auto frames = static_cast<std::size_t>(score.tempo.toFrames(score.tempo.barStart(kBars)).value + kRate);
  Instruments instruments(kSoundfont);
  auto mics = recordKit(score, instruments, frames);
  mics.push_back({"Bass", playNotes(score.bass, 33, instruments, frames, 0.5f)});
  mics.push_back({"Guitar", playNotes(score.guitar, 27, instruments, frames, 0.5f)});
  mics.push_back({"Voice", sing(score.voice, frames)});
  fs::create_directories(media);
  for (const auto& m : mics) {
    auto writer =
        AudioFileWriter::create(media / (m.name + ".flac"), {FileFormat::flac, SampleFormat::pcm16, kRate, 1});
    check(writer);
    check(writer->write(m.samples));
    check(writer->finish());
  }
  std::ofstream(folder / "truth.json") << truthOf(score).dump(1) << "\n";
  check(saveProject(makeProject(score, mics, media, frames), project));
  return 0;
}
