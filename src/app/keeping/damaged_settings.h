#pragma once

#include <QString>
#include <optional>

namespace ochron {

/// Copies the user's settings aside when they cannot be read whole, before anything is written to them. To be called
/// before anything else reads them. A sentence for the user when it did.
std::optional<QString> keepDamagedSettings();

}  // namespace ochron
