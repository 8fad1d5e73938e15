// The user's library of fades.
#include <QCoreApplication>
#include <QStandardPaths>
#include <filesystem>
#include <fstream>

#include "document/fade_library.h"
#include "fuzz/check.h"
#include "fuzz/home.h"

using namespace ochron;
namespace fs = std::filesystem;

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  static const auto home = [] {
    fuzzHome("XDG_DATA_HOME");
    return fs::path(QStandardPaths::writableLocation(QStandardPaths::AppLocalDataLocation).toStdString());
  }();
  fs::remove_all(home);
  fs::create_directories(home);
  std::ofstream(home / "fades.json", std::ios::binary)
      .write(reinterpret_cast<const char*>(data), static_cast<std::streamsize>(size));
  QString problem;
  const auto before = FadeLibrary::fades(&problem);
  // A damaged file is aside now, and what is kept afterwards is there.
  OCHRON_HOLDS(problem.isEmpty() || before.empty());
  OCHRON_HOLDS(FadeLibrary::keep({"kept", {}}).has_value());
  const auto after = FadeLibrary::fades();
  OCHRON_HOLDS(!after.empty());
  return 0;
}
