#include "effects/catalog.h"

#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <spawn.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <array>
#include <cerrno>
#include <chrono>
#include <nlohmann/json.hpp>
#include <optional>

#include "files/content_id.h"
#include "files/temporary.h"
#include "files/whole_folder.h"

extern char** environ;

namespace ochron {
namespace fs = std::filesystem;
namespace {

using Json = nlohmann::json;

constexpr const char* kProgram = "orthochron-effects";
constexpr auto kListPatience = std::chrono::minutes(5);
constexpr auto kPresetPatience = std::chrono::seconds(20);

const Json& listIn(const Json& x, const char* key) {
  static const Json none = Json::array();
  const auto found = x.find(key);
  return found == x.end() ? none : *found;
}

EffectControl readControl(const Json& x) {
  EffectControl c;
  c.symbol = x.value("symbol", "");
  c.name = x.value("name", c.symbol);
  c.group = x.value("group", "");
  c.unit = x.value("unit", "");
  c.low = x.value("low", 0.0);
  c.high = x.value("high", 1.0);
  c.fallback = x.value("default", c.low);
  c.toggled = x.value("toggled", false);
  c.whole = x.value("whole", false);
  c.logarithmic = x.value("logarithmic", false) && c.low > 0;
  c.chosen = x.value("chosen", false);
  c.ofRate = x.value("of rate", false);
  c.hidden = x.value("hidden", false);
  for (const auto& p : listIn(x, "points")) c.points.push_back({p.value("label", ""), p.value("value", 0.0)});
  std::stable_sort(c.points.begin(), c.points.end(), [](const auto& a, const auto& b) { return a.value < b.value; });
  return c;
}

EffectInfo readInfo(const Json& x) {
  EffectInfo e;
  e.uri = x.value("uri", "");
  e.name = x.value("name", e.uri);
  e.kind = x.value("kind", "");
  e.bundle = x.value("bundle", "");
  e.inputs = x.value("inputs", 1);
  e.outputs = x.value("outputs", 1);
  e.keyed = x.value("keyed", false);
  for (const auto& c : listIn(x, "controls")) e.controls.push_back(readControl(c));
  for (const auto& c : listIn(x, "readings")) e.readings.push_back(readControl(c));
  for (const auto& p : listIn(x, "presets")) {
    EffectPreset preset{p.value("uri", ""), p.value("name", ""), {}, p.value("state", false)};
    for (auto it = p.at("values").begin(); it != p.at("values").end(); ++it)
      preset.values[it.key()] = it.value().get<double>();
    e.presets.push_back(std::move(preset));
  }
  return e;
}

/// What this program's helper writes to its output; none where it did not end well, or not in time.
std::optional<std::string> outputOf(const fs::path& program, const std::vector<std::string>& arguments,
                                    std::chrono::milliseconds most) {
  std::array<int, 2> pipe{};
  if (::pipe2(pipe.data(), O_CLOEXEC) != 0) return std::nullopt;
  posix_spawn_file_actions_t actions;
  posix_spawn_file_actions_init(&actions);
  posix_spawn_file_actions_adddup2(&actions, pipe[1], STDOUT_FILENO);
  posix_spawn_file_actions_addopen(&actions, STDERR_FILENO, "/dev/null", O_WRONLY, 0);
  const std::string name = program.string();
  std::vector<char*> args{const_cast<char*>(name.c_str())};
  for (const auto& a : arguments) args.push_back(const_cast<char*>(a.c_str()));
  args.push_back(nullptr);
  pid_t child = 0;
  const int failed = ::posix_spawn(&child, name.c_str(), &actions, nullptr, args.data(), environ);
  posix_spawn_file_actions_destroy(&actions);
  ::close(pipe[1]);
  std::string text;
  std::array<char, 1 << 16> room;  // NOLINT(cppcoreguidelines-pro-type-member-init): filled where it is read
  const auto until = std::chrono::steady_clock::now() + most;
  bool late = false;
  while (failed == 0) {
    const auto left =
        std::chrono::duration_cast<std::chrono::milliseconds>(until - std::chrono::steady_clock::now()).count();
    pollfd readable{pipe[0], POLLIN, 0};
    const int ready = left > 0 ? ::poll(&readable, 1, static_cast<int>(left)) : 0;
    late = ready == 0;
    const ssize_t n = ready > 0 ? ::read(pipe[0], room.data(), room.size()) : ready;
    if (n < 0 && errno == EINTR) continue;
    if (n <= 0) break;
    text.append(room.data(), static_cast<std::size_t>(n));
  }
  ::close(pipe[0]);
  if (failed != 0) return std::nullopt;
  if (late) ::kill(child, SIGKILL);
  int status = 0;
  ::waitpid(child, &status, 0);
  if (!WIFEXITED(status) || WEXITSTATUS(status) != 0) return std::nullopt;
  return text;
}

}  // namespace

EffectInfo EffectInfo::atRate(int rate) const {
  EffectInfo out = *this;
  for (auto* list : {&out.controls, &out.readings})
    for (auto& c : *list)
      if (c.ofRate) {
        for (auto* v : {&c.low, &c.high, &c.fallback}) *v *= rate;
        for (auto& p : c.points) p.value *= rate;
        c.ofRate = false;
      }
  return out;
}

Result<fs::path> effectsProgram() {
  std::error_code ec;
  const auto beside = fs::read_symlink("/proc/self/exe", ec).parent_path() / kProgram;
  if (fs::exists(beside, ec)) return beside;
  return fail(ErrorKind::notFound,
              std::string(kProgram) + " is not beside this program, so effects cannot be heard. Install it again.");
}

Result<std::vector<EffectInfo>> listEffects() {
  const auto program = effectsProgram();
  if (!program) return tl::unexpected(program.error());
  const auto text = outputOf(*program, {"--list"}, kListPatience);
  if (!text)
    return fail(ErrorKind::ioFailed,
                "The effects of this machine could not be listed: a plug-in may be broken. Songs play without them.");
  std::vector<EffectInfo> out;
  try {
    const auto all = Json::parse(*text);
    for (const auto& x : all.at("effects")) out.push_back(readInfo(x));
  } catch (const Json::exception& e) {
    return fail(ErrorKind::ioFailed, "The list of effects cannot be read. Songs play without them.", e.what());
  }
  std::stable_sort(out.begin(), out.end(), [](const EffectInfo& a, const EffectInfo& b) { return a.name < b.name; });
  return out;
}

Result<EffectState> stateOf(const EffectInfo& effect, const EffectPreset& preset) {
  const auto program = effectsProgram();
  if (!program) return tl::unexpected(program.error());
  const auto scratch = ScratchFolder::make();
  if (!scratch) return tl::unexpected(scratch.error());
  const auto folder = scratch->path() / "state";
  if (!outputOf(*program, {"--state", effect.uri, preset.uri, folder.string()}, kPresetPatience))
    return fail(ErrorKind::ioFailed, "\"" + preset.name + "\" of " + effect.name +
                                         " could not be used, so nothing was changed. Choose another one.");
  EffectState state;
  std::error_code ec;
  if (!fs::exists(folder, ec)) return state;
  auto files = readWholeFolder(folder, kMostEffectFiles, kLargestEffectState);
  if (!files)
    return fail(
        ErrorKind::refused,
        "\"" + preset.name + "\" of " + effect.name + " holds too much to be kept with a song. Choose another one.",
        files.error().message);
  if (files->empty()) return state;
  state.id = contentId(*files);
  state.files = std::move(*files);
  return state;
}

}  // namespace ochron
