#include "bus/desktop.h"

#include <QDBusMessage>
#include <QDBusReply>
#include <QDBusVariant>
#include <QElapsedTimer>
#include <QStandardPaths>
#include <QThread>

namespace ochron::test {
namespace {

constexpr int kPatienceMs = 20'000;
constexpr std::size_t kOfAList = 60;
constexpr const char* kSession = "reader of a private session";
constexpr const char* kReader = "reader of what is shown";
constexpr const char* kAccessible = "org.a11y.atspi.Accessible";

QString firstLine(QProcess& of) {
  if (!of.waitForStarted()) return {};
  QElapsedTimer t;
  t.start();
  while (!of.canReadLine() && t.elapsed() < kPatienceMs && of.state() == QProcess::Running) of.waitForReadyRead(100);
  return QString::fromUtf8(of.readLine()).trimmed();
}

}  // namespace

Desktop::Desktop() {
  for (const char* needed : {"dbus-daemon", "Xvfb", "xdotool"})
    if (QStandardPaths::findExecutable(needed).isEmpty()) missing_ = QString("no %1 on this machine").arg(needed);
  if (!missing_.isEmpty()) return;
  auto environment = QProcessEnvironment::systemEnvironment();
  const auto home = QString::fromStdString(scratch_.path().string());
  environment.insert("HOME", home);
  for (const char* folder : {"XDG_CONFIG_HOME", "XDG_CACHE_HOME", "XDG_DATA_HOME", "XDG_RUNTIME_DIR"})
    environment.insert(folder, home);
  environment.remove("AT_SPI_BUS_ADDRESS");
  bus_.setProcessEnvironment(environment);
  bus_.start("dbus-daemon", {"--session", "--nofork", "--print-address=1"});
  const auto address = firstLine(bus_);
  display_.start("Xvfb", {"-displayfd", "1", "-screen", "0", "1280x800x24"});
  const auto display = firstLine(display_);
  if (address.isEmpty() || display.isEmpty()) {
    missing_ = "no session bus or no display could be started";
    return;
  }
  environment.insert("DBUS_SESSION_BUS_ADDRESS", address);
  environment.insert("DISPLAY", ":" + display);
  environment.insert("QT_QPA_PLATFORM", "xcb");
  environment.insert("QT_LINUX_ACCESSIBILITY_ALWAYS_ON", "1");
  program_.setProcessEnvironment(environment);
  program_.setProcessChannelMode(QProcess::ForwardedChannels);
  auto session = QDBusConnection::connectToBus(address, kSession);
  const QDBusReply<QString> said = session.call(
      QDBusMessage::createMethodCall("org.a11y.Bus", "/org/a11y/bus", "org.a11y.Bus", "GetAddress"), QDBus::Block);
  if (!said.isValid()) {
    missing_ = "no accessibility bus (at-spi2-core) on this machine";
    return;
  }
  reader_ = std::make_unique<QDBusConnection>(QDBusConnection::connectToBus(said.value(), kReader));
  if (!reader_->isConnected()) missing_ = "the accessibility bus cannot be reached";
}

Desktop::~Desktop() {
  reader_.reset();
  for (const char* name : {kSession, kReader}) QDBusConnection::disconnectFromBus(name);
  for (auto* p : {&program_, &display_, &bus_}) {
    p->kill();
    p->waitForFinished();
  }
}

bool Desktop::start(const QStringList& arguments) {
  program_.start(OCHRON_PROGRAM, arguments);
  if (!program_.waitForStarted()) return false;
  return wait([](const Accessible& a) { return a.role == "frame" || a.role == "window"; }).has_value();
}

Accessible Desktop::described(const QString& service, const QString& path) const {
  Accessible a{service, path, {}, {}, 0};
  auto get = QDBusMessage::createMethodCall(service, path, "org.freedesktop.DBus.Properties", "Get");
  get << kAccessible << "Name";
  const QDBusReply<QDBusVariant> name = reader_->call(get);
  if (name.isValid()) a.name = name.value().variant().toString();
  const QDBusReply<QString> role =
      reader_->call(QDBusMessage::createMethodCall(service, path, kAccessible, "GetRoleName"));
  if (role.isValid()) a.role = role.value();
  const auto said = reader_->call(QDBusMessage::createMethodCall(service, path, kAccessible, "GetState")).arguments();
  if (said.size() == 1) {
    const auto words = qdbus_cast<QList<uint>>(said.front());
    for (qsizetype i = 0; i < words.size() && i < 2; ++i)
      a.states |= static_cast<std::uint64_t>(words[i]) << (32 * static_cast<unsigned>(i));
  }
  return a;
}

std::vector<Accessible> Desktop::childrenOf(const Accessible& of, std::size_t most) const {
  std::vector<Accessible> out;
  const auto said =
      reader_->call(QDBusMessage::createMethodCall(of.service, of.path, kAccessible, "GetChildren")).arguments();
  if (said.size() != 1) return out;
  const auto list = said.front().value<QDBusArgument>();
  if (list.currentType() != QDBusArgument::ArrayType) return out;
  list.beginArray();
  while (!list.atEnd() && out.size() < most) {
    QString service;
    QDBusObjectPath path;
    list.beginStructure();
    list >> service >> path;
    list.endStructure();
    out.push_back(described(service, path.path()));
  }
  return out;
}

std::size_t Desktop::children(const Accessible& of) const { return childrenOf(of, 1).size(); }

std::optional<Accessible> Desktop::program() const {
  const auto all = childrenOf({"org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root", {}, {}, 0}, 100);
  for (const auto& a : all)
    if (a.name == "orthochron" || a.name == "Orthochron") return a;
  return {};
}

std::vector<Accessible> Desktop::under(const Accessible& top) const {
  std::vector<Accessible> out;
  visit(top, [&](const Accessible& a) {
    out.push_back(a);
    return false;
  });
  return out;
}

bool Desktop::visit(const Accessible& top, const std::function<bool(const Accessible&)>& stop) const {
  if (stop(top)) return true;
  // Of thousands of clips some are enough.
  const std::size_t most = top.role == "list" ? kOfAList : 10'000;
  for (const auto& child : childrenOf(top, most))
    if ((child.is(Accessible::kShowing) || top.role == "application" || top.role == "menu bar") && visit(child, stop))
      return true;
  return false;
}

std::vector<Accessible> Desktop::shown() const {
  const auto top = program();
  return top ? under(*top) : std::vector<Accessible>{};
}

bool Desktop::until(const std::function<bool()>& holds) const {
  QElapsedTimer t;
  t.start();
  for (; t.elapsed() < kPatienceMs; QThread::msleep(50))
    if (holds()) return true;
  return false;
}

std::optional<Accessible> Desktop::wait(const std::function<bool(const Accessible&)>& is) const {
  std::optional<Accessible> found;
  until([&] {
    const auto top = program();
    return top && visit(*top, [&](const Accessible& a) {
             if (is(a)) found = a;
             return found.has_value();
           });
  });
  return found;
}

std::vector<Accessible> Desktop::windows() const {
  const auto top = program();
  std::vector<Accessible> out;
  if (top)
    for (const auto& w : childrenOf(*top, 100))
      if (w.is(Accessible::kShowing)) out.push_back(w);
  return out;
}

std::optional<Accessible> Desktop::named(const QString& name) const {
  return wait([&](const Accessible& a) { return a.name == name; });
}

bool Desktop::press(const Accessible& what) const {
  auto call = QDBusMessage::createMethodCall(what.service, what.path, "org.a11y.atspi.Action", "DoAction");
  call << 0;
  const QDBusReply<bool> done = reader_->call(call);
  return done.isValid() && done.value();
}

bool Desktop::giveFocus(const Accessible& what) const {
  const QDBusReply<bool> done =
      reader_->call(QDBusMessage::createMethodCall(what.service, what.path, "org.a11y.atspi.Component", "GrabFocus"));
  return done.isValid() && done.value();
}

bool Desktop::setValue(const Accessible& what, double value) const {
  auto call = QDBusMessage::createMethodCall(what.service, what.path, "org.freedesktop.DBus.Properties", "Set");
  call << "org.a11y.atspi.Value"
       << "CurrentValue" << QVariant::fromValue(QDBusVariant(value));
  return reader_->call(call).type() == QDBusMessage::ReplyMessage;
}

bool Desktop::setText(const Accessible& what, const QString& text) const {
  auto call = QDBusMessage::createMethodCall(what.service, what.path, "org.a11y.atspi.EditableText", "SetTextContents");
  call << text;
  const QDBusReply<bool> done = reader_->call(call);
  return done.isValid() && done.value();
}

bool Desktop::type(const QString& text) const { return xdotool({"type", "--delay", "1", text}); }

bool Desktop::takeKeys() const {
  return xdotool({"search", "--sync", "--onlyvisible", "--class", "orthochron", "windowfocus"});
}

bool Desktop::key(const QString& combination) const { return xdotool({"key", "--clearmodifiers", combination}); }

bool Desktop::xdotool(const QStringList& what) const {
  QProcess tool;
  tool.setProcessEnvironment(program_.processEnvironment());
  tool.start("xdotool", what);
  return tool.waitForFinished() && tool.exitCode() == 0;
}

}  // namespace ochron::test
