#pragma once

#include <QString>
#include <cmath>

namespace ochron {

/// "1 hit", "212 hits".
inline QString counted(std::size_t n, const char* one, const char* many) {
  return QString::number(n) + ' ' + QString::fromUtf8(n == 1 ? one : many);
}

/// "+3.2", "-0.4" with a true minus, "0.0".
inline QString signedMs(double ms) {
  const auto sign = ms < -0.05 ? QStringLiteral("\u2212") : ms > 0.05 ? QStringLiteral("+") : QString();
  return sign + QString::number(std::abs(ms), 'f', 1);
}

}  // namespace ochron
