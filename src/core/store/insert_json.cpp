#include "store/insert_json.h"

#include "store/clip_json.h"

namespace ochron {

void putInserts(Json& to, const InsertList& inserts) {
  for (const auto& i : inserts) {
    Json x{{"id", i.id.value}, {"effect", i.effect}, {"name", i.name}};
    if (!i.on) x["on"] = false;
    if (i.state->any()) x["state"] = i.state->id;
    for (const auto& [symbol, value] : i.values) x["values"].push_back({{"control", symbol}, {"value", value}});
    for (const auto& [symbol, m] : i.moved) {
      Json e{{"control", symbol}, {"name", m.name}, {"low", m.low}, {"high", m.high}};
      if (!m.unit.empty()) e["unit"] = m.unit;
      if (m.way != EnvelopeWay::even) e["way"] = kEnvelopeWayNames[static_cast<std::size_t>(m.way)];
      putEnvelope(e, "points", m.points);
      x["moved"].push_back(std::move(e));
    }
    to["effects"].push_back(std::move(x));
  }
}

InsertList readInserts(JsonReader& r, const Json& x) {
  InsertList out;
  r.each(
      x, "effects", kMostInserts,
      [&](const Json& e) {
        Insert i{
            readId<InsertId>(r, e, "id"), r.text(e, "effect"), r.text(e, "name"), r.boolean(e, "on", true), {}, {}};
        if (auto state = r.text(e, "state", ""); !state.empty()) i.state = EffectState{std::move(state), {}};
        r.each(
            e, "values", kMostInsertValues,
            [&](const Json& v) { i.values[r.text(v, "control")] = r.number(v, "value", kInsertValueRange); }, false);
        r.each(
            e, "moved", kMostMovedControls,
            [&](const Json& v) {
              MovedControl m{r.text(v, "name"),
                             r.text(v, "unit", ""),
                             r.number(v, "low", kInsertValueRange),
                             r.number(v, "high", kInsertValueRange),
                             EnvelopeWay::even,
                             {}};
              if (v.contains("way")) m.way = static_cast<EnvelopeWay>(r.choice(v, "way", kEnvelopeWayNames, 0));
              m.points = readEnvelope(r, v, "points", kInsertValueRange);
              i.moved[r.text(v, "control")] = std::move(m);
            },
            false);
        out.push_back(std::move(i));
      },
      false);
  return out;
}

}  // namespace ochron
