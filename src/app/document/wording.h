#pragma once

#include <QString>

namespace ochron {

/// "1 hit", "212 hits".
inline QString counted(std::size_t n, const char* one, const char* many) {
  return QString::number(n) + ' ' + QString::fromUtf8(n == 1 ? one : many);
}

}  // namespace ochron
