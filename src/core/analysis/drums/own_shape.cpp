#include "analysis/drums/own_shape.h"

#include <algorithm>
#include <cmath>

#include "analysis/hits/onset_kinds.h"
#include "base/numbers.h"

namespace ochron {
namespace {

constexpr std::size_t kCandidates = 30;  // the loudest that sound like the drum
constexpr double kAsDrumDb = 10;         // what sounds wholly like it may be so much softer than what does not at all
constexpr double kAlike = 0.93;          // two strokes of one drum
constexpr double kLonelyDb = 6;          // two that are alike lead by so much over three
constexpr double kLeadDb = 6;            // under the third loudest of those alike
constexpr double kMemberAlike = 0.95;    // to those that lead
constexpr double kMemberDb = 8;          // under them
constexpr std::size_t kMostMembers = 200;
constexpr double kAlmostNothing = 1e-6;

std::size_t indexOf(DrumClass drum) { return drum == DrumClass::snare ? 1 : 2; }

DrumSpectrum medianOf(const std::vector<DrumSpectrum>& spectra, const std::vector<std::size_t>& of) {
  std::vector<DrumSpectrum> theirs;
  theirs.reserve(of.size());
  for (const auto i : of) theirs.push_back(spectra[i]);
  return medianSpectrum(theirs);
}

/// Those of the candidates that are alike and lead; `claims`: dB, of every attack.
std::vector<std::size_t> leaders(const std::vector<DrumSpectrum>& spectra, const std::vector<double>& claims) {
  std::vector<std::size_t> order(claims.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  const auto count = std::min(kCandidates, order.size());
  std::partial_sort(order.begin(), order.begin() + static_cast<std::ptrdiff_t>(count), order.end(),
                    [&](auto a, auto b) { return claims[a] > claims[b]; });
  order.resize(count);
  std::vector<std::size_t> best;
  double most = -1e9;
  for (const auto seed : order) {
    std::vector<std::size_t> alike;
    for (const auto i : order)
      if (std::min(likeness(spectra[i], spectra[seed]), likeness(spectra[seed], spectra[i])) >= kAlike)
        alike.push_back(i);
    const double lead = alike.size() > 2   ? claims[alike[2]]
                        : alike.size() > 1 ? claims[alike[1]] - kLonelyDb
                                           : claims[seed] - 4 * kLonelyDb;
    if (lead <= most) continue;
    most = lead;
    best = std::move(alike);
  }
  if (best.empty()) return best;
  const double least = claims[best[std::min<std::size_t>(2, best.size() - 1)]] - kLeadDb;
  std::erase_if(best, [&](auto i) { return claims[i] < least; });
  return best;
}

}  // namespace

double OwnShape::gainDb(std::size_t attack) const {
  std::vector<double> gains;
  for (std::size_t b = 0; b < shape.size(); ++b)
    if (shape[b] > kEmptyBandDb) gains.push_back(spectra[attack][b] - shape[b]);
  return percentile(std::move(gains), 0.25);
}

OwnShape learnOwnShape(std::span<const float> samples, const MicLevel& level, const std::vector<Attack>& attacks,
                       DrumClass drum) {
  OwnShape out;
  std::vector<std::int64_t> at;
  at.reserve(attacks.size());
  for (const auto& a : attacks) at.push_back(a.at);
  out.spectra = addedSpectraDb(samples, level.rate, at);
  DrumGuesser guesser(level.rate);
  std::vector<double> levels;
  std::vector<double> claims;
  for (const auto frame : at) {
    out.asDrum.push_back(guesser.likeness(samples, frame)[indexOf(drum)]);
    levels.push_back(2 * decibelsOf(level.at(frame) + kAlmostNothing));
    claims.push_back(levels.back() + kAsDrumDb * out.asDrum.back());
  }
  const auto lead = leaders(out.spectra, claims);
  if (lead.empty()) return out;
  out.known = true;
  out.shape = medianOf(out.spectra, lead);
  std::vector<double> theirs;
  for (const auto i : lead) theirs.push_back(levels[i]);
  const double least = percentile(std::move(theirs), 0.5) - kMemberDb;
  std::vector<std::size_t> members;
  for (std::size_t i = 0; i < at.size(); ++i)
    if (levels[i] >= least && likeness(out.spectra[i], out.shape) >= kMemberAlike) members.push_back(i);
  if (members.size() > kMostMembers) {
    std::nth_element(members.begin(), members.begin() + kMostMembers, members.end(),
                     [&](auto a, auto b) { return levels[a] > levels[b]; });
    members.resize(kMostMembers);
  }
  if (members.size() > 2) out.shape = medianOf(out.spectra, members);
  return out;
}

}  // namespace ochron
