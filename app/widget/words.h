#pragma once

#include <QLabel>

#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {

enum class Tone { ink, slate, mute };

/// Text in a role's type and tone; follows the theme.
class Words : public QLabel {
 public:
  Words(const QString& text, Type type, Tone tone = Tone::ink, QWidget* parent = nullptr);

  /// Where there is too little room for all of it the end goes, and all of it is in the tool tip.
  void elide();

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void follow_theme();
  Tone tone_;
  bool elides_ = false;
};

}  // namespace heron
