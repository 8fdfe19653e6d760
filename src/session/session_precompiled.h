// Large headers that nearly every file of this room includes.
#pragma once

#include <QColor>
#include <QMatrix4x4>
#include <QObject>
#include <QPointF>
#include <QSettings>
#include <QString>
#include <QStringList>
#include <QTimer>
#include <algorithm>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "check/surveyed.h"
#include "project/track.h"
#include "steps/step.h"
