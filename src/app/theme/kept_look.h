#pragma once

namespace ochron {

/// Sheet and size of text as the user chose them, for the next start; what follows the desktop is not kept.
void keepLook();
void useKeptLook();

}  // namespace ochron
