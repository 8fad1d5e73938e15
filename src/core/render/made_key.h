#pragma once

#include <array>
#include <cstdint>
#include <cstdio>
#include <string_view>

#include "files/content_id.h"
#include "render/made_sound.h"

namespace ochron {

/// Collects what goes into a key: `method` names the kind of sound.
class KeyMaker {
 public:
  explicit KeyMaker(const Voices& voices, std::string_view method) : lasting_(voices.lasting) {
    add(voices.digest);
    hash_.add(method.data(), method.size());
  }
  template <class... T>
  void add(const T&... values) {
    (hash_.add(&values, sizeof values), ...);
  }
  void addText(std::string_view text) { hash_.add(text.data(), text.size()); }
  std::uint64_t value() const { return hash_.value(); }
  MadeKey key() const {
    std::array<char, 17> text{};
    std::snprintf(text.data(), text.size(), "%016llx", static_cast<unsigned long long>(hash_.value()));
    return {text.data(), lasting_};
  }

 private:
  ContentHash hash_;
  bool lasting_;
};

}  // namespace ochron
