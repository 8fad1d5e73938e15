#include "store/foreign_json.h"

#include <algorithm>

namespace ochron {
namespace {

/// The entry of a list with the same id; null when there is none.
template <class List>
auto* entryOf(List& list, const Json& id) {
  const auto found = std::find_if(list.begin(), list.end(),
                                  [&](const Json& x) { return x.is_object() && x.contains("id") && x["id"] == id; });
  return found == list.end() ? nullptr : &*found;
}

class Foreign {
 public:
  std::vector<ForeignKeys::Key> keys;

  void look(const Json& read, const Json& known) {
    if (read.is_object() && known.is_object()) return lookInto(read, known);
    if (!read.is_array() || !known.is_array()) return;
    for (std::size_t i = 0; i < read.size(); ++i) {
      const auto& entry = read[i];
      if (!entry.is_object() || !entry.contains("id")) return;
      const auto& id = entry["id"];
      // Nearly always it stands in the same place.
      const bool here = i < known.size() && known[i].is_object() && known[i].contains("id") && known[i]["id"] == id;
      const auto* there = here ? &known[i] : entryOf(known, id);
      if (!there) continue;
      path_.push_back("#" + id.dump());
      lookInto(entry, *there);
      path_.pop_back();
    }
  }

 private:
  void lookInto(const Json& read, const Json& known) {
    for (const auto& [key, value] : read.items()) {
      path_.push_back(key);
      if (known.contains(key))
        look(value, known[key]);
      else if (path_ != std::vector<std::string>{"continues"})  // says which state an autosaved copy goes on from
        keys.push_back({path_, value.dump()});
      path_.pop_back();
    }
  }

  std::vector<std::string> path_;
};

}  // namespace

std::vector<ForeignKeys::Key> foreignIn(const Json& read, const Json& known) {
  Foreign found;
  found.look(read, known);
  return std::move(found.keys);
}

void putForeign(Json& song, const std::vector<ForeignKeys::Key>& keys) {
  for (const auto& key : keys) {
    Json* at = &song;
    for (std::size_t i = 0; at && i + 1 < key.path.size(); ++i) {
      const auto& step = key.path[i];
      if (step.starts_with('#'))
        at = at->is_array() ? entryOf(*at, Json::parse(step.substr(1), nullptr, false)) : nullptr;
      else
        at = at->is_object() && at->contains(step) ? &(*at)[step] : nullptr;
    }
    if (at && at->is_object() && !at->contains(key.path.back()))
      (*at)[key.path.back()] = Json::parse(key.json, nullptr, false);
  }
}

}  // namespace ochron
