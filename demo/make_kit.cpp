// Makes the small kit that ships with the program: drums that are computed, nothing recorded, in levels and alternates,
// with an SFZ instrument for each and one for all. The same output every time.

#include <cmath>
#include <cstdio>
#include <filesystem>
#include <fstream>
#include <numbers>
#include <random>
#include <string>
#include <vector>

#include "media/audio_file.h"
#include "store/sfz_file.h"

namespace {

using namespace ochron;
namespace fs = std::filesystem;

constexpr int kRate = 48'000;
constexpr double kTau = 2 * std::numbers::pi;

/// A drum by its parts. `hard`: 0 to 1.
struct Drum {
  const char* name;
  int key;
  double seconds;
  double hertz;   ///< of its skin
  double drop;    ///< how far it starts above that, a factor
  double skinMs;  ///< in which the skin falls by 60 dB
  double noise;   ///< share of the wires or of the air
  double noiseMs;
  double noiseLow;  ///< Hz, the band of that
  double noiseHigh;
  int levels;
  int alternates;
};

const std::vector<Drum> kDrums{
    {"kick", 36, 0.55, 52, 3.2, 420, 0.10, 22, 1500, 6000, 3, 2},
    {"snare", 38, 0.42, 186, 1.25, 190, 0.85, 210, 1200, 11'000, 4, 2},
    {"clap", 39, 0.35, 0, 1, 1, 1.0, 180, 900, 7000, 1, 3},
    {"tom", 45, 0.60, 98, 1.4, 430, 0.12, 40, 800, 4000, 3, 1},
    {"hat", 42, 0.16, 0, 1, 1, 1.0, 70, 6500, 16'000, 3, 2},
};

/// A band of noise by two one-pole filters each way.
class Band {
 public:
  Band(double low, double high)
      : lowShare_(1 - std::exp(-kTau * low / kRate)), highShare_(1 - std::exp(-kTau * high / kRate)) {}
  double next(double x) {
    for (auto& s : high_) x = s += highShare_ * (x - s);
    for (auto& s : low_) {
      s += lowShare_ * (x - s);
      x -= s;
    }
    return x;
  }

 private:
  double lowShare_, highShare_;
  double high_[2]{};
  double low_[2]{};
};

std::vector<float> strike(const Drum& d, double hard, unsigned seed) {
  std::mt19937 dice(seed);
  std::normal_distribution<double> hiss(0, 0.4);
  std::uniform_real_distribution<double> vary(-1, 1);
  const double tune = 1 + 0.006 * vary(dice);
  const double bright = 0.55 + 0.45 * hard;
  Band band(d.noiseLow * (0.9 + 0.1 * hard), d.noiseHigh * bright);
  std::vector<float> out(static_cast<std::size_t>(d.seconds * kRate));
  double phase = 0.25 + 0.02 * vary(dice);
  float peak = 0;
  const bool clap = std::string(d.name) == "clap";
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double t = static_cast<double>(i) / kRate;
    const double hz = d.hertz * tune * (1 + (d.drop - 1) * hard * std::exp(-t / 0.018));
    phase += hz / kRate;
    const double skin = d.hertz > 0 ? std::sin(kTau * phase) * std::exp(-6.9 * t * 1000 / d.skinMs) : 0;
    // Hands do not meet at once.
    const double hands = clap ? std::max({std::exp(-t / 0.004), t > 0.011 ? std::exp(-(t - 0.011) / 0.004) : 0.0,
                                          t > 0.023 ? std::exp(-(t - 0.023) * 6900 / d.noiseMs) : 0.0})
                              : std::exp(-6.9 * t * 1000 / (d.noiseMs * (0.7 + 0.3 * hard)));
    const double air = band.next(hiss(dice)) * hands;
    const double click = (1 - d.noise) * hard * 0.5 * std::exp(-t / 0.0012) * std::cos(kTau * 2400 * t);
    out[i] = static_cast<float>((1 - 0.5 * d.noise) * skin + d.noise * 2.2 * air + click);
    peak = std::max(peak, std::abs(out[i]));
  }
  const auto level = static_cast<float>(0.9 * std::pow(10.0, -18 * (1 - hard) / 20));
  const auto fade = static_cast<std::size_t>(0.02 * kRate);
  for (std::size_t i = 0; i < out.size(); ++i) {
    out[i] *= level / peak;
    if (out.size() - i <= fade) out[i] *= static_cast<float>(out.size() - i) / static_cast<float>(fade);
  }
  return out;
}

}  // namespace

int main(int argc, char** argv) {
  if (argc != 2) return std::fputs("usage: make_kit FOLDER\n", stderr), 1;
  const fs::path folder = argv[1];
  fs::create_directories(folder / "samples");
  std::vector<SfzSound> all;
  unsigned seed = 20;
  for (const auto& d : kDrums) {
    std::vector<SfzSound> own;
    for (int level = 0; level < d.levels; ++level)
      for (int alternate = 0; alternate < d.alternates; ++alternate) {
        const double hard = d.levels == 1 ? 1 : 0.25 + 0.75 * level / (d.levels - 1);
        const auto name = "samples/" + std::string(d.name) + " " + std::to_string(level + 1) +
                          static_cast<char>('a' + alternate) + ".flac";
        auto writer = AudioFileWriter::create(folder / name, {FileFormat::flac, SampleFormat::pcm16, kRate, 1});
        if (!writer || !writer->write(strike(d, hard, ++seed)) || !writer->finish())
          return std::fprintf(stderr, "make_kit: %s cannot be written\n", name.c_str()), 2;
        own.push_back({name, d.key, level * 127 / d.levels + 1, (level + 1) * 127 / d.levels});
      }
    std::ofstream(folder / (std::string("Paper ") + d.name + ".sfz")) << sfzText(own);
    all.insert(all.end(), own.begin(), own.end());
  }
  std::ofstream(folder / "Paper kit.sfz") << sfzText(all);
  return 0;
}
