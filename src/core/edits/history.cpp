#include "edits/history.h"

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

bool History::goesOn(const SongPtr& before, const std::string& gesture) const {
  if (gesture.empty() || gesture != gesture_ || before != after_ || past_.empty()) return false;
  return open_ ? past_.size() > mark_ : since_ && std::chrono::steady_clock::now() - *since_ < kSameKeys;
}

void History::record(const std::string& name, const SongPtr& before, const SongPtr& after, const std::string& gesture) {
  if (goesOn(before, gesture))
    past_.back().name = name;
  else
    past_.push_back({name, before});
  future_.clear();
  gesture_ = gesture;
  after_ = after;
  since_ = std::chrono::steady_clock::now();
}

History::SongPtr History::takeBackGesture() {
  if (!open_) return nullptr;
  SongPtr before;
  while (past_.size() > mark_) {
    before = past_.back().song;
    past_.pop_back();
  }
  endGesture();
  return before;
}

History::SongPtr History::dropIdleStep(const SongPtr& now) {
  if (past_.empty() || !(*past_.back().song == *now)) return nullptr;
  auto song = past_.back().song;
  past_.pop_back();
  return song;
}

History::SongPtr History::step(std::vector<Step>& from, std::vector<Step>& to, const SongPtr& now) {
  endGesture();
  if (from.empty()) return nullptr;
  auto there = std::move(from.back());
  from.pop_back();
  to.push_back({there.name, now});
  return there.song;
}

}  // namespace ochron
