#include "store/print_json.h"

#include "store/clip_json.h"
#include "store/insert_json.h"
#include "store/pitch_json.h"

namespace ochron {

Json bundleToJson(const Bundle& b) {
  Json x{{"id", b.id.value}, {"name", b.name}};
  if (b.gainDb != 0) x["gain db"] = b.gainDb;
  if (b.fadeIn != Fade{}) x["fade in"] = fadeToJson(b.fadeIn);
  if (b.fadeOut != Fade{}) x["fade out"] = fadeToJson(b.fadeOut);
  return x;
}

Bundle readBundle(JsonReader& r, const Json& x) {
  Bundle b{readId<BundleId>(r, x, "id"), r.text(x, "name"), {}, {}, r.setting(x, "gain db", kGainRange)};
  if (const auto* f = r.member(x, "fade in", false)) b.fadeIn = readFade(r, *f);
  if (const auto* f = r.member(x, "fade out", false)) b.fadeOut = readFade(r, *f);
  return b;
}

namespace {

/// What is not as usual.
void putManner(Json& x, const PrintManner& m) {
  if (m.samples != PrintSamples::float32) x["samples"] = kPrintSamplesNames[static_cast<std::size_t>(m.samples)];
  if (m.peakDb) x["peak db"] = *m.peakDb;
  if (m.tailSeconds != 0) x["tail"] = m.tailSeconds;
}

PrintManner readManner(JsonReader& r, const Json& x) {
  PrintManner m;
  m.samples = static_cast<PrintSamples>(r.choice(x, "samples", kPrintSamplesNames, 0));
  if (x.contains("peak db")) m.peakDb = r.number(x, "peak db", kPrintPeakRange);
  m.tailSeconds = r.setting(x, "tail", kTailRange);
  return m;
}

}  // namespace

Json printToJson(const Print& p) {
  Json x{{"id", p.id.value}, {"depth", kPrintDepthNames[static_cast<std::size_t>(p.depth)]}, {"set", p.set.value}};
  if (p.take) x["take"] = p.take.value;
  if (p.depth != PrintDepth::trim) x["start"] = p.start.value;
  putManner(x, p.manner);
  if (p.levelDb != 0) x["level db"] = p.levelDb;
  if (p.cutBefore) x["cut before"] = clipToJson(*p.cutBefore);
  if (p.cutAfter) x["cut after"] = clipToJson(*p.cutAfter);
  for (const auto& c : *p.clips) x["clips"].push_back(clipToJson(c));
  for (const auto& b : p.bundles) x["bundles"].push_back(bundleToJson(b));
  for (const auto& m : p.mixer) {
    Json t{{"track", m.track.value}, {"gain db", m.gainDb}, {"pan", m.pan}};
    putEnvelope(t, "gain envelope", *m.gain);
    putEnvelope(t, "pan envelope", *m.panning);
    putEnvelope(t, "mute envelope", *m.mute);
    putInserts(t, *m.inserts);
    x["mixer"].push_back(std::move(t));
  }
  putInserts(x, *p.inserts);
  for (const auto& t : p.trimmed)
    x["trimmed"].push_back({{"take", t.take.value},
                            {"track", t.track.value},
                            {"was", t.was.value},
                            {"offset", t.offset.value},
                            {"now", t.now.value}});
  if (p.with) {
    Json w = Json::object();
    if (p.with->pitch->active()) w["pitch plan"] = pitchPlanToJson(*p.with->pitch);
    if (p.with->notes != 0) w["notes"] = p.with->notes;
    if (p.with->method) w["method"] = kStretchMethodNames[static_cast<std::size_t>(*p.with->method)];
    w["recordings"] = Json::array();
    for (const auto& m : p.with->recordings)
      w["recordings"].push_back({{"media", m.media.value}, {"fingerprint", m.fingerprint}});
    x["made with"] = std::move(w);
  }
  return x;
}

namespace {

PrintedWith readWith(JsonReader& r, const Json& x) {
  PrintedWith out;
  if (const auto* plan = r.member(x, "pitch plan", false)) out.pitch = readPitchPlan(r, *plan);
  out.notes = r.integer(x, "notes", 0, INT64_MAX, 0);
  out.method = readMethod(r, x);
  r.each(x, "recordings", kMostMarks, [&](const Json& m) {
    out.recordings.push_back({readId<MediaId>(r, m, "media"), r.text(m, "fingerprint")});
  });
  return out;
}

}  // namespace

Print readPrint(JsonReader& r, const Json& x) {
  Print p;
  p.id = readId<PrintId>(r, x, "id");
  p.depth = static_cast<PrintDepth>(r.choice(x, "depth", kPrintDepthNames, 1));
  p.set = readId<SetId>(r, x, "set");
  if (p.depth != PrintDepth::trim) {
    p.take = readId<TakeId>(r, x, "take");
    p.start = readFrames(r, x, "start");
  }
  p.manner = readManner(r, x);
  p.levelDb = r.number(x, "level db", -kGainRange.high, -kGainRange.low, 0);
  if (const auto* c = r.member(x, "cut before", false)) p.cutBefore = readClip(r, *c);
  if (const auto* c = r.member(x, "cut after", false)) p.cutAfter = readClip(r, *c);
  ClipList clips;
  r.each(
      x, "clips", kMostClips, [&](const Json& c) { clips.push_back(readClip(r, c)); }, false);
  if (!clips.empty()) p.clips = std::move(clips);
  r.each(
      x, "bundles", kMostMarks, [&](const Json& b) { p.bundles.push_back(readBundle(r, b)); }, false);
  r.each(
      x, "mixer", kMostMembers,
      [&](const Json& m) {
        p.mixer.push_back({readId<TrackId>(r, m, "track"),
                           r.setting(m, "gain db", kGainRange),
                           r.setting(m, "pan", kPanRange),
                           readEnvelope(r, m, "gain envelope", kGainEnvelopeRange),
                           readEnvelope(r, m, "pan envelope", kPanRange),
                           readEnvelope(r, m, "mute envelope", kMuteRange),
                           {}});
        if (auto inserts = readInserts(r, m); !inserts.empty()) p.mixer.back().inserts = std::move(inserts);
      },
      false);
  if (auto inserts = readInserts(r, x); !inserts.empty()) p.inserts = std::move(inserts);
  r.each(
      x, "trimmed", kMostMarks,
      [&](const Json& t) {
        p.trimmed.push_back({readId<TakeId>(r, t, "take"), readId<TrackId>(r, t, "track"), readId<MediaId>(r, t, "was"),
                             readFrames(r, t, "offset", 0), readId<MediaId>(r, t, "now")});
      },
      false);
  if (const auto* with = r.member(x, "made with", false)) p.with = readWith(r, *with);
  return p;
}

}  // namespace ochron
