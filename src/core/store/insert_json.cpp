#include "store/insert_json.h"

#include "store/clip_json.h"

namespace ochron {

void putInserts(Json& to, const InsertList& inserts) {
  for (const auto& i : inserts) {
    Json x{{"id", i.id.value}, {"effect", i.effect}, {"name", i.name}};
    if (!i.on) x["on"] = false;
    for (const auto& [symbol, value] : i.values) x["values"].push_back({{"control", symbol}, {"value", value}});
    to["effects"].push_back(std::move(x));
  }
}

InsertList readInserts(JsonReader& r, const Json& x) {
  InsertList out;
  r.each(
      x, "effects", kMostInserts,
      [&](const Json& e) {
        Insert i{readId<InsertId>(r, e, "id"), r.text(e, "effect"), r.text(e, "name"), r.boolean(e, "on", true), {}};
        r.each(
            e, "values", kMostInsertValues,
            [&](const Json& v) { i.values[r.text(v, "control")] = r.number(v, "value", kInsertValueRange); }, false);
        out.push_back(std::move(i));
      },
      false);
  return out;
}

}  // namespace ochron
