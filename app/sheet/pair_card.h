#pragma once

#include "app/paint/margin_line.h"
#include "app/widget/card.h"
#include "store/two_tone.h"

namespace heron {

/// The second verdict of a ladder: what a driven amplifier makes of it at one output of the
/// exciter.
class PairCard : public Card {
  Q_OBJECT
 public:
  explicit PairCard(QWidget* parent = nullptr);
  /// At the output `exciter_dbm`; hidden where nothing is predicted.
  void set_test(const TwoToneTest* test, std::optional<double> exciter_dbm);
  QString text() const { return text_; }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  QString name_;
  QString value_;
  QString caption_;
  QString text_;
  MarginMark mark_;
  bool has_limit_ = false;
};

}  // namespace heron
