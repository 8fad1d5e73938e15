#pragma once

namespace ochron {

/// A part of the document that remembers things of the open song: it is found among the document's children and told
/// when another one opens.
class SongMemory {
 public:
  SongMemory() = default;
  SongMemory(const SongMemory&) = delete;
  SongMemory& operator=(const SongMemory&) = delete;
  virtual ~SongMemory() = default;
  /// Nothing that was remembered holds. The song that is open now is known already.
  virtual void forget() = 0;
};

}  // namespace ochron
