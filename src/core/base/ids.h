#pragma once

#include <compare>
#include <cstdint>
#include <typeindex>  // std::hash, without the rest of <functional>

namespace ochron {

/// A stable name for one object of a song. 0 names nothing.
template <class Tag>
struct Id {
  std::uint64_t value = 0;

  constexpr auto operator<=>(const Id&) const = default;
  constexpr explicit operator bool() const { return value != 0; }
};

using MediaId = Id<struct MediaTag>;
using TakeId = Id<struct TakeTag>;
using TrackId = Id<struct TrackTag>;
using SetId = Id<struct SetTag>;
using ClipId = Id<struct ClipTag>;
using HitId = Id<struct HitTag>;
using BundleId = Id<struct BundleTag>;
using SpanId = Id<struct SpanTag>;
using MarkerId = Id<struct MarkerTag>;
using LayerId = Id<struct LayerTag>;
using PrintId = Id<struct PrintTag>;
using InsertId = Id<struct InsertTag>;
using PatternId = Id<struct PatternTag>;

}  // namespace ochron

template <class Tag>
struct std::hash<ochron::Id<Tag>> {
  std::size_t operator()(ochron::Id<Tag> id) const noexcept { return static_cast<std::size_t>(id.value); }
};
