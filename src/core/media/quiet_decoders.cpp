#include "media/quiet_decoders.h"

#include <fcntl.h>
#include <unistd.h>

#include <mutex>

namespace ochron {
namespace {

std::mutex mutex;
int depth = 0;
int realError = -1;

}  // namespace

QuietDecoders::QuietDecoders(bool on) : on_(on) {
  if (!on_) return;
  const std::scoped_lock lock(mutex);
  if (depth++ > 0) return;
  const int nowhere = ::open("/dev/null", O_WRONLY | O_CLOEXEC);
  if (nowhere < 0) return;
  realError = ::fcntl(STDERR_FILENO, F_DUPFD_CLOEXEC, 3);
  if (realError >= 0) ::dup2(nowhere, STDERR_FILENO);
  ::close(nowhere);
}

QuietDecoders::~QuietDecoders() {
  if (!on_) return;
  const std::scoped_lock lock(mutex);
  if (--depth > 0 || realError < 0) return;
  ::dup2(realError, STDERR_FILENO);
  ::close(realError);
  realError = -1;
}

}  // namespace ochron
