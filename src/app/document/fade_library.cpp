#include "document/fade_library.h"

#include <QStandardPaths>
#include <algorithm>
#include <cmath>
#include <optional>

#include "files/atomic_file.h"
#include "store/clip_json.h"

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

Fade FadeLibrary::Kept::inSong(int rate) const {
  Fade out = fade;
  out.length = Frames{std::llround(static_cast<double>(fade.length.value) * rate / kRate)};
  return out;
}

FadeLibrary::Kept FadeLibrary::Kept::ofSong(const QString& name, Fade fade, int rate) {
  fade.length = Frames{std::llround(static_cast<double>(fade.length.value) * kRate / rate)};
  return {name, fade};
}

Result<std::vector<FadeLibrary::Kept>> FadeLibrary::read() {
  std::vector<Kept> out;
  constexpr std::size_t kMost = 1 << 20;
  const auto text = readWholeFile(file(), kMost);
  if (!text && text.error().kind == ErrorKind::notFound) return out;
  if (!text) return tl::unexpected(text.error());
  const auto j = Json::parse(*text, nullptr, false);
  JsonReader r;
  r.each(j, "fades", 1000, [&](const Json& x) {
    Kept k{QString::fromStdString(r.text(x, "name")), {}};
    if (const auto* f = r.member(x, "fade")) k.fade = readFade(r, *f);
    if (r.ok()) out.push_back(std::move(k));
  });
  if (!j.is_discarded() && r.ok()) return out;
  auto aside = setAside(file());
  if (!aside) return tl::unexpected(aside.error());
  return fail(ErrorKind::damaged,
              "The library of fades is damaged. It is at " + aside->string() + " now, and a new one begins.");
}

std::vector<FadeLibrary::Kept> FadeLibrary::fades(QString* problem) {
  // Read again when the file is another one than it was.
  static std::vector<Kept> last;
  static std::optional<std::filesystem::file_time_type> readAt;
  std::error_code ec;
  const auto now = std::filesystem::last_write_time(file(), ec);
  if (!ec && readAt == now) return last;
  auto all = read();
  readAt = all && !ec ? std::optional(now) : std::nullopt;
  if (all) return last = std::move(*all);
  if (problem) *problem = QString::fromStdString(all.error().message);
  return {};
}

Result<void> FadeLibrary::keep(const Kept& fade) {
  auto all = read();
  if (!all && all.error().kind != ErrorKind::damaged) return tl::unexpected(all.error());
  if (!all) all.emplace();
  std::erase_if(*all, [&](const Kept& k) { return k.name == fade.name; });
  all->push_back(fade);
  std::sort(all->begin(), all->end(), [](const Kept& a, const Kept& b) { return a.name < b.name; });
  return write(*all);
}

Result<void> FadeLibrary::drop(const QString& name) {
  auto all = read();
  if (!all) return tl::unexpected(all.error());
  std::erase_if(*all, [&](const Kept& k) { return k.name == name; });
  return write(*all);
}

}  // namespace ochron
