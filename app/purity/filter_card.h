#pragma once

#include "app/widget/card.h"
#include "core/method/purity.h"

class QLabel;

namespace heron {

class PushButton;

/// The filter that would bring the failing lines under the mask: what it is, what it does, what it
/// costs. Hidden when nothing has to come down.
class FilterCard : public Card {
  Q_OBJECT
 public:
  explicit FilterCard(QWidget* parent = nullptr);
  void set_analysis(const std::optional<PurityAnalysis>& analysis,
                    const std::vector<FilterAdvice>& advice);
  QString text() const { return text_; }
  int order() const { return shown_ < 0 ? 0 : advice_[static_cast<std::size_t>(shown_)].order; }
  PushButton* other_order() { return other_; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void show_order(int index);
  void paint_response(QPainter& p, const QRectF& area, const FilterAdvice& filter) const;
  std::optional<PurityAnalysis> analysis_;
  std::vector<FilterAdvice> advice_;
  int shown_ = -1;
  QString text_;
  PushButton* other_;
};

}  // namespace heron
