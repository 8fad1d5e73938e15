#pragma once

namespace ochron::test {

/// While one of these lives, allocating, freeing or locking on this thread ends the program.
class NoAllocationNoLock {
 public:
  NoAllocationNoLock();
  ~NoAllocationNoLock();
};

}  // namespace ochron::test
