#include "edits/history.h"

#include <algorithm>

namespace ochron {
namespace {
constexpr std::chrono::milliseconds kSameKeys{1000};
}

void History::clear() {
  const auto number = number_;
  *this = {};
  number_ = number;
}

std::uint64_t History::beginGesture() {
  open_ = true;
  mark_ = past_.size();
  gesture_.clear();
  return ++number_;
}

void History::endGesture() {
  open_ = false;
  gesture_.clear();
}

void History::Step::pack(const Song& later) {
  auto packed = std::make_shared<Song>(*song);
  for (auto& set : packed->sets) {
    const auto* now = later.find(set.id);
    if (!now || set.clips.sameObject(now->clips)) continue;
    const auto& a = *set.clips;
    const auto& b = *now->clips;
    const auto least = std::min(a.size(), b.size());
    Earlier e{set.id, 0, 0, {}};
    while (e.before < least && a[e.before] == b[e.before]) ++e.before;
    while (e.after < least - e.before && a[a.size() - 1 - e.after] == b[b.size() - 1 - e.after]) ++e.after;
    if (2 * (e.before + e.after) < a.size()) continue;  // most of it is another: it stays as it is
    e.clips.assign(a.begin() + static_cast<std::ptrdiff_t>(e.before), a.end() - static_cast<std::ptrdiff_t>(e.after));
    clips.push_back(std::move(e));
    set.clips = ClipList{};
  }
  if (clips.empty()) return;
  whole = song;
  song = std::move(packed);
}

void History::Step::unpack(const Song& later) {
  if (clips.empty()) return;
  if (auto known = whole.lock()) {
    song = std::move(known);
  } else {
    auto full = std::make_shared<Song>(*song);
    for (auto& e : clips) {
      const auto& b = *later.find(e.set)->clips;
      ClipList list(b.begin(), b.begin() + static_cast<std::ptrdiff_t>(e.before));
      list.insert(list.end(), e.clips.begin(), e.clips.end());
      list.insert(list.end(), b.end() - static_cast<std::ptrdiff_t>(e.after), b.end());
      for (auto& set : full->sets)
        if (set.id == e.set) set.clips = std::move(list);
    }
    song = std::move(full);
  }
  clips.clear();
}

void History::push(std::vector<Step>& steps, Step step) {
  if (!steps.empty()) steps.back().pack(*step.song);
  steps.push_back(std::move(step));
}

History::SongPtr History::pop(std::vector<Step>& steps) {
  auto song = std::move(steps.back().song);
  steps.pop_back();
  if (!steps.empty()) steps.back().unpack(*song);
  return song;
}

bool History::goesOn(const SongPtr& before, const std::string& gesture) const {
  if (gesture.empty() || gesture != gesture_ || before != after_ || past_.empty()) return false;
  return open_ ? past_.size() > mark_ : since_ && std::chrono::steady_clock::now() - *since_ < kSameKeys;
}

void History::record(const std::string& name, const SongPtr& before, const SongPtr& after, const std::string& gesture) {
  if (goesOn(before, gesture))
    past_.back().name = name;
  else
    push(past_, {name, before});
  future_.clear();
  gesture_ = gesture;
  after_ = after;
  since_ = std::chrono::steady_clock::now();
}

History::SongPtr History::takeBackGesture() {
  if (!open_) return nullptr;
  SongPtr before;
  while (past_.size() > mark_) { before = pop(past_); }
  endGesture();
  return before;
}

History::SongPtr History::dropIdleStep(const SongPtr& now) {
  if (past_.empty() || !(*past_.back().song == *now)) return nullptr;
  return pop(past_);
}

History::SongPtr History::step(std::vector<Step>& from, std::vector<Step>& to, const SongPtr& now) {
  endGesture();
  if (from.empty()) return nullptr;
  auto name = from.back().name;
  auto there = pop(from);
  push(to, {std::move(name), now});
  return there;
}

}  // namespace ochron
