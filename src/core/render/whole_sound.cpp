#include "render/whole_sound.h"

#include "effects/catalog.h"
#include "render/tuned_takes.h"

namespace ochron {

Result<void> WholeSound::holds(const MediaPool& recordings, const MadeStore& made) const {
  if (auto ok = stillAsRead(recordings); !ok) return ok;
  return made.stillAsKept();
}

Result<WholeSound> drySound(const Song& song, const MediaPool& recordings, MadeStore& made, Frames from,
                            Progress& progress) {
  auto tuned = tunedWhole(song, recordings, made, progress);
  if (!tuned) return tl::unexpected(tuned.error());
  if (auto ok = makeMissing(song, *tuned, made, from, progress); !ok) return tl::unexpected(ok.error());
  WholeSound out;
  out.plan = compilePlan(song, *tuned, nullptr, &made);
  out.tuned = std::move(*tuned);
  return out;
}

Result<WholeSound> wholeSound(const Song& song, const MediaPool& recordings, MadeStore& made, Frames from,
                              Progress& progress) {
  auto out = drySound(song, recordings, made, from, progress);
  if (!out || !anyInserts(song)) return out;
  auto known = listEffects();
  if (!known) return tl::unexpected(known.error());
  auto racks = startRacks(song, *known, out->missing);
  if (!racks) return tl::unexpected(racks.error());
  useRacks(out->plan, std::move(*racks));
  return out;
}

std::string missingEffects(const std::vector<std::string>& names) {
  if (names.empty()) return {};
  std::string out;
  for (std::size_t i = 0; i < names.size(); ++i)
    out += (i == 0 ? "" : i + 1 == names.size() ? " and " : ", ") + names[i];
  return out + (names.size() == 1 ? " is" : " are") + " not on this machine: sound went past " +
         (names.size() == 1 ? "it." : "them.");
}

}  // namespace ochron
