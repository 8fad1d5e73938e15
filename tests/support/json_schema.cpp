#include "support/json_schema.h"

#include <algorithm>
#include <regex>

namespace ochron::test {
namespace {

using nlohmann::json;

struct Check {
  const json& root;
  std::vector<std::string>& faults;

  void fault(const std::string& at, const std::string& what) const { faults.push_back(at + ": " + what); }

  static bool is(const json& x, const std::string& type) {
    if (type == "object") return x.is_object();
    if (type == "array") return x.is_array();
    if (type == "string") return x.is_string();
    if (type == "boolean") return x.is_boolean();
    if (type == "integer") return x.is_number_integer();
    return type == "number" && x.is_number();
  }

  void object(const json& x, const json& schema, const std::string& at) const {
    for (const auto& key : schema.value("required", json::array()))
      if (!x.contains(key.get<std::string>())) fault(at, key.get<std::string>() + " is missing");
    const auto known = schema.value("properties", json::object());
    for (const auto& [key, value] : x.items()) {
      const auto place = at + "/" + key;
      if (known.contains(key)) {
        hold(value, known[key], place);
      } else if (schema.contains("additionalProperties")) {
        const auto& others = schema["additionalProperties"];
        if (others == false)
          fault(place, "is not in the schema");
        else
          hold(value, others, place);
      }
    }
  }

  void hold(const json& x, const json& schema, const std::string& at) const {
    for (const auto& [word, means] : schema.items()) {
      if (word == "$ref") {
        hold(x, root.at(json::json_pointer(means.get<std::string>().substr(1))), at);
      } else if (word == "type") {
        if (!is(x, means)) fault(at, "is no " + means.get<std::string>());
      } else if (word == "enum") {
        if (std::find(means.begin(), means.end(), x) == means.end()) fault(at, "is another word: " + x.dump());
      } else if (word == "pattern") {
        if (x.is_string() && !std::regex_search(x.get<std::string>(), std::regex(means.get<std::string>())))
          fault(at, "is not as " + means.dump());
      } else if (word == "minimum" || word == "maximum" || word == "exclusiveMinimum") {
        const double v = x.is_number() ? x.get<double>() : 0;
        const double bound = means.get<double>();
        const bool in = word == "minimum" ? v >= bound : word == "maximum" ? v <= bound : v > bound;
        if (!in) fault(at, x.dump() + " is out of range");
      } else if (word == "minItems") {
        if (x.size() < means.get<std::size_t>()) fault(at, "holds too little");
      } else if (word == "items") {
        if (x.is_array())
          for (std::size_t i = 0; i < x.size(); ++i) hold(x[i], means, at + "/" + std::to_string(i));
      } else if (word != "properties" && word != "required" && word != "additionalProperties" && word != "title" &&
                 word != "description" && word != "$schema" && word != "$defs") {
        fault(at, "the schema's " + word + " is not known here");
      }
    }
    if (x.is_object()) object(x, schema, at);
  }
};

}  // namespace

std::vector<std::string> faultsBySchema(const json& document, const json& schema) {
  std::vector<std::string> faults;
  Check{schema, faults}.hold(document, schema, "");
  return faults;
}

}  // namespace ochron::test
