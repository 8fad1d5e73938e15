#include "plugin.h"

#include <lv2/core/lv2.h>
#include <lv2/parameters/parameters.h>
#include <lv2/state/state.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <filesystem>

namespace ochron::effects {
namespace {

constexpr std::size_t kAtomBytes = 1 << 14;
constexpr const char* kStateFile = "state.ttl";
constexpr const char* kSideChain = LV2_CORE_PREFIX "isSideChain";  // younger than the headers

class Node {
 public:
  Node(LilvWorld* world, const char* uri) : node_(lilv_new_uri(world, uri)) {}
  ~Node() { lilv_node_free(node_); }
  Node(const Node&) = delete;
  Node& operator=(const Node&) = delete;
  operator const LilvNode*() const { return node_; }  // NOLINT(google-explicit-constructor)

 private:
  LilvNode* node_;
};

}  // namespace

LV2_URID Urids::map(const char* uri) {
  const auto [at, fresh] = ids_.try_emplace(uri, static_cast<LV2_URID>(names_.size() + 1));
  if (fresh) names_.emplace_back(uri);
  return at->second;
}

const char* Urids::unmap(LV2_URID id) const {
  return id >= 1 && id <= names_.size() ? names_[id - 1].c_str() : nullptr;
}

Plugin::~Plugin() {
  for (auto& i : instances_)
    if (i->handle) {
      lilv_instance_deactivate(i->handle);
      lilv_instance_free(i->handle);
    }
  if (world_) lilv_world_free(world_);
}

std::string Plugin::start(const std::string& uri, const std::string& bundle, const std::string& state,
                          SharedBlock& block) {
  block_ = &block;
  if (auto why = open(uri, bundle); !why.empty()) return why;
  if (auto why = readPorts(); !why.empty()) return why;
  if (auto why = instantiate(); !why.empty()) return why;
  if (!state.empty()) {
    auto* kept = lilv_state_new_from_file(world_, &map_, nullptr, (state + '/' + kStateFile).c_str());
    if (!kept) return "what it held cannot be read";
    restore(kept);
    return {};
  }
  const Node wantsDefault(world_, LV2_STATE__loadDefaultState);
  if (lilv_plugin_has_feature(plugin_, wantsDefault))
    if (auto* first = lilv_state_new_from_world(world_, &map_, lilv_plugin_get_uri(plugin_))) restore(first);
  return {};
}

void Plugin::restore(LilvState* state) {
  for (auto& i : instances_)
    lilv_state_restore(state, i->handle, nullptr, nullptr, LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE,
                       i->features.data());
  lilv_state_free(state);
}

std::string Plugin::keepPreset(const std::string& uri, const std::string& preset, const std::string& folder) {
  SharedBlock alone;
  block_ = &alone;
  if (auto why = openAll(uri); !why.empty()) return why;
  if (auto why = readPorts(); !why.empty()) return why;
  if (auto why = instantiate(); !why.empty()) return why;
  const Node wanted(world_, preset.c_str());
  lilv_world_load_resource(world_, wanted);
  auto* chosen = lilv_state_new_from_world(world_, &map_, wanted);
  if (!chosen) return "it has no such preset";
  restore(chosen);
  const std::string work = folder + ".work";
  const std::string copies = folder + ".copies";  // of files that lie elsewhere
  std::error_code ec;
  std::filesystem::create_directories(copies, ec);
  auto* now = lilv_state_new_from_instance(
      plugin_, instances_.front()->handle, &map_, work.c_str(), copies.c_str(), copies.c_str(), folder.c_str(), nullptr,
      nullptr, LV2_STATE_IS_POD | LV2_STATE_IS_PORTABLE, instances_.front()->features.data());
  if (!now) return "it does not tell what it holds";
  const bool saved = lilv_state_get_num_properties(now) == 0 ||
                     lilv_state_save(world_, &map_, &unmap_, now, nullptr, folder.c_str(), kStateFile) == 0;
  lilv_state_free(now);
  return saved ? std::string() : "what it holds cannot be written";
}

std::string Plugin::open(const std::string& uri, const std::string& bundle) {
  world_ = lilv_world_new();
  LilvNode* at = lilv_new_file_uri(world_, nullptr, bundle.c_str());
  lilv_world_load_bundle(world_, at);
  lilv_node_free(at);
  return choose(uri, "in " + bundle);
}

std::string Plugin::openAll(const std::string& uri) {
  world_ = lilv_world_new();
  lilv_world_load_all(world_);  // presets may lie in bundles of their own
  return choose(uri, "on this machine");
}

std::string Plugin::choose(const std::string& uri, const std::string& where) {
  const Node wanted(world_, uri.c_str());
  plugin_ = lilv_plugins_get_by_uri(lilv_world_get_all_plugins(world_), wanted);
  return plugin_ ? std::string() : "it is not " + where + " any more";
}

std::string Plugin::readPorts() {
  const Node audio(world_, LV2_CORE__AudioPort);
  const Node control(world_, LV2_CORE__ControlPort);
  const Node cv(world_, LV2_CORE__CVPort);
  const Node atom(world_, LV2_ATOM__AtomPort);
  const Node input(world_, LV2_CORE__InputPort);
  const Node optional(world_, LV2_CORE__connectionOptional);
  const Node beside(world_, kSideChain);
  std::vector<int> keys;
  const auto ports = static_cast<int>(lilv_plugin_get_num_ports(plugin_));
  for (int i = 0; i < ports; ++i) {
    const auto* port = lilv_plugin_get_port_by_index(plugin_, static_cast<std::uint32_t>(i));
    const auto is = [&](const LilvNode* type) { return lilv_port_is_a(plugin_, port, type); };
    const bool in = is(input);
    if (is(audio) && in && lilv_port_has_property(plugin_, port, beside))
      keys.push_back(i);
    else if (is(audio))
      (in ? audioIn_ : audioOut_).push_back(i);
    else if (is(control))
      (in ? controlIn_ : controlOut_).push_back(i);
    else if (is(cv))
      cv_.push_back(i);
    else if (is(atom))
      (in ? atomIn_ : atomOut_).push_back(i);
    else if (lilv_port_has_property(plugin_, port, optional))
      unused_.push_back(i);
    else
      return "it has a port of a kind that is not known here";
  }
  // What goes through comes first, what it is only steered by after it.
  sides_ = std::min<std::size_t>(2, audioIn_.size());
  audioIn_.insert(audioIn_.end(), keys.begin(), keys.end());
  if (sides_ == 0 || audioOut_.empty()) return "it has no audio in and out";
  if (controlIn_.size() > SharedBlock::kMostControls || controlOut_.size() > SharedBlock::kMostControls)
    return "it has more than " + std::to_string(SharedBlock::kMostControls) + " controls";
  if (lilv_plugin_has_latency(plugin_)) latencyPort_ = static_cast<int>(lilv_plugin_get_latency_port_index(plugin_));
  return {};
}

std::string Plugin::instantiate() {
  map_ = {this, [](LV2_URID_Map_Handle self, const char* uri) { return static_cast<Plugin*>(self)->urids_.map(uri); }};
  unmap_ = {this, [](LV2_URID_Unmap_Handle self, LV2_URID id) { return static_cast<Plugin*>(self)->urids_.unmap(id); }};
  lengths_ = {1, static_cast<std::int32_t>(SharedBlock::kMostFrames), static_cast<std::int32_t>(kAtomBytes)};
  rate_ = static_cast<float>(block_->rate);
  const auto intType = urids_.map(LV2_ATOM__Int);
  const auto option = [&](const char* key, const std::int32_t& value) {
    return LV2_Options_Option{LV2_OPTIONS_INSTANCE, 0, urids_.map(key), sizeof value, intType, &value};
  };
  options_ = {option(LV2_BUF_SIZE__minBlockLength, lengths_[0]), option(LV2_BUF_SIZE__maxBlockLength, lengths_[1]),
              option(LV2_BUF_SIZE__sequenceSize, lengths_[2]),
              LV2_Options_Option{LV2_OPTIONS_INSTANCE, 0, urids_.map(LV2_PARAMETERS__sampleRate), sizeof rate_,
                                 urids_.map(LV2_ATOM__Float), &rate_},
              LV2_Options_Option{LV2_OPTIONS_INSTANCE, 0, 0, 0, 0, nullptr}};
  mapFeature_ = {LV2_URID__map, &map_};
  unmapFeature_ = {LV2_URID__unmap, &unmap_};
  optionsFeature_ = {LV2_OPTIONS__options, options_.data()};
  boundedFeature_ = {LV2_BUF_SIZE__boundedBlockLength, nullptr};
  // A plug-in for one channel runs once for each.
  const std::size_t count = sides_ == 1 && audioOut_.size() == 1 ? block_->channels : 1;
  const auto ports = lilv_plugin_get_num_ports(plugin_);
  for (std::size_t k = 0; k < count; ++k) {
    auto i = std::make_unique<Instance>();
    i->schedule = {i.get(), [](LV2_Worker_Schedule_Handle self, std::uint32_t size, const void* data) {
                     // This process may take its time: work is done at once, its answers are given after the block.
                     auto& own = *static_cast<Instance*>(self);
                     if (!own.worker) return LV2_WORKER_ERR_UNKNOWN;
                     return own.worker->work(
                         lilv_instance_get_handle(own.handle),
                         [](LV2_Worker_Respond_Handle to, std::uint32_t bytes, const void* body) {
                           const auto* from = static_cast<const std::uint8_t*>(body);
                           static_cast<Instance*>(to)->responses.emplace_back(from, from + bytes);
                           return LV2_WORKER_SUCCESS;
                         },
                         &own, size, data);
                   }};
    i->scheduled[0] = {LV2_WORKER__schedule, &i->schedule};
    i->features = {&mapFeature_, &unmapFeature_, &optionsFeature_, &boundedFeature_, i->scheduled.data(), nullptr};
    i->handle = lilv_plugin_instantiate(plugin_, block_->rate, i->features.data());
    if (!i->handle) return "it could not be started; it may need something that is not offered here";
    i->worker =
        static_cast<const LV2_Worker_Interface*>(lilv_instance_get_extension_data(i->handle, LV2_WORKER__interface));
    i->controls.resize(ports);
    i->audio.resize(ports);
    i->atoms.resize(ports);
    connect(*i);
    // What it does at first it does as it is set.
    for (std::size_t c = 0; c < controlIn_.size(); ++c)
      i->controls[static_cast<std::size_t>(controlIn_[c])] = block_->controls[c].load(std::memory_order_relaxed);
    lilv_instance_activate(i->handle);
    instances_.push_back(std::move(i));
  }
  return {};
}

void Plugin::connect(Instance& i) {
  const auto at = [](int port) { return static_cast<std::size_t>(port); };
  const auto to = [&](int port, void* place) {
    lilv_instance_connect_port(i.handle, static_cast<std::uint32_t>(port), place);
  };
  for (const auto* ports : {&controlIn_, &controlOut_})
    for (const int p : *ports) to(p, &i.controls[at(p)]);
  for (const auto* ports : {&audioIn_, &audioOut_, &cv_})
    for (const int p : *ports) {
      i.audio[at(p)].assign(SharedBlock::kMostFrames, 0.0F);
      to(p, i.audio[at(p)].data());
    }
  for (const auto* ports : {&atomIn_, &atomOut_})
    for (const int p : *ports) {
      i.atoms[at(p)].assign(kAtomBytes / sizeof(std::uint64_t), 0);
      to(p, i.atoms[at(p)].data());
    }
  for (const int p : unused_) to(p, nullptr);
}

void Plugin::runInstance(Instance& i, std::uint32_t frames) {
  const auto sequence = urids_.map(LV2_ATOM__Sequence);
  for (const int p : atomIn_) {
    auto* s = reinterpret_cast<LV2_Atom_Sequence*>(i.atoms[static_cast<std::size_t>(p)].data());
    *s = {{sizeof(LV2_Atom_Sequence_Body), sequence}, {0, 0}};
  }
  for (const int p : atomOut_) {
    auto* s = reinterpret_cast<LV2_Atom_Sequence*>(i.atoms[static_cast<std::size_t>(p)].data());
    s->atom = {static_cast<std::uint32_t>(kAtomBytes - sizeof(LV2_Atom)), urids_.map(LV2_ATOM__Chunk)};
  }
  lilv_instance_run(i.handle, frames);
  if (!i.worker) return;
  auto answers = std::move(i.responses);
  i.responses.clear();
  for (const auto& a : answers)
    if (i.worker->work_response)
      i.worker->work_response(lilv_instance_get_handle(i.handle), static_cast<std::uint32_t>(a.size()), a.data());
  if (i.worker->end_run) i.worker->end_run(lilv_instance_get_handle(i.handle));
}

void Plugin::run() {
  auto& b = *block_;
  const auto n = b.frames;
  const auto place = [](int port) { return static_cast<std::size_t>(port); };
  const auto fill = [&](Instance& i, int port, std::size_t channel) {
    std::copy_n(b.sound[std::min<std::size_t>(channel, b.channels - 1)].begin(), n, i.audio[place(port)].begin());
  };
  for (std::size_t k = 0; k < instances_.size(); ++k) {
    auto& i = *instances_[k];
    readControls(i);
    for (std::size_t c = sides_; c < audioIn_.size(); ++c)
      std::copy_n(b.key.begin(), n, i.audio[place(audioIn_[c])].begin());
    if (instances_.size() > 1) {
      fill(i, audioIn_[0], k);
    } else if (sides_ == 1 && b.channels == 2) {
      for (std::uint32_t f = 0; f < n; ++f) i.audio[place(audioIn_[0])][f] = (b.sound[0][f] + b.sound[1][f]) / 2;
    } else {
      for (std::size_t c = 0; c < sides_; ++c) fill(i, audioIn_[c], c);
    }
    runInstance(i, n);
  }
  for (std::uint32_t c = 0; c < b.channels; ++c) {
    auto& i = *instances_[instances_.size() > 1 ? c : 0];
    const auto out = instances_.size() > 1 ? 0 : std::min<std::size_t>(c, audioOut_.size() - 1);
    std::copy_n(i.audio[place(audioOut_[out])].begin(), n, b.sound[c].begin());
  }
  tell();
}

void Plugin::readControls(Instance& i) {
  for (std::size_t c = 0; c < controlIn_.size(); ++c)
    i.controls[static_cast<std::size_t>(controlIn_[c])] = block_->controls[c].load(std::memory_order_relaxed);
}

void Plugin::tell() {
  const auto& first = instances_.front()->controls;
  for (std::size_t c = 0; c < controlOut_.size(); ++c)
    block_->readings[c].store(first[static_cast<std::size_t>(controlOut_[c])], std::memory_order_relaxed);
  if (latencyPort_ >= 0)
    block_->latency.store(
        static_cast<std::uint32_t>(std::clamp(first[static_cast<std::size_t>(latencyPort_)], 0.0F, 1e6F)),
        std::memory_order_relaxed);
}

void Plugin::idle() {
  constexpr std::uint32_t kFrames = 64;
  for (auto& i : instances_) {
    readControls(*i);
    for (const int p : audioIn_) std::fill_n(i->audio[static_cast<std::size_t>(p)].begin(), kFrames, 0.0F);
    runInstance(*i, kFrames);
  }
  tell();
}

}  // namespace ochron::effects
