#pragma once

#if defined(__SSE2__)
#include <xmmintrin.h>
#endif

namespace ochron {

/// While it lives, this thread takes numbers below 1e-308 (1e-38) for 0: filters that ring out into digital silence
/// would else spend twenty times as long on them.
class FlushDenormals {
 public:
  FlushDenormals(const FlushDenormals&) = delete;
  FlushDenormals& operator=(const FlushDenormals&) = delete;
#if defined(__SSE2__)
  FlushDenormals() : before_(_mm_getcsr()) { _mm_setcsr(before_ | kFlushToZero | kDenormalsAreZero); }
  ~FlushDenormals() { _mm_setcsr(before_); }

 private:
  static constexpr unsigned kFlushToZero = 0x8000;       // of the result
  static constexpr unsigned kDenormalsAreZero = 0x0040;  // of the operands
  const unsigned before_;
#else
  FlushDenormals() = default;
#endif
};

}  // namespace ochron
