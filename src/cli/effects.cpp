#include <memory>
#include <nlohmann/json.hpp>

#include "base/numbers.h"
#include "commands.h"
#include "effects/catalog.h"

namespace ochron::cli {
namespace {

nlohmann::ordered_json controlJson(const EffectControl& c) {
  nlohmann::ordered_json j{
      {"symbol", c.symbol}, {"name", c.name}, {"low", c.low}, {"high", c.high}, {"default", c.fallback}};
  if (c.ofRate) j["of_rate"] = true;
  if (!c.unit.empty()) j["unit"] = c.unit;
  if (!c.group.empty()) j["group"] = c.group;
  for (const auto& p : c.points) j["points"].push_back({{"label", p.label}, {"value", p.value}});
  return j;
}

Result<std::string> run(bool json) {
  const auto all = listEffects();
  if (!all) return tl::unexpected(all.error());
  std::string text;
  nlohmann::ordered_json j{{"effects", nlohmann::ordered_json::array()}};
  for (const auto& e : *all) {
    text += e.name + " (" + e.kind + "): " + e.uri + "\n";
    nlohmann::ordered_json x{
        {"uri", e.uri}, {"name", e.name}, {"kind", e.kind}, {"inputs", e.inputs}, {"outputs", e.outputs}};
    x["controls"] = nlohmann::ordered_json::array();
    for (const auto& c : e.controls)
      if (!c.hidden) x["controls"].push_back(controlJson(c));
    for (const auto& p : e.presets) x["presets"].push_back(p.name);
    j["effects"].push_back(std::move(x));
  }
  return json ? j.dump(-1, ' ', false, nlohmann::ordered_json::error_handler_t::replace) + "\n" : text;
}

}  // namespace

void addEffects(CLI::App& app, Command& chosen) {
  auto json = std::make_shared<bool>(false);
  auto* c = app.add_subcommand("effects", "List the LV2 plug-ins of this machine that can be put into a song");
  c->add_flag("--json", *json, "print one JSON document, with controls and presets");
  c->callback([json, &chosen] { chosen = [json] { return run(*json); }; });
}

}  // namespace ochron::cli
