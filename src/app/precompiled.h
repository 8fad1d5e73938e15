// What nearly every file of the application includes, compiled once. Only speeds the build: every file still includes
// what it uses.
#pragma once

#include <QBoxLayout>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QToolButton>
#include <QWidget>
#include <algorithm>
#include <cmath>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "song/song.h"
