#pragma once

#include <QWidget>

namespace heron {

/// What can hurt somebody, before the step: heading, text, and what comes first.
class CautionCard : public QWidget {
 public:
  explicit CautionCard(QWidget* parent = nullptr);
  void set_words(const QString& heading, const QString& text);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void fit();
  int heading_height() const;
  QString heading_;
  QString text_;
};

}  // namespace heron
