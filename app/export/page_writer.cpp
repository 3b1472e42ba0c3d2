#include "app/export/page_writer.h"

#include <cmath>

#include "app/theme/fonts.h"
#include "app/theme/theme.h"

namespace heron {
namespace {
constexpr double kMargin = 48;
constexpr double kFoot = 30;
}  // namespace

QFont report_face(double px, int weight, const char* family) {
  QFont f(family);
  // Whole pixels only: sizes are chosen so.
  f.setPixelSize(static_cast<int>(px));
  f.setWeight(static_cast<QFont::Weight>(weight));
  // Inter's shaped dashes and colons between digits have no code of their own in the PDF: a date
  // copied from it would lose them.
  f.setStyleStrategy(QFont::PreferNoShaping);
  return f;
}

PageWriter::PageWriter(QPdfWriter& pdf, const QString& footer) : pdf_(pdf), footer_(footer) {
  pdf_.setResolution(72 * 4);
  pdf_.setPageMargins(QMarginsF(0, 0, 0, 0));
  painter_.begin(&pdf_);
  // Points as units; fonts are set in pixels of that scale.
  painter_.scale(4, 4);
  const QSizeF page = pdf_.pageLayout().pageSize().size(QPageSize::Point);
  width_ = page.width() - 2 * kMargin;
  height_ = page.height() - kMargin - kFoot;
  painter_.translate(kMargin, 0);
  y_ = kMargin;
}

void PageWriter::footer() {
  const Theme& t = light_theme();
  QFont face("Inter");
  face.setPixelSize(8);
  painter_.setFont(face);
  painter_.setPen(t.mute);
  const QRectF box(0, height_ + 4, width_, 14);
  painter_.drawText(box, Qt::AlignLeft | Qt::AlignVCenter, footer_);
  painter_.drawText(box, Qt::AlignRight | Qt::AlignVCenter, QObject::tr("page %1").arg(page_));
}

bool PageWriter::need(double height) {
  if (y_ + height <= height_ - 6 || y_ <= kMargin + 1) return false;
  footer();
  pdf_.newPage();
  ++page_;
  y_ = kMargin;
  return true;
}

double PageWriter::text_height(const QString& words, const QFont& font, double width) const {
  return QFontMetricsF(font)
      .boundingRect(QRectF(0, 0, width, 1e6), Qt::TextWordWrap, words)
      .height();
}

void PageWriter::text(const QString& words, const QFont& font, const QColor& colour, double x,
                      double width) {
  if (words.isEmpty()) return;
  const double w = width < 0 ? width_ - x : width;
  const double h = text_height(words, font, w);
  need(h);
  painter_.setFont(font);
  painter_.setPen(colour);
  painter_.drawText(QRectF(x, y_, w, h + 2), Qt::TextWordWrap, words);
  y_ += h;
}

void PageWriter::rule(const QColor& colour) {
  painter_.fillRect(QRectF(0, y_, width_, 0.6), colour);
  y_ += 0.6;
}

void PageWriter::finish() {
  footer();
  painter_.end();
}

}  // namespace heron
