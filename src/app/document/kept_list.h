#pragma once

#include <QStandardPaths>
#include <QString>
#include <algorithm>
#include <filesystem>
#include <functional>
#include <optional>
#include <vector>

#include "base/result.h"
#include "files/atomic_file.h"
#include "store/json_reader.h"

namespace ochron {

/// Things of the user's own, by name, kept for all songs in one JSON file of the program's data folder.
template <class T>
class KeptList {
 public:
  struct Kept {
    QString name;
    T value;
  };
  struct Manner {
    std::string file;   ///< "fades": of the file and of the list in it
    std::string title;  ///< "library of fades"
    std::string key;    ///< of a value in an entry
    std::function<Json(const T&)> write;
    std::function<T(JsonReader&, const Json&)> read;
  };
  explicit KeptList(Manner manner) : manner_(std::move(manner)) {}

  /// In order of their names. A damaged file is moved aside first, so that it is never overwritten; the sentence says
  /// where it is, and the list begins anew.
  std::vector<Kept> all(QString* problem = nullptr) {
    // Read again when the file is another one than it was.
    std::error_code ec;
    const auto now = std::filesystem::last_write_time(file(), ec);
    if (!ec && readAt_ == now) return last_;
    auto found = read();
    readAt_ = found && !ec ? std::optional(now) : std::nullopt;
    if (found) return last_ = std::move(*found);
    if (problem) *problem = QString::fromStdString(found.error().message);
    return {};
  }
  Result<void> keep(const Kept& fresh) {
    auto found = read();
    if (!found && found.error().kind != ErrorKind::damaged) return tl::unexpected(found.error());
    if (!found) found.emplace();
    std::erase_if(*found, [&](const Kept& k) { return k.name == fresh.name; });
    found->push_back(fresh);
    std::sort(found->begin(), found->end(), [](const Kept& a, const Kept& b) { return a.name < b.name; });
    return write(*found);
  }
  Result<void> drop(const QString& name) {
    auto found = read();
    if (!found) return tl::unexpected(found.error());
    std::erase_if(*found, [&](const Kept& k) { return k.name == name; });
    return write(*found);
  }

 private:
  std::filesystem::path file() const {
    return std::filesystem::path(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation).toStdString()) /
           (manner_.file + ".json");
  }
  Result<std::vector<Kept>> read() const {
    std::vector<Kept> out;
    constexpr std::size_t kMostBytes = 1 << 20;
    constexpr std::size_t kMost = 1000;
    const auto text = readWholeFile(file(), kMostBytes);
    if (!text && text.error().kind == ErrorKind::notFound) return out;
    if (!text) return tl::unexpected(text.error());
    const auto j = Json::parse(*text, nullptr, false);
    JsonReader r;
    r.each(j, manner_.file.c_str(), kMost, [&](const Json& x) {
      Kept k{QString::fromStdString(r.text(x, "name")), {}};
      if (const auto* value = r.member(x, manner_.key.c_str())) k.value = manner_.read(r, *value);
      if (r.ok()) out.push_back(std::move(k));
    });
    if (!j.is_discarded() && r.ok()) return out;
    auto aside = setAside(file());
    if (!aside) return tl::unexpected(aside.error());
    return fail(ErrorKind::damaged,
                "The " + manner_.title + " is damaged. It is at " + aside->string() + " now, and a new one begins.");
  }
  Result<void> write(const std::vector<Kept>& kept) {
    readAt_.reset();
    Json list = Json::array();
    for (const auto& k : kept) list.push_back({{"name", k.name.toStdString()}, {manner_.key, manner_.write(k.value)}});
    std::error_code ec;
    std::filesystem::create_directories(file().parent_path(), ec);
    return writeAtomically(file(), Json{{"orthochron " + manner_.file, 1}, {manner_.file, list}}.dump(1) + "\n");
  }

  Manner manner_;
  std::vector<Kept> last_;
  std::optional<std::filesystem::file_time_type> readAt_;
};

}  // namespace ochron
