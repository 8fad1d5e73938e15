#include "base/all_cores.h"

#include <algorithm>
#include <atomic>
#include <chrono>
#include <future>
#include <thread>
#include <vector>

namespace ochron {

void onAllCores(std::size_t count, Progress& progress, const std::function<void(std::size_t, Progress&)>& work,
                std::size_t most) {
  if (count == 0) return;
  std::vector<Progress> parts(count);
  std::atomic<std::size_t> next{0};
  const auto run = [&] {
    for (auto i = next++; i < count; i = next++) {
      if (parts[i].cancelled()) continue;
      work(i, parts[i]);
      parts[i].report(1);
    }
  };
  const auto cores = std::clamp<std::size_t>(std::thread::hardware_concurrency(), 1, std::min(count, most));
  std::vector<std::future<void>> workers;
  for (std::size_t i = 0; i < cores; ++i) workers.push_back(std::async(std::launch::async, run));
  for (auto& w : workers)
    while (w.wait_for(std::chrono::milliseconds(20)) != std::future_status::ready) {
      double done = 0;
      for (auto& p : parts) {
        done += p.fraction() / static_cast<double>(parts.size());
        if (progress.cancelled()) p.cancel();
      }
      progress.report(done);
    }
  for (auto& w : workers) w.get();
}

}  // namespace ochron
