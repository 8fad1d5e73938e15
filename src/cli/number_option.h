#pragma once

#include <CLI/CLI.hpp>
#include <string>

#include "base/numbers.h"
#include "base/setting.h"

namespace ochron::cli {

/// Accepts finite numbers of a setting's range, whatever the locale.
inline CLI::Validator inRange(const SettingRange& range) {
  const auto bounds = shortest(range.low) + " to " + shortest(range.high);
  return CLI::Validator(
      [bounds, range](std::string& text) {
        const auto v = parseNumber(text);
        if (v && range.accepts(*v)) {
          text = shortest(*v);
          return std::string();
        }
        return "\"" + text + "\" is not a number from " + bounds;
      },
      bounds);
}

/// A number option with its range, unit and fallback from one description.
inline CLI::Option* addNumber(CLI::App& command, const std::string& name, double& to, const SettingRange& range,
                              const std::string& help) {
  return command.add_option(name, to, help)->check(inRange(range))->capture_default_str();
}

/// The same for all numbers of a settings struct that have an option.
template <class Settings, std::size_t N>
void addNumbers(CLI::App& command, Settings& to, const std::array<Setting<Settings>, N>& numbers) {
  for (const auto& n : numbers)
    if (!n.option.empty()) {
      const auto unit = n.range.unit.empty() ? std::string() : ", " + std::string(n.range.unit);
      addNumber(command, std::string(n.option), to.*n.field, n.range, std::string(n.help) + unit);
    }
}

}  // namespace ochron::cli
