#include "actions/key_set.h"

#include <QJsonDocument>
#include <QJsonObject>
#include <QKeySequence>
#include <array>
#include <utility>

namespace ochron {
namespace {

constexpr const char* kFormat = "orthochron keys";
constexpr int kVersion = 1;

/// Two commands that change places.
struct Swap {
  const char* wanted;
  const char* wantedKey;
  const char* other;
  const char* otherKey;
};
constexpr std::array kLeftHand{
    Swap{"this.next", ".", "hits.find", "F"},
    Swap{"this.previous", ",", "hits.add", "A"},
    Swap{"timing.freeze", "K", "view.table", "T"},
    Swap{"transport.loop", "L", "clips.crossfade", "G"},
    Swap{"checks.accept", "Y", "tempo.tie", "Q"},
    Swap{"checks.next", "N", "hits.restore", "B"},
    Swap{"hits.hear", "H", "clips.gapsmode", "V"},
    Swap{"clips.mute", "M", "clips.reverse", "R"},
    Swap{"transport.compare", "O", "transport.click", "C"},
};

KeySet leftHand() {
  KeySet out;
  for (const auto& s : kLeftHand) {
    out.insert(s.wanted, s.otherKey);
    out.insert(s.other, s.wantedKey);
  }
  return out;
}

}  // namespace

const KeySet& readyKeys(ReadyKeys which) {
  static const KeySet none;
  static const KeySet left = leftHand();
  switch (which) {
    case ReadyKeys::shipped: return none;
    case ReadyKeys::leftHand: return left;
  }
  return none;
}

QString keysAsText(const KeySet& keys) {
  QJsonObject all;
  for (auto it = keys.cbegin(); it != keys.cend(); ++it) all.insert(it.key(), it.value());
  return QJsonDocument(QJsonObject{{kFormat, kVersion}, {"keys", all}}).toJson();
}

Result<KeySet> keysFromText(const QByteArray& text, const QString& fileName) {
  const auto refuse = [&](const QString& why) {
    return fail(ErrorKind::badInput, (QStringLiteral("\"%1\" %2").arg(fileName, why)).toStdString());
  };
  const auto root = QJsonDocument::fromJson(text).object();
  if (!root.value(kFormat).isDouble() || !root.value("keys").isObject())
    return refuse("is no set of keys. Choose a file that was saved from the sheet of keys.");
  if (root.value(kFormat).toInt() > kVersion)
    return refuse("was written by a newer Orthochron. Use that one to read it.");
  KeySet out;
  const auto keys = root.value("keys").toObject();
  for (auto it = keys.constBegin(); it != keys.constEnd(); ++it) {
    const QKeySequence key(it.value().toString());
    const bool known = key.isEmpty() ? it.value().toString("x").isEmpty() : key[0].key() != Qt::Key_unknown;
    if (!known)
      return refuse(QStringLiteral("names a key that there is not: \"%1\" for %2. Correct it there.")
                        .arg(it.value().toVariant().toString(), it.key()));
    if (const auto twice = out.key(key.toString()); !key.isEmpty() && !twice.isEmpty())
      return refuse(QStringLiteral("gives %1 to two commands, %2 and %3. Correct it there.")
                        .arg(key.toString(), twice, it.key()));
    out.insert(it.key(), key.toString());
  }
  return out;
}

}  // namespace ochron
