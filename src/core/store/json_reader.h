#pragma once

#include <array>
#include <cmath>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>

#include "song/ranges.h"

namespace ochron {

using Json = nlohmann::ordered_json;

/// Writes all numbers of a settings struct into an object.
template <class Settings, std::size_t N>
void putSettings(Json& to, const Settings& settings, const std::array<Setting<Settings>, N>& all) {
  for (const auto& n : all) to[std::string(n.key)] = settings.*n.field;
}

/// Reads typed values out of JSON and remembers the first thing that is wrong, with its place. After that every read
/// gives the fallback, so that callers check once at the end.
class JsonReader {
 public:
  bool ok() const { return !problem_; }
  const std::string& problem() const { return *problem_; }
  void complain(const std::string& what) {
    if (!problem_) problem_ = what;
  }

  const Json* member(const Json& object, const char* key, bool required = true) {
    if (!object.is_object()) {
      complain(std::string("something that should hold \"") + key + "\" is not an object");
      return nullptr;
    }
    const auto found = object.find(key);
    if (found != object.end()) return &*found;
    if (required) complain(std::string("\"") + key + "\" is missing");
    return nullptr;
  }
  std::int64_t integer(const Json& object, const char* key, std::int64_t low, std::int64_t high,
                       std::optional<std::int64_t> fallback = {}) {
    const auto* v = member(object, key, !fallback);
    if (!v) return fallback.value_or(low);
    if (!v->is_number_integer() || *v < low || *v > high) {
      complain(std::string("\"") + key + "\" is not a whole number within its range");
      return low;
    }
    return v->get<std::int64_t>();
  }
  double number(const Json& object, const char* key, double low, double high, std::optional<double> fallback = {}) {
    const auto* v = member(object, key, !fallback);
    if (!v) return fallback.value_or(low);
    const double x = v->is_number() ? v->get<double>() : NAN;
    if (!(x >= low && x <= high)) {
      complain(std::string("\"") + key + "\" is not a number within its range");
      return low;
    }
    return x;
  }
  double setting(const Json& object, const char* key, const SettingRange& range) {
    return number(object, key, range.low, range.high, range.fallback);
  }
  /// A number that must be there.
  double number(const Json& object, const char* key, const SettingRange& range) {
    return number(object, key, range.low, range.high);
  }
  /// All numbers of a settings struct; what is missing is its fallback.
  template <class Settings, std::size_t N>
  void settings(const Json& object, Settings& to, const std::array<Setting<Settings>, N>& all) {
    for (const auto& n : all) to.*n.field = setting(object, std::string(n.key).c_str(), n.range);
  }
  bool boolean(const Json& object, const char* key, bool fallback) {
    const auto* v = member(object, key, false);
    if (!v) return fallback;
    if (!v->is_boolean()) {
      complain(std::string("\"") + key + "\" is not true or false");
      return fallback;
    }
    return v->get<bool>();
  }
  std::string text(const Json& object, const char* key, const std::optional<std::string>& fallback = {}) {
    const auto* v = member(object, key, !fallback);
    if (!v) return fallback.value_or("");
    if (!v->is_string() || v->get_ref<const std::string&>().size() > kLongestText)
      return complain(std::string("\"") + key + "\" is not a text"), "";
    return v->get<std::string>();
  }
  /// One of `names`; its index.
  template <class Names>
  int choice(const Json& object, const char* key, const Names& names, int fallback) {
    const auto* v = member(object, key, false);
    if (!v) return fallback;
    for (std::size_t i = 0; i < names.size(); ++i)
      if (v->is_string() && v->get_ref<const std::string&>() == names[i]) return static_cast<int>(i);
    complain(std::string("\"") + key + "\" is none of the known words");
    return fallback;
  }
  template <class F>
  void each(const Json& object, const char* key, std::size_t most, F&& f, bool required = true) {
    const auto* v = member(object, key, required);
    if (!v) return;
    if (!v->is_array() || v->size() > most) return complainOfList(key, most);
    for (const auto& item : *v) {
      if (!ok()) return;
      f(item);
    }
  }

 private:
  void complainOfList(const char* key, std::size_t most) {
    std::string text = "\"";
    text += key;
    text += "\" is not a list of at most ";
    text += std::to_string(most);
    text += " entries";
    complain(text);
  }

  std::optional<std::string> problem_;
};

}  // namespace ochron
