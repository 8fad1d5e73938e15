#pragma once

#include <stdlib.h>

#include <filesystem>
#include <string>

namespace ochron::test {

/// A folder of its own for one test; gone afterwards.
class Scratch {
 public:
  Scratch() {
    auto pattern = (std::filesystem::temp_directory_path() / "ochron-test-XXXXXX").string();
    path_ = ::mkdtemp(pattern.data());
  }
  ~Scratch() {
    std::error_code ec;
    std::filesystem::remove_all(path_, ec);
  }
  Scratch(const Scratch&) = delete;
  Scratch& operator=(const Scratch&) = delete;
  const std::filesystem::path& path() const { return path_; }
  std::filesystem::path operator/(const std::string& name) const { return path_ / name; }

 private:
  std::filesystem::path path_;
};

}  // namespace ochron::test
