#pragma once

#include <CLI/CLI.hpp>
#include <string>
#include <string_view>

namespace ochron::cli {

/// The manual page of the command line (man(7)), made from the same descriptions as `--help`.
std::string manualPage(const CLI::App& app);
/// A Markdown section for each command with a table of its arguments and options, for docs/cli.md.
std::string optionTables(const CLI::App& app);
/// A script that completes commands, options and file names in "bash", "zsh" or "fish"; empty for other shells.
std::string completionsFor(const CLI::App& app, std::string_view shell);

}  // namespace ochron::cli
