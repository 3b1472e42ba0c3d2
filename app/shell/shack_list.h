#pragma once

#include <vector>

#include "app/paint/margin_line.h"
#include "app/widget/card.h"

namespace heron {

/// A card with a heading and a few rows: shape, name, one line, and a margin line or a word.
class ShackList : public Card {
  Q_OBJECT
 public:
  struct Row {
    QString name;
    QString line;
    MarginMark mark;
    double span = 20.0;
    bool has_margin = false;
    long long evaluation = 0;
    long long test = 0;
    bool is_provisional = false;
  };
  ShackList(const QString& heading, const QString& aside, const QString& empty,
            QWidget* parent = nullptr);
  void set_rows(const std::vector<Row>& rows);

 signals:
  void chosen(long long evaluation, long long test);

 protected:
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

 private:
  void choose(int row);
  void speak();
  QString heading_;
  QString aside_;
  QString empty_;
  std::vector<Row> rows_;
  int current_ = 0;  ///< where the keyboard is
};

}  // namespace heron
