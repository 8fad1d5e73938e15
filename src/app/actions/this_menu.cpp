#include "actions/this_menu.h"

#include <QMenu>
#include <map>
#include <string_view>

#include "actions/actions.h"

namespace ochron {

const std::vector<const char*>& menuOf(Selection::Thing thing) {
  using Thing = Selection::Thing;
  static const std::map<Thing, std::vector<const char*>> menus{
      {Thing::notes,
       {"pitch.up", "pitch.down", "pitch.bitup", "pitch.bitdown", "pitch.assung", "-", "pitch.split", "pitch.join",
        "pitch.silence", "-", "pitch.giveback", "hits.hear"}},
      {Thing::pins, {"this.msearlier", "this.mslater", "-", "pins.remove", "pins.removeall"}},
      {Thing::point, {"this.gridearlier", "this.gridlater", "-", "edit.delete", "envelope.copy", "envelope.paste"}},
      {Thing::span, {"this.gridearlier", "this.gridlater", "-", "edit.delete"}},
      {Thing::marker, {"this.gridearlier", "this.gridlater", "-", "edit.delete"}},
      {Thing::clips,
       {"clips.splithere",
        "clips.split",
        "-",
        "edit.cut",
        "edit.copy",
        "edit.paste",
        "clips.duplicate",
        "edit.delete",
        "-",
        "clips.mute",
        "clips.reverse",
        "clips.crossfade",
        "clips.nofades",
        "clips.tapestop",
        "clips.tapestart",
        "-",
        "clips.aligngrid",
        "clips.sync",
        "clips.swap",
        "-",
        "clips.bundle",
        "clips.unbundle",
        "clips.openbundle",
        "-",
        "spans.add"}},
      {Thing::seam, {"hits.hear", "seams.release", "-", "this.fineearlier", "this.finelater", "-", "lock.range"}},
      {Thing::hit,
       {"hits.hear", "-", "timing.freeze", "timing.join", "timing.separate", "timing.release", "-", "hits.restore",
        "hits.alike", "hits.remove", "-", "kit.strokeoff", "kit.strokesound", "kit.strokerelease"}},
      {Thing::range,
       {"edit.cut", "edit.copy", "edit.paste", "edit.delete", "-", "clips.splitrange", "spans.add", "markers.section",
        "-", "timing.leavealone", "timing.putback", "lock.range", "lock.unlockrange", "-", "edit.norange"}},
  };
  return menus.at(thing);
}

void popUp(QWidget* over, QPoint at, const std::vector<const char*>& commands) {
  auto* actions = Actions::of(over);
  if (!actions) return;
  actions->refresh();
  QMenu menu(over);
  for (const std::string_view id : commands)
    if (id == "-")
      menu.addSeparator();
    else if (auto* action = actions->action(QString::fromUtf8(id.data())))
      menu.addAction(action);
  menu.exec(at);
}

}  // namespace ochron
