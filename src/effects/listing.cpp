#include "listing.h"

#include <lilv/lilv.h>
#include <lv2/core/lv2.h>
#include <lv2/port-groups/port-groups.h>
#include <lv2/port-props/port-props.h>
#include <lv2/presets/presets.h>
#include <lv2/state/state.h>
#include <lv2/units/units.h>

#include <cmath>
#include <nlohmann/json.hpp>

namespace ochron::effects {
namespace {

using Json = nlohmann::ordered_json;

struct Words {
  explicit Words(LilvWorld* w) : world(w) {}
  ~Words() {
    for (auto* n : all) lilv_node_free(n);
  }
  Words(const Words&) = delete;
  Words& operator=(const Words&) = delete;
  LilvNode* of(const char* uri) {
    all.push_back(lilv_new_uri(world, uri));
    return all.back();
  }
  LilvWorld* world;
  std::vector<LilvNode*> all;
  LilvNode* audio = of(LV2_CORE__AudioPort);
  LilvNode* control = of(LV2_CORE__ControlPort);
  LilvNode* input = of(LV2_CORE__InputPort);
  LilvNode* toggled = of(LV2_CORE__toggled);
  LilvNode* ofRate = of(LV2_CORE__sampleRate);
  LilvNode* whole = of(LV2_CORE__integer);
  LilvNode* enumeration = of(LV2_CORE__enumeration);
  LilvNode* logarithmic = of(LV2_PORT_PROPS__logarithmic);
  LilvNode* hidden = of(LV2_PORT_PROPS__notOnGUI);
  LilvNode* group = of(LV2_PORT_GROUPS__group);
  LilvNode* unit = of(LV2_UNITS__unit);
  LilvNode* symbol = of(LV2_UNITS__symbol);
  LilvNode* label = of("http://www.w3.org/2000/01/rdf-schema#label");
  LilvNode* lv2Name = of(LV2_CORE__name);
  LilvNode* preset = of(LV2_PRESETS__Preset);
  LilvNode* value = of(LV2_PRESETS__value);
  LilvNode* state = of(LV2_STATE__state);
  LilvNode* port = of(LV2_CORE__port);
  LilvNode* portSymbol = of(LV2_CORE__symbol);
  LilvNode* designation = of(LV2_CORE__designation);
  LilvNode* latency = of(LV2_CORE__latency);
  LilvNode* sideChain = of(LV2_CORE_PREFIX "isSideChain");
  LilvNode* freewheel = of(LV2_CORE__freeWheeling);
};

std::string text(const LilvNode* node) { return node ? lilv_node_as_string(node) : ""; }

std::string textOf(LilvWorld* world, const LilvNode* subject, const LilvNode* what) {
  if (!subject) return {};
  LilvNode* found = lilv_world_get(world, subject, what, nullptr);
  auto out = text(found);
  lilv_node_free(found);
  return out;
}

std::string unitOf(Words& w, const LilvPlugin* plugin, const LilvPort* port) {
  LilvNode* unit = lilv_port_get(plugin, port, w.unit);
  if (!unit) return {};
  auto out = textOf(w.world, unit, w.symbol);
  if (out.empty() && lilv_node_is_uri(unit)) {
    // Units of the standard are known by their names.
    const auto uri = text(unit);
    out = uri.substr(uri.find('#') + 1);
    if (out == "pc") out = "%";
    if (out == "hz") out = "Hz";
    if (out == "khz") out = "kHz";
    if (out == "db") out = "dB";
    if (out == "coef") out = "";
  }
  lilv_node_free(unit);
  return out;
}

double numberOf(const LilvNode* n, double fallback) {
  if (!n || !(lilv_node_is_float(n) || lilv_node_is_int(n))) return fallback;
  const double v = lilv_node_as_float(n);
  return std::isfinite(v) ? v : fallback;
}

Json controlOf(Words& w, const LilvPlugin* plugin, const LilvPort* port) {
  LilvNode* fallback = nullptr;
  LilvNode* low = nullptr;
  LilvNode* high = nullptr;
  lilv_port_get_range(plugin, port, &fallback, &low, &high);
  const auto has = [&](const LilvNode* what) { return lilv_port_has_property(plugin, port, what); };
  LilvNode* name = lilv_port_get_name(plugin, port);
  Json c{{"symbol", text(lilv_port_get_symbol(plugin, port))}, {"name", text(name)}};
  lilv_node_free(name);
  const bool toggled = has(w.toggled);
  c["low"] = numberOf(low, 0);
  c["high"] = numberOf(high, 1);
  c["default"] = numberOf(fallback, numberOf(low, 0));
  if (auto unit = unitOf(w, plugin, port); !unit.empty()) c["unit"] = unit;
  if (toggled) c["toggled"] = true;
  if (has(w.whole)) c["whole"] = true;
  if (has(w.ofRate)) c["of rate"] = true;
  if (has(w.logarithmic)) c["logarithmic"] = true;
  if (has(w.enumeration)) c["chosen"] = true;
  if (LilvNode* group = lilv_port_get(plugin, port, w.group)) {
    auto title = textOf(w.world, group, w.label);
    if (title.empty()) title = textOf(w.world, group, w.lv2Name);
    if (!title.empty()) c["group"] = title;
    lilv_node_free(group);
  }
  if (LilvScalePoints* points = lilv_port_get_scale_points(plugin, port)) {
    LILV_FOREACH(scale_points, i, points) {
      const auto* p = lilv_scale_points_get(points, i);
      c["points"].push_back(
          {{"label", text(lilv_scale_point_get_label(p))}, {"value", numberOf(lilv_scale_point_get_value(p), 0)}});
    }
    lilv_scale_points_free(points);
  }
  for (auto* n : {fallback, low, high}) lilv_node_free(n);
  return c;
}

Json presetsOf(Words& w, const LilvPlugin* plugin) {
  Json out = Json::array();
  LilvNodes* presets = lilv_plugin_get_related(plugin, w.preset);
  LILV_FOREACH(nodes, i, presets) {
    const auto* preset = lilv_nodes_get(presets, i);
    lilv_world_load_resource(w.world, preset);
    Json x{{"uri", text(preset)}, {"name", textOf(w.world, preset, w.label)}, {"values", Json::object()}};
    if (lilv_world_ask(w.world, preset, w.state, nullptr)) x["state"] = true;
    LilvNodes* ports = lilv_world_find_nodes(w.world, preset, w.port, nullptr);
    LILV_FOREACH(nodes, k, ports) {
      const auto* port = lilv_nodes_get(ports, k);
      LilvNode* value = lilv_world_get(w.world, port, w.value, nullptr);
      const auto symbol = textOf(w.world, port, w.portSymbol);
      if (value && !symbol.empty()) x["values"][symbol] = numberOf(value, 0);
      lilv_node_free(value);
    }
    lilv_nodes_free(ports);
    if (!x["name"].get<std::string>().empty() && (!x["values"].empty() || x.contains("state")))
      out.push_back(std::move(x));
  }
  lilv_nodes_free(presets);
  return out;
}

Json effectOf(Words& w, const LilvPlugin* plugin) {
  LilvNode* name = lilv_plugin_get_name(plugin);
  char* path = lilv_node_get_path(lilv_plugin_get_bundle_uri(plugin), nullptr);
  Json e{{"uri", text(lilv_plugin_get_uri(plugin))},
         {"name", text(name)},
         {"kind", text(lilv_plugin_class_get_label(lilv_plugin_get_class(plugin)))},
         {"bundle", path ? path : ""},
         {"controls", Json::array()},
         {"readings", Json::array()}};
  lilv_node_free(name);
  lilv_free(path);
  int inputs = 0;
  int outputs = 0;
  bool keyed = false;
  for (std::uint32_t p = 0; p < lilv_plugin_get_num_ports(plugin); ++p) {
    const auto* port = lilv_plugin_get_port_by_index(plugin, p);
    const bool in = lilv_port_is_a(plugin, port, w.input);
    if (lilv_port_is_a(plugin, port, w.audio)) ++(in ? inputs : outputs);
    keyed = keyed || (in && lilv_port_has_property(plugin, port, w.sideChain));
    if (!lilv_port_is_a(plugin, port, w.control)) continue;
    auto c = controlOf(w, plugin, port);
    // Numbered by all control ports, shown or not.
    LilvNode* meant = lilv_port_get(plugin, port, w.designation);
    if (lilv_port_has_property(plugin, port, w.hidden) || (meant && lilv_node_equals(meant, w.freewheel)) ||
        (meant && lilv_node_equals(meant, w.latency)))
      c["hidden"] = true;
    lilv_node_free(meant);
    e[in ? "controls" : "readings"].push_back(std::move(c));
  }
  e["inputs"] = inputs;
  e["outputs"] = outputs;
  if (keyed || inputs > 2) e["keyed"] = true;
  if (inputs > 0 && outputs > 0) e["presets"] = presetsOf(w, plugin);
  return e;
}

}  // namespace

std::string listing() {
  LilvWorld* world = lilv_world_new();
  lilv_world_load_all(world);
  Json out{{"effects", Json::array()}};
  {
    Words words(world);
    const auto* plugins = lilv_world_get_all_plugins(world);
    LILV_FOREACH(plugins, i, plugins) {
      auto e = effectOf(words, lilv_plugins_get(plugins, i));
      if (e["inputs"].get<int>() > 0 && e["outputs"].get<int>() > 0) out["effects"].push_back(std::move(e));
    }
  }
  lilv_world_free(world);
  return out.dump(-1, ' ', false, Json::error_handler_t::replace) + "\n";
}

}  // namespace ochron::effects
