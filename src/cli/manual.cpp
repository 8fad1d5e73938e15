#include "manual.h"

#include <algorithm>
#include <vector>

namespace ochron::cli {
namespace {

constexpr const char* kName = "orthochron-cli";

/// As troff reads it: no line is taken for a request, no hyphen for a word's.
std::string troff(const std::string& text) {
  std::string out;
  for (const char c : text) {
    if (c == '\\')
      out += "\\\\";
    else if (c == '-')
      out += "\\-";
    else
      out += c;
  }
  if (out.starts_with('.') || out.starts_with('\'')) out.insert(0, "\\&");
  return out;
}

std::string quoted(const std::string& text, char quote) {
  std::string out;
  for (const char c : text) {
    if (c == quote) out += quote == '\'' ? "'\\'" : "\\";
    out += c;
  }
  return out;
}

std::vector<const CLI::App*> commandsOf(const CLI::App& app) {
  auto all = app.get_subcommands([](const CLI::App*) { return true; });
  return {all.begin(), all.end()};
}

/// Arguments and options, those of option groups too, without --help.
std::vector<const CLI::Option*> takenBy(const CLI::App& command) {
  std::vector<const CLI::Option*> out;
  for (const auto* o : command.get_options())
    if (o->get_name() != "--help") out.push_back(o);
  for (const auto* group : command.get_subcommands([](const CLI::App*) { return true; }))
    for (const auto* o : takenBy(*group)) out.push_back(o);
  return out;
}

std::vector<const CLI::Option*> optionsOf(const CLI::App& command) {
  std::vector<const CLI::Option*> out;
  for (const auto* o : takenBy(command))
    if (!o->get_lnames().empty()) out.push_back(o);
  return out;
}

std::string argumentsOf(const CLI::App& command) {
  std::string out;
  for (const auto* o : command.get_options())
    if (o->get_positional()) out += " " + o->get_name(true) + (o->get_items_expected_max() > 1 ? "..." : "");
  return out;
}

}  // namespace

std::string manualPage(const CLI::App& app) {
  std::string out = ".TH ORTHOCHRON\\-CLI 1 \"\" \"Orthochron " + troff(app.version()) + "\" \"User Commands\"\n";
  out += ".SH NAME\n" + std::string("orthochron\\-cli \\- ") + troff(app.get_description()) + "\n";
  out += ".SH SYNOPSIS\n.B orthochron\\-cli\n.I COMMAND\n[\\fIoptions\\fR]\n";
  out +=
      ".SH DESCRIPTION\nSlices, quantizes, stretches, tempo\\-maps and pitch\\-corrects recordings, and writes what a "
      "project of Orthochron holds. All outputs of a run appear together at its end, or none does.\n";
  out += ".SH COMMANDS\n";
  for (const auto* c : commandsOf(app)) {
    out += ".SS \"" + troff(c->get_name() + argumentsOf(*c)) + "\"\n" + troff(c->get_description()) + ".\n";
    for (const auto* o : takenBy(*c))
      out += ".TP\n.B " + troff(o->get_positional() ? o->get_name(true) : o->get_name(false, true)) + "\n" +
             troff(o->get_description()) + "\n";
  }
  out +=
      ".SH EXIT STATUS\n0: done. 1: wrong use. 2: bad input; one line on standard error says what, where and what to "
      "do.\n.SH SEE ALSO\n.BR orthochron (1)\n";
  return out;
}

namespace {

/// What an option takes, from the library's name of its type: "FLOAT:20 to 400", "TEXT:{kick,snare}", "INT".
std::string takesOf(const CLI::Option& option) {
  const auto type = option.get_type_name();
  const auto colon = type.find(':');
  auto bound = colon == std::string::npos ? std::string() : type.substr(colon + 1);
  if (const auto in = bound.find(" in "); in != std::string::npos) bound = bound.substr(in + 4);
  std::erase_if(bound, [](char c) { return c == '{' || c == '}' || c == '[' || c == ']' || c == '(' || c == ')'; });
  for (auto at = bound.find(','); at != std::string::npos; at = bound.find(',', at + 2)) bound.replace(at, 1, ", ");
  for (const auto& [theirs, ours] : {std::pair{" - ", " to "}, std::pair{" OR ", " or "}})
    if (const auto at = bound.find(theirs); at != std::string::npos)
      bound.replace(at, std::string_view(theirs).size(), ours);
  if (!bound.empty()) return bound;
  return type.starts_with("INT") ? "whole number" : type.starts_with("FLOAT") ? "number" : "text";
}

}  // namespace

std::string optionTables(const CLI::App& app) {
  const auto cell = [](std::string text) {
    for (auto at = text.find('|'); at != std::string::npos; at = text.find('|', at + 2)) text.insert(at, 1, '\\');
    return text;
  };
  std::string out;
  for (const auto* c : commandsOf(app)) {
    out += "## " + c->get_name() + "\n\n| option | takes | what it does |\n|---|---|---|\n";
    for (const auto* o : takenBy(*c)) {
      auto takes = o->get_expected_max() == 0 ? std::string("–") : takesOf(*o);
      if (!o->get_default_str().empty()) takes += ", else " + o->get_default_str();
      const auto name = o->get_positional() ? o->get_name(true) : o->get_name(false, true);
      out += "| `" + name + "`" + (o->get_required() ? ", needed" : "") + " | " + cell(takes) + " | " +
             cell(o->get_description()) + " |\n";
    }
    out += "\n";
  }
  return out;
}

std::string completionsFor(const CLI::App& app, std::string_view shell) {
  std::string out;
  if (shell == "bash") {
    std::string commands;
    std::string cases;
    for (const auto* c : commandsOf(app)) {
      commands += c->get_name() + " ";
      cases += "    " + c->get_name() + ") words=\"";
      for (const auto* o : optionsOf(*c)) cases += "--" + o->get_lnames().front() + " ";
      cases += "\" ;;\n";
    }
    return std::string("# bash completion for ") + kName +
           "\n_orthochron_cli() {\n  local now=${COMP_WORDS[COMP_CWORD]} words=\n" +
           "  if [ \"$COMP_CWORD\" -eq 1 ]; then\n    COMPREPLY=($(compgen -W \"" + commands +
           "\" -- \"$now\"))\n    return\n  fi\n  case ${COMP_WORDS[1]} in\n" + cases +
           "  esac\n  case $now in\n    -*) COMPREPLY=($(compgen -W \"$words\" -- \"$now\")) ;;\n"
           "    *) COMPREPLY=($(compgen -f -- \"$now\")) ;;\n  esac\n}\ncomplete -o filenames -F _orthochron_cli " +
           kName + "\n";
  }
  if (shell == "zsh") {
    out = std::string("#compdef ") + kName + "\n_arguments -C '1:command:->command' '*::argument:->arguments'\n" +
          "case $state in\n  command)\n    local -a all=(\n";
    for (const auto* c : commandsOf(app))
      out += "      '" + c->get_name() + ":" + quoted(c->get_description(), '\'') + "'\n";
    out += "    )\n    _describe command all ;;\n  arguments)\n    case $words[1] in\n";
    for (const auto* c : commandsOf(app)) {
      out += "      " + c->get_name() + ") _arguments '*:file:_files'";
      for (const auto* o : optionsOf(*c)) out += " '--" + o->get_lnames().front() + "'";
      out += " ;;\n";
    }
    return out + "    esac ;;\nesac\n";
  }
  if (shell == "fish") {
    for (const auto* c : commandsOf(app)) {
      out += std::string("complete -c ") + kName + " -n __fish_use_subcommand -a " + c->get_name() + " -d '" +
             quoted(c->get_description(), '\'') + "'\n";
      for (const auto* o : optionsOf(*c))
        out += std::string("complete -c ") + kName + " -n '__fish_seen_subcommand_from " + c->get_name() + "' -l " +
               o->get_lnames().front() + (o->get_expected_max() > 0 ? " -r" : "") + " -d '" +
               quoted(o->get_description(), '\'') + "'\n";
    }
  }
  return out;
}

}  // namespace ochron::cli
