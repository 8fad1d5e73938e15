// orthochron-cli: the core for batch work and scripts. The contract is in docs/cli.md.

#include <cstdio>
#include <exception>
#include <string>

#include "commands.h"
#include "files/signal_watch.h"
#include "files/temporary.h"
#include "manual.h"

namespace {

/// One line on standard error, whatever the sentence holds.
int complain(std::string sentence) {
  for (auto& c : sentence)
    if (static_cast<unsigned char>(c) < 32) c = ' ';
  std::fprintf(stderr, "orthochron-cli: %s\n", sentence.c_str());
  ochron::removeOwnTemporaries();
  return 2;
}

/// Whether something that a command cannot do without was given an empty name.
bool anyNameIsEmpty(const CLI::App& app) {
  for (const auto* command : app.get_subcommands())
    for (const auto* option : command->get_options([](const CLI::Option* o) { return o->get_required(); }))
      for (const auto& name : option->results())
        if (name.empty()) return true;
  return false;
}

int run(int argc, char** argv) {
  using namespace ochron;
  CLI::App app{"Orthochron for batch work and scripts"};
  app.set_version_flag("--version", OCHRON_VERSION);
  app.require_subcommand(1);
  cli::Command chosen;
  cli::addHits(app, chosen);
  cli::addQuantize(app, chosen);
  cli::addRender(app, chosen);
  cli::addInfo(app, chosen);
  cli::addTempo(app, chosen);
  cli::addStretch(app, chosen);
  cli::addPitch(app, chosen);
  cli::addTune(app, chosen);
  cli::addMap(app, chosen);
  cli::addLayerCommand(app, chosen);
  cli::addSlices(app, chosen);
  cli::addPrint(app, chosen);
  cli::addHandover(app, chosen);
  cli::addLoudness(app, chosen);
  cli::addArchive(app, chosen);
  cli::addEffects(app, chosen);
  // For packages: what is installed beside the program comes from its own descriptions.
  if (argc == 2 && std::string(argv[1]) == "--print-manual")
    return std::fputs(cli::manualPage(app).c_str(), stdout) < 0 ? 2 : 0;
  if (argc == 2 && std::string(argv[1]) == "--print-options")
    return std::fputs(cli::optionTables(app).c_str(), stdout) < 0 ? 2 : 0;
  if (argc == 3 && std::string(argv[1]) == "--print-completions")
    return std::fputs(cli::completionsFor(app, argv[2]).c_str(), stdout) < 0 ? 2 : 0;
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) { return app.exit(e) == 0 ? 0 : 1; }
  if (anyNameIsEmpty(app)) return complain("The name of a file or folder is empty. Give its name.");
  const auto text = chosen();
  if (!text && text.error().kind == ErrorKind::damaged)
    return complain(text.error().message + " Or use what can be read of it: --accept-damaged.");
  if (!text) return complain(text.error().message);
  std::fputs(text->c_str(), stdout);
  return std::fflush(stdout) == 0 ? 0 : 2;
}

}  // namespace

int main(int argc, char** argv) {
  const ochron::SignalWatch watch;
  try {
    return run(argc, argv);
  } catch (const std::exception& e) {
    return complain(std::string("Something unforeseen went wrong (") + e.what() + "). Nothing was written.");
  }
}
