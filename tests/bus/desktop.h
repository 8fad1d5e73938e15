#pragma once

#include <QDBusArgument>
#include <QDBusConnection>
#include <QProcess>
#include <QStringList>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "support/scratch.h"

namespace ochron::test {

/// One thing on the accessibility bus, as a screen reader sees it (AT-SPI 2, org.a11y.atspi.Accessible).
struct Accessible {
  QString service;
  QString path;
  QString name;
  QString role;
  std::uint64_t states = 0;

  bool is(int state) const { return (states >> state & 1U) != 0; }
  static constexpr int kFocusable = 11;
  static constexpr int kFocused = 12;
  static constexpr int kSelected = 23;
  static constexpr int kShowing = 25;
};

/// A private desktop: a session bus, a display nobody sees, and the program on both.
class Desktop {
 public:
  Desktop();
  ~Desktop();
  /// Why there can be none on this machine; empty: it is there.
  const QString& missing() const { return missing_; }
  /// Starts the program and waits until it is on the bus; false when it does not come.
  bool start(const QStringList& arguments);

  /// What the program shows now, from its windows down, in reading order.
  std::vector<Accessible> shown() const;
  /// Everything under one thing, itself included.
  std::vector<Accessible> under(const Accessible& top) const;
  /// The first shown thing for which it holds, waited for.
  std::optional<Accessible> wait(const std::function<bool(const Accessible&)>& is) const;
  bool until(const std::function<bool()>& holds) const;
  /// The window and its sheets, the newest last.
  std::vector<Accessible> windows() const;
  std::optional<Accessible> named(const QString& name) const;
  std::size_t children(const Accessible& of) const;
  /// Does its first action: presses a button, chooses an item.
  bool press(const Accessible& what) const;
  bool giveFocus(const Accessible& what) const;
  bool setValue(const Accessible& what, double value) const;
  bool setText(const Accessible& what, const QString& text) const;
  /// The window has the keys from now on: there is no window manager to see to that.
  bool takeKeys() const;
  /// Keys as a keyboard sends them, to what has the focus: "space", "ctrl+s", "F6".
  bool key(const QString& combination) const;
  bool type(const QString& text) const;

  const Scratch& scratch() const { return scratch_; }

 private:
  std::vector<Accessible> childrenOf(const Accessible& of, std::size_t most) const;
  /// Everything shown under `top`, itself first, until `stop` says so; true when it did.
  bool visit(const Accessible& top, const std::function<bool(const Accessible&)>& stop) const;
  Accessible described(const QString& service, const QString& path) const;
  std::optional<Accessible> program() const;
  bool xdotool(const QStringList& what) const;

  Scratch scratch_;
  QProcess bus_;
  QProcess display_;
  QProcess program_;
  QString missing_;
  QString name_;
  std::unique_ptr<QDBusConnection> reader_;
};

}  // namespace ochron::test
