// orthochron-cli: the core for batch work and scripts. The contract is in docs/cli.md.

#include <cstdio>

#include "commands.h"

int main(int argc, char** argv) {
  using namespace ochron;
  CLI::App app{"Orthochron for batch work and scripts"};
  app.set_version_flag("--version", OCHRON_VERSION);
  app.require_subcommand(1);
  cli::Command chosen;
  cli::addHits(app, chosen);
  cli::addQuantize(app, chosen);
  cli::addRender(app, chosen);
  cli::addInfo(app, chosen);
  try {
    app.parse(argc, argv);
  } catch (const CLI::ParseError& e) { return app.exit(e) == 0 ? 0 : 1; }
  const auto text = chosen();
  if (!text) {
    std::fprintf(stderr, "orthochron-cli: %s\n", text.error().message.c_str());
    return 2;
  }
  std::fputs(text->c_str(), stdout);
  return std::fflush(stdout) == 0 ? 0 : 2;
}
