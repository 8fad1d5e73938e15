#include "document/fade_library.h"

#include <cmath>

#include "document/kept_list.h"
#include "store/clip_json.h"

namespace ochron {
namespace {

KeptList<Fade>& keptFades() {
  static KeptList<Fade> list({"fades", "library of fades", "fade", fadeToJson, readFade});
  return list;
}

}  // namespace

Fade FadeLibrary::Kept::inSong(int rate) const {
  Fade out = fade;
  out.length = Frames{std::llround(static_cast<double>(fade.length.value) * rate / kRate)};
  return out;
}

FadeLibrary::Kept FadeLibrary::Kept::ofSong(const QString& name, Fade fade, int rate) {
  fade.length = Frames{std::llround(static_cast<double>(fade.length.value) * kRate / rate)};
  return {name, fade};
}

std::vector<FadeLibrary::Kept> FadeLibrary::fades(QString* problem) {
  std::vector<Kept> out;
  for (const auto& k : keptFades().all(problem)) out.push_back({k.name, k.value});
  return out;
}

Result<void> FadeLibrary::keep(const Kept& fade) { return keptFades().keep({fade.name, fade.fade}); }
Result<void> FadeLibrary::drop(const QString& name) { return keptFades().drop(name); }

}  // namespace ochron
