#include "app/export/card_pdf.h"

#include <QBuffer>
#include <QFileInfo>
#include <QPageSize>
#include <QPdfWriter>

#include "app/export/page_writer.h"
#include "app/theme/qt_text.h"
#include "store/file_sync.h"

namespace heron {
namespace {

constexpr double kPointsPerMm = 72.0 / 25.4;
constexpr double kInset = 9.0;
constexpr double kRow = 17.5;
constexpr std::size_t kRows = 5;  // in each of two columns

}  // namespace

void draw_print_card(QPainter& p, const QRectF& box, const PrintCard& card, const QString& device,
                     const QString& date) {
  p.setRenderHint(QPainter::Antialiasing);
  p.setBrush(Qt::white);
  p.setPen(QPen(Qt::black, 0.6));
  p.drawRect(box.adjusted(0.5, 0.5, -0.5, -0.5));
  const QRectF in = box.adjusted(kInset, kInset - 2.0, -kInset, -kInset + 2.0);
  p.setFont(report_face(10, 600));
  p.drawText(QRectF(in.left(), in.top(), in.width(), 13), Qt::AlignLeft | Qt::AlignVCenter,
             device + ", " + qt_text(card.title));
  const double half = in.width() / 2.0;
  p.setFont(report_face(8, 500));
  for (std::size_t column = 0; column < 2; ++column) {
    if (column * kRows >= card.rows.size()) break;
    const double x = in.left() + static_cast<double>(column) * half;
    p.drawText(QRectF(x, in.top() + 15, half / 2.0, 12), Qt::AlignLeft | Qt::AlignVCenter,
               qt_text(card.heads.first));
    p.drawText(QRectF(x + half / 2.0, in.top() + 15, half / 2.0 - 12, 12),
               Qt::AlignRight | Qt::AlignVCenter, qt_text(card.heads.second));
  }
  p.drawLine(QPointF(in.left(), in.top() + 28), QPointF(in.right(), in.top() + 28));
  p.setFont(report_face(12, 500));
  for (std::size_t i = 0; i < card.rows.size() && i < 2 * kRows; ++i) {
    const double x = in.left() + (i < kRows ? 0.0 : half);
    const double y = in.top() + 31 + static_cast<double>(i % kRows) * kRow;
    p.drawText(QRectF(x, y, half / 2.0, kRow), Qt::AlignLeft | Qt::AlignVCenter,
               qt_text(card.rows[i].first));
    p.drawText(QRectF(x + half / 2.0, y, half / 2.0 - 12, kRow), Qt::AlignRight | Qt::AlignVCenter,
               qt_text(card.rows[i].second));
  }
  p.setFont(report_face(8));
  p.drawText(QRectF(in.left(), in.bottom() - 12, in.width(), 12), Qt::AlignLeft | Qt::AlignVCenter,
             qt_text(card.foot));
  p.drawText(QRectF(in.left(), in.bottom() - 12, in.width(), 12), Qt::AlignRight | Qt::AlignVCenter,
             date);
}

void write_card_pdf(const PrintCard& card, const QString& device, const QString& date,
                    const QString& path) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  {
    QPdfWriter pdf(&buffer);
    pdf.setPageSize(QPageSize(kCardMm, QPageSize::Millimeter));
    pdf.setPageMargins({});
    pdf.setResolution(72);
    pdf.setTitle(device + ", " + qt_text(card.title));
    pdf.setCreator("Even Heron");
    QPainter p(&pdf);
    draw_print_card(p, QRectF(QPointF(), kCardMm * kPointsPerMm), card, device, date);
  }
  AtomicFile::write_whole(QFileInfo(path).absoluteFilePath().toStdString(),
                          {bytes.constData(), static_cast<std::size_t>(bytes.size())});
}

}  // namespace heron
