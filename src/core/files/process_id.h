#pragma once

#include <cstdint>
#include <optional>
#include <string>
#include <string_view>

namespace ochron {

/// One run of a program on one machine. A process number alone is used again; with the time of its start it is not.
struct ProcessId {
  std::string host;
  std::string boot;  ///< the kernel's id of this start of the machine
  std::int64_t number = 0;
  std::uint64_t started = 0;  ///< clock ticks after the machine's start, as in /proc/PID/stat

  bool operator==(const ProcessId&) const = default;
};

/// This process.
const ProcessId& thisProcess();

enum class Life { running, gone, unknown };

/// Whether that process still runs. A process of another machine is `unknown`.
Life lifeOf(const ProcessId& process);

/// "NUMBER-STARTED": what names of temporary files carry. Read back for this machine and this start of it.
std::string shortText(const ProcessId& process);
std::optional<ProcessId> fromShortText(std::string_view text);

}  // namespace ochron
