#include "play/click.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "media/audio_file.h"
#include "render/file_sink.h"
#include "render/song_speed.h"

namespace ochron {

std::vector<ClickEvent> clicksOf(const TempoMap& map, FrameRange range) {
  std::vector<ClickEvent> out;
  const int last = map.barAt(range.end);
  for (int bar = map.barAt(range.start); bar <= last; ++bar) {
    const auto meter = map.meterOfBar(bar);
    for (int beat = 0; beat < meter.beats; ++beat) {
      const auto at = map.toFrames(map.barStart(bar) + meter.beatLength() * beat);
      if (range.contains(at)) out.push_back({at, beat == 0});
    }
  }
  return out;
}

std::vector<float> clickSound(int rate, bool accent) {
  constexpr double kSeconds = 0.03;
  const double hertz = accent ? 1570 : 1050;
  std::vector<float> s(static_cast<std::size_t>(rate * kSeconds));
  for (std::size_t i = 0; i < s.size(); ++i) {
    const double t = static_cast<double>(i) / rate;
    s[i] = static_cast<float>(0.6 * std::sin(2 * std::numbers::pi * hertz * t) * std::exp(-t * 160.0) *
                              std::min(1.0, t * 4000.0));
  }
  return s;
}

void ClickVoice::add(std::span<const ClickEvent> clicks, float gain, Frames at, std::span<float> left,
                     std::span<float> right) const noexcept {
  auto it = std::lower_bound(clicks.begin(), clicks.end(), at - Frames{std::ssize(plain_)},
                             [](const ClickEvent& c, Frames f) { return c.at < f; });
  for (; it != clicks.end() && it->at < at + Frames{std::ssize(left)}; ++it) {
    const auto& sound = it->accent ? accent_ : plain_;
    const auto shift = (it->at - at).value;
    for (auto i = std::max<std::int64_t>(0, shift);
         i < std::min<std::int64_t>(std::ssize(left), shift + std::ssize(sound)); ++i) {
      const float s = sound[static_cast<std::size_t>(i - shift)] * gain;
      left[static_cast<std::size_t>(i)] += s;
      right[static_cast<std::size_t>(i)] += s;
    }
  }
}

Result<void> exportClick(const Song& song, const ExportSettings& settings, const std::filesystem::path& target,
                         Outputs& outputs, Progress& progress) {
  const auto range = settings.range;
  PlayedTime played(exportSpeed(song).speed, range.start);
  const auto placed = [&](Frames at) { return played.of(at).value; };
  const auto length = placed(range.end);
  auto format = formatOf(settings, {{}, range, 1, {}}, settings.format, song.rate);
  format.length = atRate(Frames{length}, song.rate, format.rate);
  auto writer = AudioFileWriter::create(outputs, target, format);
  if (!writer) return tl::unexpected(writer.error());
  auto sink = FileSink::make(std::move(*writer), 1, song.rate, Frames{length}, 1);
  if (!sink) return tl::unexpected(sink.error());
  const auto clicks = clicksOf(song.tempo, range);
  const auto plain = clickSound(song.rate, false);
  const auto accent = clickSound(song.rate, true);
  // From beat to beat: what lies before a click is silent.
  std::int64_t done = 0;
  std::vector<float> block;
  const auto fill = [&](std::int64_t until, std::span<const float> sound) -> Result<void> {
    block.assign(static_cast<std::size_t>(until - done), 0.0F);
    std::copy_n(sound.begin(), std::min(sound.size(), block.size()), block.begin());
    done = until;
    const std::array<std::span<float>, 1> one{block};
    return block.empty() ? Result<void>{} : sink->add(one);
  };
  if (const auto first = clicks.empty() ? length : placed(clicks.front().at); first > 0)
    if (auto ok = fill(first, {}); !ok) return ok;
  for (std::size_t i = 0; i < clicks.size(); ++i) {
    if (progress.cancelled()) return cancelledError();
    const auto next = i + 1 < clicks.size() ? placed(clicks[i + 1].at) : length;
    if (auto ok = fill(next, clicks[i].accent ? accent : plain); !ok) return ok;
  }
  return sink->finish();
}

}  // namespace ochron
