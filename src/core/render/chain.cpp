#include "render/chain.h"

#include "render/song_speed.h"

namespace ochron {
namespace {

/// What a node puts out, as the next one's input.
class NodeStream : public SongStream {
 public:
  NodeStream(ChainNode& node, SongStream& input) : node_(node), input_(input) {}
  void read(std::span<float> left, std::span<float> right) noexcept override { node_.process(left, right, input_); }
  double speed() const noexcept override { return 0; }  // the first node has played it at its speeds

 private:
  ChainNode& node_;
  SongStream& input_;
};

void processFrom(std::span<const std::unique_ptr<ChainNode>> nodes, std::span<float> left, std::span<float> right,
                 SongStream& input) noexcept {
  if (nodes.empty()) return input.read(left, right);
  NodeStream output(*nodes.front(), input);
  processFrom(nodes.subspan(1), left, right, output);
}

}  // namespace

Chain::Chain(int rate) {
  nodes_.push_back(std::make_unique<SongSpeed>());
  for (auto& n : nodes_) n->prepare(rate);
}
Chain::~Chain() = default;

void Chain::reset() noexcept {
  for (auto& n : nodes_) n->reset();
}

Frames Chain::latency() const noexcept {
  Frames out;
  for (const auto& n : nodes_) out += n->latency();
  return out;
}

Frames Chain::ahead() const noexcept { return nodes_.front()->ahead(); }

void Chain::process(std::span<float> left, std::span<float> right, SongStream& song) noexcept {
  processFrom(nodes_, left, right, song);
}

}  // namespace ochron
