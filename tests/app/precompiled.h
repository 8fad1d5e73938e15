// What every test of the application includes, compiled once.
#pragma once

#include <gtest/gtest.h>

#include <QtTest>
#include <QtWidgets>

#include "document/document.h"
#include "main_window.h"
#include "support/performance.h"
#include "support/scratch.h"
