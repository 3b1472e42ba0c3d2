#pragma once

#include <QFont>
#include <QPainter>
#include <QPdfWriter>
#include <QString>
#include <functional>

namespace heron {

/// A face of the printed report; `px` is cut to whole pixels.
QFont report_face(double px, int weight = 400, const char* family = "Inter");

/// Fills pages from top to bottom in points; begins a new page when a block does not fit.
class PageWriter {
 public:
  PageWriter(QPdfWriter& pdf, const QString& footer);
  /// Room for `height` points in one piece; a new page if needed. True if a page was begun.
  bool need(double height);
  void space(double height) { y_ += height; }
  /// Wrapped text; advances. `x` from the left margin.
  void text(const QString& words, const QFont& font, const QColor& colour, double x = 0,
            double width = -1);
  double text_height(const QString& words, const QFont& font, double width) const;
  void rule(const QColor& colour);
  void finish();  ///< page numbers on the last page
  QPainter& painter() { return painter_; }
  double y() const { return y_; }
  double width() const { return width_; }
  int page() const { return page_; }

 private:
  void footer();
  QPdfWriter& pdf_;
  QPainter painter_;
  QString footer_;
  double width_;
  double height_;
  double y_ = 0;
  int page_ = 1;
};

}  // namespace heron
