// Runs a fuzz target once on every file of the folders and on every file named, so that the corpus is an ordinary test.
#include <cstdint>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <iterator>
#include <vector>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size);

int main(int argc, char** argv) {
  namespace fs = std::filesystem;
  int ran = 0;
  const auto run = [&](const fs::path& file) {
    std::ifstream in(file, std::ios::binary);
    const std::vector<char> bytes((std::istreambuf_iterator<char>(in)), {});
    LLVMFuzzerTestOneInput(reinterpret_cast<const std::uint8_t*>(bytes.data()), bytes.size());
    ++ran;
  };
  for (int i = 1; i < argc; ++i) {
    if (!fs::is_directory(argv[i])) {
      run(argv[i]);
      continue;
    }
    for (const auto& e : fs::directory_iterator(argv[i])) run(e.path());
  }
  std::printf("%d inputs\n", ran);
  return ran > 0 ? 0 : 1;
}
