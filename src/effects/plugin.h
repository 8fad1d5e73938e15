#pragma once

#include <lilv/lilv.h>
#include <lv2/atom/atom.h>
#include <lv2/buf-size/buf-size.h>
#include <lv2/options/options.h>
#include <lv2/urid/urid.h>
#include <lv2/worker/worker.h>

#include <array>
#include <cstdint>
#include <memory>
#include <string>
#include <unordered_map>
#include <vector>

#include "effects/shared_block.h"

namespace ochron::effects {

/// Numbers for URIs (LV2 URID).
class Urids {
 public:
  LV2_URID map(const char* uri);
  const char* unmap(LV2_URID id) const;

 private:
  std::unordered_map<std::string, LV2_URID> ids_;
  std::vector<std::string> names_;
};

/// One running plug-in: as many instances as it takes for a block's channels.
class Plugin {
 public:
  /// Empty text: it runs; else why it does not. `state`: a folder with what it holds beside its controls (state.ttl and
  /// the files that this names); empty: as it starts.
  std::string start(const std::string& uri, const std::string& bundle, const std::string& state, SharedBlock& block);
  /// Puts what it holds once a preset of this machine was chosen into a new folder; no folder where it holds nothing.
  /// Empty text: that went well.
  std::string keepPreset(const std::string& uri, const std::string& preset, const std::string& folder);
  ~Plugin();
  /// Works on the block's sound in place.
  void run();
  /// Some frames of silence, which nobody hears: what it tells is of now.
  void idle();

 private:
  struct Instance {
    LilvInstance* handle = nullptr;
    std::vector<float> controls;                       ///< by port
    std::vector<std::vector<float>> audio;             ///< by port
    std::vector<std::vector<std::uint64_t>> atoms;     ///< by port
    std::vector<std::vector<std::uint8_t>> responses;  ///< of its worker, for the next block
    const LV2_Worker_Interface* worker = nullptr;
    LV2_Worker_Schedule schedule{};
    std::array<LV2_Feature, 1> scheduled{};
    std::vector<const LV2_Feature*> features;
  };
  std::string open(const std::string& uri, const std::string& bundle);
  std::string openAll(const std::string& uri);
  std::string choose(const std::string& uri, const std::string& where);
  void restore(LilvState* state);
  std::string readPorts();
  std::string instantiate();
  void connect(Instance& instance);
  void runInstance(Instance& instance, std::uint32_t frames);
  void readControls(Instance& instance);
  void tell();

  LilvWorld* world_ = nullptr;
  const LilvPlugin* plugin_ = nullptr;
  SharedBlock* block_ = nullptr;
  Urids urids_;
  std::vector<int> audioIn_, audioOut_, controlIn_, controlOut_, cv_, atomIn_, atomOut_, unused_;
  std::size_t sides_ = 1;  // inputs that its sound goes through, 1 or 2; the others hear the key
  int latencyPort_ = -1;
  std::vector<std::unique_ptr<Instance>> instances_;
  LV2_URID_Map map_{};
  LV2_URID_Unmap unmap_{};
  std::array<std::int32_t, 3> lengths_{};
  std::array<LV2_Options_Option, 5> options_{};
  float rate_ = 0;
  LV2_Feature mapFeature_{}, unmapFeature_{}, optionsFeature_{}, boundedFeature_{};
};

}  // namespace ochron::effects
