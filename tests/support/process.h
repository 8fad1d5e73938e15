#pragma once

#include <string>
#include <vector>

namespace ochron::test {

struct Outcome {
  int status = -1;
  std::string out;
  std::string err;
};

/// Runs a program to its end.
Outcome run(const std::vector<std::string>& command);

}  // namespace ochron::test
