#pragma once

#include <memory>
#include <utility>

namespace ochron {

/// An immutable value shared between versions of a song. Compares by value, and by pointer first.
template <class T>
class Shared {
 public:
  Shared() : value_(empty()) {}
  Shared(T value) : value_(std::make_shared<const T>(std::move(value))) {}  // NOLINT(google-explicit-constructor)

  const T& operator*() const { return *value_; }
  const T* operator->() const { return value_.get(); }
  bool sameObject(const Shared& o) const { return value_ == o.value_; }
  bool operator==(const Shared& o) const { return value_ == o.value_ || *value_ == *o.value_; }

 private:
  static const std::shared_ptr<const T>& empty() {
    static const auto e = std::make_shared<const T>();
    return e;
  }
  std::shared_ptr<const T> value_;
};

}  // namespace ochron
