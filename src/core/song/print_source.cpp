#include "song/print_source.h"

#include <algorithm>
#include <set>

namespace ochron {
namespace {

/// FNV-1a over the notes of a line.
class Digest {
 public:
  template <class T>
  void add(const T& value) {
    const auto* bytes = reinterpret_cast<const unsigned char*>(&value);
    for (std::size_t i = 0; i < sizeof value; ++i) hash_ = (hash_ ^ bytes[i]) * 0x100000001b3ULL;
  }
  /// At least 0.
  std::int64_t value() const { return static_cast<std::int64_t>(hash_ >> 1); }

 private:
  std::uint64_t hash_ = 0xcbf29ce484222325ULL;
};

std::set<TakeId> takesOf(const Print& print) {
  std::set<TakeId> out;
  for (const auto& c : *print.clips) out.insert(c.take);
  return out;
}

/// The plan as far as it reaches these takes; nothing where it changes nothing there.
PitchPlan reaching(const PitchPlan& plan, const std::set<TakeId>& takes) {
  auto out = plan;
  std::erase_if(out.wishes, [&](const auto& w) { return !takes.contains(w.first.first); });
  return out.active() ? out : PitchPlan{};
}

}  // namespace

PrintedWith printedWith(const Song& song, const Print& print) {
  PrintedWith out;
  const auto* set = song.find(print.set);
  if (!set) return out;
  const auto takes = takesOf(print);
  Digest notes;
  bool sung = false;
  for (const auto take : takes)
    for (const auto& n : song.lineOf(take, set->id)->notes) {
      notes.add(take.value);
      notes.add(n.start);
      notes.add(n.end);
      notes.add(n.hertz);
      sung = true;
    }
  const auto plan = reaching(*set->pitch, takes);
  if (plan.active() && (sung || plan.settings.transpose != 0)) {
    out.pitch = plan;
    out.notes = notes.value();
  }
  const bool asTheSet = std::any_of(print.clips->begin(), print.clips->end(),
                                    [](const Clip& c) { return !c.map.identity() && !c.extras->method; });
  if (asTheSet) out.method = set->method;
  std::set<MediaId> played;
  for (const auto& c : *print.clips)
    for (const auto track : set->tracks)
      if (const auto* mic = song.micFor(*set, c, track)) played.insert(mic->media);
  for (const auto id : played)
    if (const auto* media = song.find(id)) out.recordings.push_back({id, media->fingerprint});
  return out;
}

std::string outOfDate(const Song& song, const Print& print) {
  if (!print.with) return {};
  const auto now = printedWith(song, print);
  if (now == *print.with) return {};
  if (now.recordings != print.with->recordings) return "a recording is another one";
  if (now.method != print.with->method) return "it is stretched in another way";
  if (now.pitch != print.with->pitch) return "the pitch plan is another one";
  return "its notes are other ones";
}

}  // namespace ochron
