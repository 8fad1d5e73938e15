#pragma once

#include <stdlib.h>

#include <filesystem>

/// A folder of its own for what a target keeps, named by an environment variable from now on.
inline std::filesystem::path fuzzHome(const char* variable) {
  char pattern[] = "/tmp/ochron-fuzz-XXXXXX";
  std::filesystem::path made = ::mkdtemp(pattern);
  ::setenv(variable, made.c_str(), 1);
  return made;
}
