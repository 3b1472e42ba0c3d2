#include "app/theme/fonts.h"

#include <QDir>
#include <QFontDatabase>

namespace heron {
namespace {

QFont made(const char* family, double px, int weight, double spacing_percent = 100.0) {
  QFont f(family);
  f.setPointSizeF(px * 0.75);
  f.setWeight(static_cast<QFont::Weight>(weight));
  f.setHintingPreference(QFont::PreferNoHinting);
  if (spacing_percent != 100.0) f.setLetterSpacing(QFont::PercentageSpacing, spacing_percent);
  return f;
}

QFont words(double px, int weight) {
  return made("Inter", px, weight);
}
QFont figures(double px, int weight) {
  return made("JetBrains Mono", px, weight, px < 20.0 ? 97.0 : 93.0);
}

}  // namespace

QFont type_font(Type type) {
  switch (type) {
    case Type::readout:
      return figures(32, 500);
    case Type::readout_small:
      return figures(20, 500);
    case Type::uncertainty:
      return figures(16, 400);
    case Type::title:
      return words(20, 600);
    case Type::wordmark:
      return words(15.5, 600);
    case Type::heading:
      return words(14, 600);
    case Type::question:
      return words(14, 400);
    case Type::device:
      return words(13.5, 600);
    case Type::button:
      return words(13, 600);
    case Type::body:
      return words(12.5, 400);
    case Type::name:
      return words(12.5, 500);
    case Type::current:
      return words(12.5, 600);
    case Type::control:
      return words(12, 500);
    case Type::control_chosen:
    case Type::link:
      return words(12, 600);
    case Type::figure:
      return figures(12.5, 400);
    case Type::figure_chosen:
      return figures(12.5, 600);
    case Type::figure_small:
      return figures(11.5, 400);
    case Type::label:
      return words(11, 500);
    case Type::tick:
      return figures(11, 400);
  }
  return words(12.5, 400);
}

bool load_fonts() {
  bool all = true;
  const QDir folder(":/fonts");
  const QStringList names = folder.entryList(QDir::Files);
  for (const QString& name : names)
    all = QFontDatabase::addApplicationFont(folder.filePath(name)) >= 0 && all;
  return all && !names.isEmpty();
}

QFont strong_label() {
  QFont font = type_font(Type::label);
  font.setWeight(QFont::DemiBold);
  return font;
}

}  // namespace heron
