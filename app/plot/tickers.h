#pragma once

#include <qcustomplot.h>

namespace heron {

/// A line every 10 dB, every second one labelled.
class DecibelTicker : public QCPAxisTicker {
 protected:
  double getTickStep(const QCPRange& range) override;
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale& locale, QChar format, int precision) override;

 private:
  double step_ = 10.0;
};

/// Signed frequencies in the unit that suits the range; the unit itself stands at the axis' end.
class FrequencyTicker : public QCPAxisTicker {
 public:
  static double unit_for(const QCPRange& range);
  static QString unit_name(double unit);

 protected:
  double getTickStep(const QCPRange& range) override;
  int getSubTickCount(double) override { return 0; }
  QString getTickLabel(double tick, const QLocale& locale, QChar format, int precision) override;

 private:
  double unit_ = 1.0;
  int decimals_ = 0;
};

}  // namespace heron
