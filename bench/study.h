#pragma once

#include <fstream>
#include <iostream>
#include <nlohmann/json.hpp>

namespace ochron {

/// Studies every item of the JSON list that is the program's only argument; prints what is found of each, as a list.
template <class Study>
int studyList(int argc, char** argv, const Study& studied) {
  if (argc != 2) return std::cerr << argv[0] << " LIST.json\n", 2;
  std::ifstream in(argv[1]);
  nlohmann::json out = nlohmann::json::array();
  for (const auto& item : nlohmann::json::parse(in)) out.push_back(studied(item));
  std::cout << out.dump() << "\n";
  return 0;
}

}  // namespace ochron
