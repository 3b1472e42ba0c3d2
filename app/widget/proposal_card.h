#pragma once

#include "app/widget/card.h"
#include "core/method/result.h"

namespace heron {

class PushButton;

/// Something that would help: what it is, what it does, what it costs; "Next" looks through the
/// others. Hidden while there is nothing to propose.
class ProposalCardView : public Card {
  Q_OBJECT
 public:
  explicit ProposalCardView(QWidget* parent = nullptr);
  void set_card(const ProposalCard* card);  ///< nullptr = nothing
  /// The one that is shown; nullptr if none is.
  const Proposal* proposal() const;
  PushButton* next() { return next_; }

 protected:
  void paintEvent(QPaintEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

 private:
  void show_choice(std::size_t index);
  void paint_plot(QPainter& p, const QRectF& area, const Plot& plot) const;
  void paint_axes(QPainter& p, const QRectF& area, const Plot& plot) const;
  ProposalCard card_;
  PushButton* next_;
};

}  // namespace heron
