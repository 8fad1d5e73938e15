#pragma once

#include <cstdio>
#include <cstdlib>

/// A property that must hold; ends the run when it does not, in every build.
#define OCHRON_HOLDS(condition)                                                          \
  do {                                                                                   \
    if (!(condition)) {                                                                  \
      std::fprintf(stderr, "%s:%d: %s does not hold\n", __FILE__, __LINE__, #condition); \
      std::abort();                                                                      \
    }                                                                                    \
  } while (false)
