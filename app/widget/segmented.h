#pragma once

#include <QStringList>
#include <QWidget>

class QButtonGroup;

namespace heron {

/// Choice of two to four values; arrows move, one stop in the tab order. A screen reader hears
/// radio buttons.
class Segmented : public QWidget {
  Q_OBJECT
 public:
  Segmented(const QString& name, const QStringList& choices, QWidget* parent = nullptr);
  int current() const;
  QString current_text() const;
  void set_current(int index);  ///< without a signal
  /// Other choices, if they differ; then the first is chosen, without a signal.
  void set_choices(const QStringList& choices);
  /// With little beside its words, where there is little room.
  void set_tight(bool tight);
  QSize sizeHint() const override;
  QSize minimumSizeHint() const override { return sizeHint(); }

 signals:
  void chosen(int index);

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  void fill(const QStringList& choices);
  QButtonGroup* group_;
  int count_ = 0;
  int current_ = 0;
};

}  // namespace heron
