#include "store/effect_states.h"

#include <algorithm>
#include <set>

#include "files/content_id.h"
#include "files/whole_folder.h"
#include "song/insert_place.h"

namespace ochron {
namespace fs = std::filesystem;

Result<void> writeEffectStates(const Song& song, const fs::path& project) {
  Result<void> all;
  eachInsertList(song, [&](const Shared<InsertList>& inserts) {
    for (const auto& i : *inserts)
      if (all && !i.state->files.empty()) all = writeWholeFolder(project / kEffectStates / i.state->id, i.state->files);
  });
  return all;
}

void readEffectStates(Song& song, const fs::path& project) {
  std::map<std::string, Shared<EffectState>> read;
  eachInsertList(song, [&](Shared<InsertList>& inserts) {
    if (std::none_of(inserts->begin(), inserts->end(), [](const Insert& i) { return i.state->missing(); })) return;
    auto list = *inserts;
    for (auto& i : list) {
      if (!i.state->missing() || !isContentId(i.state->id)) continue;
      const auto [at, fresh] = read.try_emplace(i.state->id, i.state);
      if (fresh) {
        auto files = readWholeFolder(project / kEffectStates / i.state->id, kMostEffectFiles, kLargestEffectState);
        if (files && contentId(*files) == i.state->id) at->second = EffectState{i.state->id, std::move(*files)};
      }
      i.state = at->second;
    }
    inserts = std::move(list);
  });
}

void eachStateFile(const Song& song, const std::function<void(const std::string&, const std::string&)>& f) {
  std::set<std::string> done;
  eachInsertList(song, [&](const Shared<InsertList>& inserts) {
    for (const auto& i : *inserts)
      if (i.state->any() && done.insert(i.state->id).second)
        for (const auto& [name, bytes] : i.state->files)
          f(std::string(kEffectStates) + "/" + i.state->id + "/" + name, bytes);
  });
}

}  // namespace ochron
