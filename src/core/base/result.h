#pragma once

#include <string>
#include <tl/expected.hpp>
#include <utility>

namespace ochron {

/// `damaged`: a file of which a part can be used, if the user says so.
enum class ErrorKind { badInput, notFound, ioFailed, cancelled, refused, damaged };

/// What went wrong, in one sentence for the user: what, where, what to do. `detail` is for the log.
struct Error {
  ErrorKind kind = ErrorKind::badInput;
  std::string message;
  std::string detail;

  bool operator==(const Error&) const = default;
};

template <class T>
using Result = tl::expected<T, Error>;

[[nodiscard]] inline tl::unexpected<Error> fail(ErrorKind kind, std::string message, std::string detail = {}) {
  return tl::unexpected<Error>(Error{kind, std::move(message), std::move(detail)});
}

}  // namespace ochron
