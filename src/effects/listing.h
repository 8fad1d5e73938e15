#pragma once

#include <string>

namespace ochron::effects {

/// All plug-ins of this machine that have audio in and out, as one JSON document: {"effects": [...]}.
std::string listing();

}  // namespace ochron::effects
