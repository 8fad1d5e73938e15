#include "takes/mic_names.h"

#include <algorithm>
#include <array>
#include <cctype>
#include <numeric>

#include "base/numbers.h"

namespace ochron {
namespace {

std::vector<std::string> wordsOf(const std::string& name) {
  std::vector<std::string> words;
  std::string word;
  char before = ' ';
  for (const char raw : name) {
    const auto c = static_cast<unsigned char>(raw);
    const bool newWord = !std::isalpha(c) || (std::isupper(c) && std::islower(static_cast<unsigned char>(before)));
    if (newWord && !word.empty()) {
      words.push_back(word);
      word.clear();
    }
    if (std::isalpha(c)) word += static_cast<char>(std::tolower(c));
    before = raw;
  }
  if (!word.empty()) words.push_back(word);
  return words;
}

bool any(const std::vector<std::string>& words, std::initializer_list<const char*> wanted) {
  return std::any_of(words.begin(), words.end(), [&](const std::string& w) {
    return std::any_of(wanted.begin(), wanted.end(), [&](const char* x) { return w == x; });
  });
}

}  // namespace

MicRole guessRole(const std::string& trackName) {
  const auto w = wordsOf(trackName);
  const bool kick = any(w, {"kick", "kik", "kck", "kd", "bd", "bassdrum"}) || (any(w, {"bass"}) && any(w, {"drum"}));
  if (kick)
    return any(w, {"in", "inside", "beater"})           ? MicRole::kickIn
           : any(w, {"out", "outside", "front", "sub"}) ? MicRole::kickOut
                                                        : MicRole::kick;
  if (any(w, {"snare", "snr", "sn", "sd"}))
    return any(w, {"top", "up", "over", "t"})               ? MicRole::snareTop
           : any(w, {"bottom", "bot", "btm", "under", "b"}) ? MicRole::snareBottom
                                                            : MicRole::snare;
  if (any(w, {"tom", "toms", "floor", "rack", "ft", "rt"})) return MicRole::tom;
  if (any(w, {"hat", "hats", "hihat", "hh", "hi"})) return MicRole::hat;
  if (any(w, {"overhead", "overheads", "oh", "ohs", "ohl", "ohr", "over"})) return MicRole::overhead;
  if (any(w, {"room", "rooms", "rm", "ambience", "amb", "rml", "rmr", "rooml", "roomr"})) return MicRole::room;
  if (any(w, {"ride", "crash", "cymbal", "cym", "china", "splash"})) return MicRole::cymbal;
  return MicRole::none;
}

std::vector<int> guessDrumKit(const std::vector<std::string>& names) {
  std::vector<int> kit;
  for (std::size_t i = 0; i < names.size(); ++i)
    if (guessRole(names[i]) != MicRole::none) kit.push_back(static_cast<int>(i));
  return kit.size() >= 2 ? kit : std::vector<int>{};
}

std::vector<int> guessGuides(const std::vector<MicRole>& roles) {
  const auto best = [&](std::initializer_list<MicRole> order) {
    for (auto r : order)
      for (std::size_t i = 0; i < roles.size(); ++i)
        if (roles[i] == r) return static_cast<int>(i);
    return -1;
  };
  std::vector<int> guides;
  for (const int i : {best({MicRole::kickIn, MicRole::kick, MicRole::kickOut}),
                      best({MicRole::snareTop, MicRole::snare, MicRole::snareBottom})})
    if (i >= 0) guides.push_back(i);
  if (!guides.empty()) return guides;
  for (std::size_t i = 0; i < roles.size(); ++i)
    if (roles[i] != MicRole::room && roles[i] != MicRole::overhead) guides.push_back(static_cast<int>(i));
  return guides;
}

std::vector<int> inKitOrder(const std::vector<std::string>& names) {
  std::vector<int> out(names.size());
  std::iota(out.begin(), out.end(), 0);
  const auto place = [&](int i) {
    const auto role = guessRole(names[static_cast<std::size_t>(i)]);
    return role == MicRole::none ? static_cast<int>(kMicRoleNames.size()) : static_cast<int>(role);
  };
  std::stable_sort(out.begin(), out.end(), [&](int a, int b) { return place(a) < place(b); });
  return out;
}

std::optional<double> bpmInName(const std::string& name) {
  std::string low;
  for (const char c : name) low.push_back(static_cast<char>(std::tolower(static_cast<unsigned char>(c))));
  for (auto at = low.find("bpm"); at != std::string::npos; at = low.find("bpm", at + 3)) {
    auto end = at;
    while (end > 0 && (low[end - 1] == ' ' || low[end - 1] == '_' || low[end - 1] == '-')) --end;
    auto begin = end;
    while (begin > 0 && (std::isdigit(static_cast<unsigned char>(low[begin - 1])) || low[begin - 1] == '.')) --begin;
    const auto bpm = parseNumber(std::string_view(low).substr(begin, end - begin));
    if (bpm && kBpmRange.accepts(*bpm)) return bpm;
  }
  return {};
}

}  // namespace ochron
