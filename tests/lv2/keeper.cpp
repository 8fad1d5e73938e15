// A plug-in that holds more than its control says: a factor as a number, and another one that stands in a file.

#include <lv2/atom/atom.h>
#include <lv2/state/state.h>
#include <lv2/urid/urid.h>

#include <cstring>
#include <fstream>
#include <string>

#include "effect_base.h"

namespace ochron::lv2 {
namespace {

constexpr const char* kFactor = "urn:orthochron:lv2:keeper#factor";
constexpr const char* kTable = "urn:orthochron:lv2:keeper#table";

template <class T>
const T* featureOf(const LV2_Feature* const* features, const char* uri) {
  for (; features && *features; ++features)
    if (std::strcmp((*features)->URI, uri) == 0) return static_cast<const T*>((*features)->data);
  return nullptr;
}

class Keeper : public PortBoard<3> {
  enum Port : std::size_t { kIn, kOut, kGain };

 public:
  explicit Keeper(const LV2_URID_Map* map) : map_(map) {}
  void begin() {}
  void run(std::uint32_t frames) {
    for (std::uint32_t i = 0; i < frames; ++i) out(kOut)[i] = in(kIn)[i] * value(kGain) * factor_ * fromTable_;
  }
  LV2_State_Status save(LV2_State_Store_Function store, LV2_State_Handle to, const LV2_Feature* const* features) const {
    constexpr std::uint32_t kFlags = LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE;
    store(to, id(kFactor), &factor_, sizeof factor_, id(LV2_ATOM__Float), kFlags);
    const auto* paths = featureOf<LV2_State_Map_Path>(features, LV2_STATE__mapPath);
    if (table_.empty() || !paths) return LV2_STATE_SUCCESS;
    char* path = paths->abstract_path(paths->handle, table_.c_str());
    store(to, id(kTable), path, std::strlen(path) + 1, id(LV2_ATOM__Path), kFlags);
    return LV2_STATE_SUCCESS;
  }
  LV2_State_Status restore(LV2_State_Retrieve_Function get, LV2_State_Handle from, const LV2_Feature* const* features) {
    std::size_t size = 0;
    std::uint32_t type = 0;
    std::uint32_t flags = 0;
    if (const void* v = get(from, id(kFactor), &size, &type, &flags); v && size == sizeof factor_)
      std::memcpy(&factor_, v, sizeof factor_);
    const auto* paths = featureOf<LV2_State_Map_Path>(features, LV2_STATE__mapPath);
    if (const void* v = get(from, id(kTable), &size, &type, &flags); v && paths) {
      table_ = paths->absolute_path(paths->handle, static_cast<const char*>(v));
      std::ifstream(table_) >> fromTable_;
    }
    return LV2_STATE_SUCCESS;
  }

 private:
  LV2_URID id(const char* uri) const { return map_->map(map_->handle, uri); }

  const LV2_URID_Map* map_;
  float factor_ = 1;
  float fromTable_ = 1;
  std::string table_;
};

const LV2_State_Interface kState{
    [](LV2_Handle e, LV2_State_Store_Function store, LV2_State_Handle to, std::uint32_t, const LV2_Feature* const* f) {
      return static_cast<const Keeper*>(e)->save(store, to, f);
    },
    [](LV2_Handle e, LV2_State_Retrieve_Function get, LV2_State_Handle from, std::uint32_t,
       const LV2_Feature* const* f) { return static_cast<Keeper*>(e)->restore(get, from, f); }};

const LV2_Descriptor kKeeper{
    "urn:orthochron:lv2:keeper",
    [](const LV2_Descriptor*, double, const char*, const LV2_Feature* const* features) -> LV2_Handle {
      const auto* map = featureOf<LV2_URID_Map>(features, LV2_URID__map);
      return map ? new Keeper(map) : nullptr;
    },
    [](LV2_Handle e, std::uint32_t port, void* place) { static_cast<Keeper*>(e)->connect(port, place); },
    [](LV2_Handle e) { static_cast<Keeper*>(e)->begin(); },
    [](LV2_Handle e, std::uint32_t frames) { static_cast<Keeper*>(e)->run(frames); },
    nullptr,
    [](LV2_Handle e) { delete static_cast<Keeper*>(e); },
    [](const char* uri) -> const void* { return std::strcmp(uri, LV2_STATE__interface) == 0 ? &kState : nullptr; }};

}  // namespace
}  // namespace ochron::lv2

LV2_SYMBOL_EXPORT const LV2_Descriptor* lv2_descriptor(std::uint32_t index) {
  return index == 0 ? &ochron::lv2::kKeeper : nullptr;
}
