#pragma once

#include <QWidget>
#include <optional>
#include <vector>

#include "core/quantity/figure.h"

namespace heron {

/// Where does the ± come from: the budget of one figure, ranked, as a floating card that Esc
/// closes.
class UncertaintyCard : public QWidget {
 public:
  UncertaintyCard(const Figure& figure, std::optional<double> margin, QWidget* parent);
  QString text() const;

 protected:
  void paintEvent(QPaintEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;

 private:
  struct Row {
    QString name;
    QString kind;
    double expanded;
    double share;
    bool is_common;
  };
  Figure figure_;
  std::optional<double> margin_;
  std::vector<Row> rows_;
};

}  // namespace heron
