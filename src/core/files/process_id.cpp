#include "files/process_id.h"

#include <signal.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <charconv>
#include <fstream>

namespace ochron {
namespace {

std::string firstLineOf(const std::string& file) {
  std::ifstream in(file);
  std::string line;
  std::getline(in, line);
  return line;
}

template <class N>
std::optional<N> wholeNumber(std::string_view text) {
  N n = 0;
  const auto r = std::from_chars(text.data(), text.data() + text.size(), n);
  if (r.ec != std::errc{} || r.ptr != text.data() + text.size()) return std::nullopt;
  return n;
}

/// Field 22 of /proc/PID/stat (proc(5)); none when there is no such process.
std::optional<std::uint64_t> startOf(std::int64_t number) {
  const auto line = firstLineOf("/proc/" + std::to_string(number) + "/stat");
  const auto name = line.rfind(')');
  if (name == std::string::npos) return std::nullopt;
  std::size_t at = name + 1;
  constexpr int kFieldsAfterName = 19;  // from the third, after the name, to the 22nd
  for (int field = 0; field < kFieldsAfterName && at != std::string::npos; ++field) at = line.find(' ', at + 1);
  if (at == std::string::npos) return std::nullopt;
  const auto end = line.find(' ', at + 1);
  return wholeNumber<std::uint64_t>(std::string_view(line).substr(at + 1, end - at - 1));
}

ProcessId readThisProcess() {
  std::array<char, 256> host{};
  ::gethostname(host.data(), host.size() - 1);
  ProcessId p;
  p.host = host.data();
  p.boot = firstLineOf("/proc/sys/kernel/random/boot_id");
  p.number = ::getpid();
  p.started = startOf(p.number).value_or(0);
  return p;
}

}  // namespace

const ProcessId& thisProcess() {
  static ProcessId process = readThisProcess();
  if (process.number != ::getpid()) process = readThisProcess();  // after a fork, which leaves one thread
  return process;
}

Life lifeOf(const ProcessId& process) {
  const auto& here = thisProcess();
  if (process.host != here.host) return Life::unknown;
  if (process.boot != here.boot) return Life::gone;
  if (::kill(static_cast<pid_t>(process.number), 0) != 0 && errno == ESRCH) return Life::gone;
  const auto started = startOf(process.number);
  return started && *started == process.started ? Life::running : Life::gone;
}

std::string shortText(const ProcessId& process) {
  return std::to_string(process.number) + "-" + std::to_string(process.started);
}

std::optional<ProcessId> fromShortText(std::string_view text) {
  const auto dash = text.find('-');
  if (dash == std::string_view::npos) return std::nullopt;
  const auto number = wholeNumber<std::int64_t>(text.substr(0, dash));
  const auto started = wholeNumber<std::uint64_t>(text.substr(dash + 1));
  if (!number || !started || *number <= 0) return std::nullopt;
  return ProcessId{thisProcess().host, thisProcess().boot, *number, *started};
}

}  // namespace ochron
