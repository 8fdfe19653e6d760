// Large headers that nearly every file of this room includes.
#pragma once

#include <QApplication>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>
#include <QWidget>
#include <algorithm>
#include <cmath>

#include "session/workshop.h"
