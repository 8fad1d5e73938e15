#include "document/fade_library.h"

#include <QStandardPaths>
#include <algorithm>

#include "store/clip_json.h"
#include "store/project.h"

namespace ochron {
namespace {

std::filesystem::path file() {
  return std::filesystem::path(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation).toStdString()) /
         "fades.json";
}

Result<void> write(const std::vector<FadeLibrary::Kept>& fades) {
  Json list = Json::array();
  for (const auto& f : fades) list.push_back({{"name", f.name.toStdString()}, {"fade", fadeToJson(f.fade)}});
  std::error_code ec;
  std::filesystem::create_directories(file().parent_path(), ec);
  return writeAtomically(file(), Json{{"orthochron fades", 1}, {"fades", list}}.dump(1) + "\n");
}

}  // namespace

std::vector<FadeLibrary::Kept> FadeLibrary::fades() {
  std::vector<Kept> out;
  constexpr std::size_t kMost = 1 << 20;
  const auto text = readWholeFile(file(), kMost);
  if (!text) return out;
  const auto j = Json::parse(*text, nullptr, false);
  if (j.is_discarded()) return out;
  JsonReader r;
  r.each(j, "fades", 1000, [&](const Json& x) {
    Kept k{QString::fromStdString(r.text(x, "name")), {}};
    if (const auto* f = r.member(x, "fade")) k.fade = readFade(r, *f);
    if (r.ok()) out.push_back(std::move(k));
  });
  return out;
}

Result<void> FadeLibrary::keep(const Kept& fade) {
  auto all = fades();
  std::erase_if(all, [&](const Kept& k) { return k.name == fade.name; });
  all.push_back(fade);
  std::sort(all.begin(), all.end(), [](const Kept& a, const Kept& b) { return a.name < b.name; });
  return write(all);
}

Result<void> FadeLibrary::drop(const QString& name) {
  auto all = fades();
  std::erase_if(all, [&](const Kept& k) { return k.name == name; });
  return write(all);
}

}  // namespace ochron
