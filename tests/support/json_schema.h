#pragma once

#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace ochron::test {

/// What of a document does not hold to a schema, one sentence each, by the keywords of JSON Schema (draft 2020-12) that
/// ours use. A keyword that this does not know is a fault, too.
std::vector<std::string> faultsBySchema(const nlohmann::json& document, const nlohmann::json& schema);

}  // namespace ochron::test
