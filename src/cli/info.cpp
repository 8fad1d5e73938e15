#include <memory>
#include <nlohmann/json.hpp>

#include "commands.h"
#include "store/project.h"
#include "take_files.h"

namespace ochron::cli {
namespace {

using Json = nlohmann::ordered_json;

struct InfoOptions {
  std::string file;
  bool json = false;
};

Result<Json> describe(const InfoOptions& o) {
  if (looksLikeProject(o.file)) {
    auto song = openProject(o.file);
    if (!song) return tl::unexpected(song.error());
    std::size_t clips = 0;
    for (const auto& s : song->sets) clips += s.clips->size();
    Json missing = Json::array();
    for (const auto& m : song->media)
      if (std::error_code ec; !std::filesystem::exists(m.path, ec)) missing.push_back(m.path);
    return Json{{"kind", "project"},
                {"name", song->name},
                {"rate", song->rate},
                {"seconds", static_cast<double>(song->end().value) / song->rate},
                {"bpm", song->tempo.bpmAt(Ticks{0})},
                {"takes", song->takes.size()},
                {"tracks", song->tracks.size()},
                {"mic sets", song->sets.size()},
                {"clips", clips},
                {"missing", missing},
                {"autosaved copy", findAutosave(o.file).state == Autosave::State::newer}};
  }
  auto reader = AudioFileReader::open(o.file, Damaged::accept);
  if (!reader) return tl::unexpected(reader.error());
  const auto& i = reader->info();
  Json j{{"kind", "audio"},          {"format", i.formatName},
         {"rate", i.rate},           {"channels", i.channels},
         {"frames", i.length.value}, {"seconds", static_cast<double>(i.length.value) / i.rate}};
  constexpr std::array kNames{"16-bit", "24-bit", "32-bit", "32-bit float", "compressed"};
  j["samples"] = kNames[static_cast<std::size_t>(i.samples)];
  if (i.damage) j["damage"] = *i.damage;
  if (i.timeReference) j["time reference"] = *i.timeReference;
  return j;
}

Result<std::string> run(const InfoOptions& o) {
  auto j = describe(o);
  if (!j) return tl::unexpected(j.error());
  if (o.json) return j->dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
  std::string text;
  for (const auto& [key, value] : j->items())
    text +=
        key + ": " +
        (value.is_string() ? value.get<std::string>() : value.dump(-1, ' ', false, Json::error_handler_t::replace)) +
        "\n";
  return text;
}

}  // namespace

void addInfo(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<InfoOptions>();
  auto* c = app.add_subcommand("info", "What the program knows about an audio file or project");
  c->add_option("FILE", o->file, "audio file or project folder")->required();
  c->add_flag("--json", o->json, "print one JSON document");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
