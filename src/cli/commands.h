#pragma once

#include <CLI/CLI.hpp>
#include <functional>
#include <string>

#include "base/result.h"

namespace ochron::cli {

/// A command's work: the text for standard output, or what went wrong.
using Command = std::function<Result<std::string>()>;

// Each adds its subcommand and its options; the command runs after parsing.
void addHits(CLI::App& app, Command& chosen);
void addQuantize(CLI::App& app, Command& chosen);
void addRender(CLI::App& app, Command& chosen);
void addInfo(CLI::App& app, Command& chosen);
void addLayerCommand(CLI::App& app, Command& chosen);
void addPrint(CLI::App& app, Command& chosen);
void addHandover(CLI::App& app, Command& chosen);
void addArchive(CLI::App& app, Command& chosen);
void addEffects(CLI::App& app, Command& chosen);
void addLoudness(CLI::App& app, Command& chosen);
void addSlices(CLI::App& app, Command& chosen);
void addMap(CLI::App& app, Command& chosen);
void addPitch(CLI::App& app, Command& chosen);
void addStretch(CLI::App& app, Command& chosen);
void addTempo(CLI::App& app, Command& chosen);
void addTune(CLI::App& app, Command& chosen);

}  // namespace ochron::cli
