#include "document/export_choices.h"

#include "document/kept_list.h"

namespace ochron {
namespace {

std::string_view nameOf(FileFormat format) { return kFileFormatNames[static_cast<std::size_t>(format)]; }

Json toJson(const ExportSettings& s) {
  Json j{{"what", kExportWhatNames[static_cast<std::size_t>(s.what)]},
         {"format", nameOf(s.format)},
         {"also", Json::array()},
         {"depth", kSampleFormatNames[static_cast<std::size_t>(s.samples)]},
         {"dither", s.dither},
         {"quality", s.quality},
         {"rate", s.rate},
         {"mono", s.mono},
         {"names", s.names},
         {"tail", s.tailSeconds},
         {"midi", s.midi},
         {"click", s.click}};
  for (const auto f : s.also) j["also"].push_back(nameOf(f));
  if (s.loudness) j["loudness"] = *s.loudness;
  return j;
}

ExportSettings fromJson(JsonReader& r, const Json& j) {
  constexpr int kHighestRate = 768'000;
  ExportSettings s;
  s.what = static_cast<ExportWhat>(r.choice(j, "what", kExportWhatNames, 0));
  s.format = static_cast<FileFormat>(r.choice(j, "format", kFileFormatNames, 0));
  r.each(j, "also", kFileFormatNames.size(), [&](const Json& x) {
    const auto found =
        std::find(kFileFormatNames.begin(), kFileFormatNames.end(), x.is_string() ? x.get<std::string>() : "");
    if (found == kFileFormatNames.end()) return r.complain("\"also\" holds something that is no format");
    s.also.push_back(static_cast<FileFormat>(found - kFileFormatNames.begin()));
  });
  s.samples = static_cast<SampleFormat>(r.choice(j, "depth", kSampleFormatNames, 1));
  s.dither = r.boolean(j, "dither", false);
  s.quality = r.setting(j, "quality", kQualityRange);
  s.rate = static_cast<int>(r.integer(j, "rate", 0, kHighestRate, 0));
  s.mono = r.boolean(j, "mono", false);
  s.names = r.text(j, "names", "");
  s.tailSeconds = r.setting(j, "tail", kTailRange);
  if (j.contains("loudness")) s.loudness = r.number(j, "loudness", kLoudnessRange);
  s.midi = r.boolean(j, "midi", false);
  s.click = r.boolean(j, "click", false);
  return s;
}

KeptList<ExportSettings>& keptChoices() {
  static KeptList<ExportSettings> list({"exports", "list of export choices", "choices", toJson, fromJson});
  return list;
}

}  // namespace

std::vector<ExportChoices::Kept> ExportChoices::all(QString* problem) {
  std::vector<Kept> out;
  for (const auto& k : keptChoices().all(problem)) out.push_back({k.name, k.value});
  return out;
}

Result<void> ExportChoices::keep(const Kept& choices) { return keptChoices().keep({choices.name, choices.settings}); }
Result<void> ExportChoices::drop(const QString& name) { return keptChoices().drop(name); }

}  // namespace ochron
