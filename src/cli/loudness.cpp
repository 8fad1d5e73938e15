#include <memory>
#include <nlohmann/json.hpp>

#include "commands.h"
#include "media/audio_file.h"
#include "number_option.h"
#include "render/loudness_meter.h"

namespace ochron::cli {
namespace {

struct LoudnessOptions {
  std::vector<std::string> inputs;
  bool json = false;
  bool curve = false;
  bool acceptDamaged = false;
};

Result<LoudnessReport> measure(const std::string& file, Damaged damaged) {
  auto reader = AudioFileReader::open(file, damaged);
  if (!reader) return tl::unexpected(reader.error());
  constexpr std::size_t kFrames = 16'384;
  const auto wide = static_cast<std::size_t>(reader->info().channels);
  LoudnessMeter meter(reader->info().rate, reader->info().channels);
  std::vector<float> block(kFrames * wide);
  while (true) {
    const auto read = reader->read(block);
    if (!read) return tl::unexpected(read.error());
    meter.add(std::span(block).first(static_cast<std::size_t>(*read) * wide));
    if (static_cast<std::size_t>(*read) < kFrames) return meter.report();
  }
}

nlohmann::ordered_json valueOf(const std::optional<double>& v) { return v ? nlohmann::ordered_json(*v) : nullptr; }

std::string textOf(const std::optional<double>& v, const char* unit) {
  return v ? fixed(*v, 1) + " " + unit : std::string("none");
}

Result<std::string> run(const LoudnessOptions& o) {
  nlohmann::ordered_json j{{"files", nlohmann::ordered_json::array()}};
  std::string text;
  for (const auto& file : o.inputs) {
    const auto r = measure(file, o.acceptDamaged ? Damaged::accept : Damaged::refuse);
    if (!r) return tl::unexpected(r.error());
    nlohmann::ordered_json x{{"file", file},
                             {"integrated", valueOf(r->integrated)},
                             {"short_term", valueOf(r->shortTerm)},
                             {"momentary", valueOf(r->momentary)},
                             {"range", valueOf(r->range)},
                             {"true_peak", valueOf(r->truePeak)}};
    if (o.curve)
      for (const auto& p : r->curve) x["curve"].push_back({p.seconds, valueOf(p.momentary), valueOf(p.shortTerm)});
    j["files"].push_back(std::move(x));
    text += file + ": " + textOf(r->integrated, "LUFS") + ", short-term at most " + textOf(r->shortTerm, "LUFS") +
            ", momentary at most " + textOf(r->momentary, "LUFS") + ", range " + textOf(r->range, "LU") +
            ", true peak " + textOf(r->truePeak, "dBTP") + "\n";
  }
  return o.json ? j.dump() + "\n" : text;
}

}  // namespace

void addLoudness(CLI::App& app, Command& chosen) {
  auto o = std::make_shared<LoudnessOptions>();
  auto* c = app.add_subcommand("loudness", "Measure loudness and true peak of audio files (EBU R 128)");
  c->add_option("FILE", o->inputs, "audio files")->required();
  auto* json = c->add_flag("--json", o->json, "print one JSON document");
  c->add_flag("--curve", o->curve, "with every 100 ms: seconds, momentary, short-term")->needs(json);
  c->add_flag("--accept-damaged", o->acceptDamaged, "use what can be read of damaged files");
  c->callback([o, &chosen] { chosen = [o] { return run(*o); }; });
}

}  // namespace ochron::cli
