#include "steps/clips/hands_sheet.h"

#include <QGridLayout>

#include "actions/actions.h"
#include "theme/theme.h"

namespace ochron {
namespace {

struct Line {
  QString how;      ///< what the hand does, or
  QString command;  ///< the command whose key is pressed
  QString what;     ///< what comes of it
};

struct Group {
  QString title;
  std::vector<Line> lines;
};

std::vector<Group> groups() {
  const auto tr = [](const char* text) { return HandsSheet::tr(text); };
  return {{tr("Choose"),
           {{tr("click"), {}, tr("one clip")},
            {tr("Ctrl click"), {}, tr("one more")},
            {tr("Shift click"), {}, tr("all up to there")},
            {tr("drag"), {}, tr("a range over tracks")}}},
          {tr("Place"),
           {{tr("drag"), {}, tr("to another place")},
            {tr("Ctrl drag"), {}, tr("a copy")},
            {tr("Alt drag"), {}, tr("its sound alone")},
            {tr("an edge"), {}, tr("shorter, or longer")}}},
          {tr("Cut"),
           {{{}, "clips.split", tr("at the play line")},
            {{}, "clips.splithere", tr("at the pointer")},
            {{}, "clips.splitrange", tr("at the range's ends")},
            {{}, "spans.add", tr("silence the range")}}},
          {tr("Fade"),
           {{tr("upper corner"), {}, tr("a fade")},
            {tr("its curve"), {}, tr("bent")},
            {tr("a joint"), {}, tr("a crossfade")},
            {{}, "clips.nofades", tr("none of them")}}}};
}

}  // namespace

HandsSheet::HandsSheet(QWidget* parent) : QWidget(parent) {
  grid_ = new QGridLayout(this);
  grid_->setContentsMargins(0, 2, 0, 0);
  grid_->setHorizontalSpacing(22);
  for (const auto& group : groups()) {
    auto* box = new QWidget(this);
    auto* lines = new QGridLayout(box);
    lines->setContentsMargins(0, 0, 0, 0);
    lines->setVerticalSpacing(5);
    lines->setHorizontalSpacing(10);
    auto* title = new QLabel(group.title, box);
    title->setFont(Theme::get().font(12, 600));
    lines->addWidget(title, 0, 0, 1, 2);
    int row = 1;
    for (const auto& line : group.lines) {
      auto* how = new QLabel(line.how, box);
      how->setFont(Theme::get().font(11.5, 500));
      auto* what = new QLabel(line.what, box);
      what->setFont(Theme::get().font(11.5));
      what->setProperty("note", true);
      if (!line.command.isEmpty()) keys_.push_back({how, line.command});
      lines->addWidget(how, row, 0);
      lines->addWidget(what, row, 1);
      ++row;
    }
    lines->setColumnStretch(1, 1);
    groups_.push_back(box);
  }
  arrange(static_cast<int>(groups_.size()));
}

void HandsSheet::arrange(int across) {
  if (across == across_) return;
  across_ = across;
  for (auto* box : groups_) grid_->removeWidget(box);
  for (int i = 0; i < std::ssize(groups_); ++i) {
    grid_->addWidget(groups_[static_cast<std::size_t>(i)], i / across, i % across, Qt::AlignTop);
    grid_->setColumnStretch(i, i < across ? 1 : 0);
    grid_->setRowStretch(i, i == (std::ssize(groups_) - 1) / across + 1 ? 1 : 0);
  }
  grid_->setVerticalSpacing(across < std::ssize(groups_) ? 6 : 0);
}

void HandsSheet::resizeEvent(QResizeEvent*) {
  constexpr int kRoomForAll = 600;
  const int all = static_cast<int>(groups_.size());
  arrange(width() < kRoomForAll ? (all + 1) / 2 : all);
}

void HandsSheet::showEvent(QShowEvent*) {
  const auto* actions = Actions::of(this);
  if (!actions) return;
  for (const auto& key : keys_)
    if (const auto* action = actions->action(key.command)) {
      const auto text = action->shortcut().toString(QKeySequence::NativeText);
      key.label->setText(text.isEmpty() ? tr("no key") : text);
      key.label->setToolTip(action->text());
    }
}

}  // namespace ochron
