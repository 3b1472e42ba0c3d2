#include "app/export/report_pdf.h"

#include <QBuffer>
#include <QFileInfo>
#include <QSvgRenderer>
#include <algorithm>

#include "app/export/page_writer.h"
#include "app/export/table_layout.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/qt_text.h"
#include "app/theme/theme.h"
#include "report/plot_svg.h"
#include "store/file_sync.h"

namespace heron {
namespace {

void pairs(PageWriter& page, const std::vector<std::pair<std::string, std::string>>& list) {
  const Theme& t = light_theme();
  for (const auto& [name, value] : list) {
    if (value.empty()) continue;
    const QFont f = report_face(9);
    const double h = page.text_height(qt_text(value), f, page.width() - 90) + 2;
    page.need(h);
    page.painter().setFont(f);
    page.painter().setPen(t.mute);
    page.painter().drawText(QRectF(0, page.y(), 86, h), Qt::AlignLeft | Qt::AlignTop,
                            qt_text(name));
    page.painter().setPen(t.ink);
    page.painter().drawText(QRectF(90, page.y(), page.width() - 90, h + 2), Qt::TextWordWrap,
                            qt_text(value));
    page.space(h);
  }
}

void answer(PageWriter& page, const ReportSection& s) {
  const Theme& t = light_theme();
  page.need(48);
  const QFont f = report_face(17, 500, "JetBrains Mono");
  page.painter().setFont(f);
  page.painter().setPen(t.ink);
  page.painter().drawText(QRectF(0, page.y(), page.width(), 24), Qt::AlignVCenter,
                          qt_text(s.answer));
  if (!s.limit.empty()) {
    const double x = QFontMetricsF(f).horizontalAdvance(qt_text(s.answer)) + 20;
    draw_verdict(page.painter(), {x, page.y() + 12}, 12, s.judgement.verdict, t, s.is_provisional);
    page.painter().setFont(report_face(11, 600));
    page.painter().setPen(verdict_colour(t, s.judgement.verdict));
    page.painter().drawText(QRectF(x + 11, page.y(), 200, 24), Qt::AlignVCenter,
                            qt_text(verdict_word(s.judgement.verdict, s.is_provisional)));
  }
  page.space(26);
  const std::string label =
      s.answer_label + (s.answer_label.empty() ? "" : ". ") + s.judgement_sentence;
  page.text(qt_text(label), report_face(10), t.slate);
  page.space(8);
}

void table_head(PageWriter& page, const ReportTable& table, const TableLayout& layout) {
  const Theme& t = light_theme();
  page.painter().setFont(layout.head);
  page.painter().setPen(t.mute);
  for (std::size_t c = 0; c < table.heads.size(); ++c)
    page.painter().drawText(layout.box(c, page.y(), 14), layout.alignment(c),
                            qt_text(table.heads[c]));
  page.space(15);
  page.rule(t.hairStrong);
}

void table(PageWriter& page, const ReportTable& table) {
  if (table.rows.empty()) return;
  const Theme& t = light_theme();
  const std::size_t columns = table.heads.size();
  const TableLayout layout = lay_out_table(table, page.width());
  page.need(16 + 17 * 2);
  table_head(page, table, layout);
  for (std::size_t r = 0; r < table.rows.size(); ++r) {
    if (page.need(17)) table_head(page, table, layout);
    for (std::size_t c = 0; c < table.rows[r].size(); ++c) {
      const bool is_verdict = r < table.verdicts.size() && c + 1 == columns;
      QRectF box = layout.box(c, page.y(), 16);
      page.painter().setPen(is_verdict ? verdict_colour(t, table.verdicts[r]) : t.ink);
      page.painter().setFont(layout.font(c));
      if (is_verdict) {
        draw_verdict(page.painter(), {box.left() + 4, box.center().y()}, 7, table.verdicts[r], t);
        box.setLeft(box.left() + kVerdictMark);
      }
      page.painter().drawText(box, layout.alignment(c), qt_text(table.rows[r][c]));
    }
    page.space(16);
    page.rule(t.hair);
  }
  page.space(3);
  page.text(qt_text(table.note), report_face(8), t.mute);
  page.space(8);
}

void drawing(PageWriter& page, const std::string& svg, double height, const std::string& caption) {
  QSvgRenderer renderer(QByteArray(svg.data(), static_cast<qsizetype>(svg.size())));
  const double h = page.width() * height / 760.0;
  page.need(h + 14);
  renderer.render(&page.painter(), QRectF(0, page.y(), page.width(), h));
  page.space(h + 2);
  page.text(qt_text(caption), report_face(8), light_theme().mute);
  page.space(8);
}

void pictures(PageWriter& page, const ReportSection& s) {
  for (const Plot& plot : s.plots) drawing(page, plot_svg(plot), plot_svg_height(plot), plot.title);
}

void bullet(PageWriter& page, const std::string& words, const QFont& font, const QColor& colour) {
  page.text(QString::fromUtf8("•  ") + qt_text(words), font, colour, 4);
}

void section(PageWriter& page, const ReportSection& s) {
  const Theme& t = light_theme();
  // Title, conditions, answer and the first rows stay together.
  const auto rows = static_cast<double>(std::min<std::size_t>(s.table.rows.size(), 3));
  page.need(130 + 14 * static_cast<double>(s.conditions.size()) + (rows > 0 ? 20 + 17 * rows : 0));
  page.rule(t.hairStrong);
  page.space(10);
  page.text(qt_text(s.title), report_face(14, 600), t.ink);
  page.text(qt_text(s.question), report_face(10), t.slate);
  page.space(6);
  pairs(page, s.conditions);
  page.space(6);
  answer(page, s);
  if (!s.further_tables.empty()) page.text(qt_text(s.table.title), report_face(10, 600), t.ink);
  table(page, s.table);
  for (const ReportTable& further : s.further_tables) {
    page.text(qt_text(further.title), report_face(10, 600), t.ink);
    table(page, further);
  }
  pictures(page, s);
  if (!s.remarks.empty()) {
    page.need(34);
    page.text(QObject::tr("Remarks"), report_face(10, 600), t.ink);
    for (const Remark& r : s.remarks)
      bullet(page, r.text + (r.action.empty() ? "" : " " + r.action + "."), report_face(9), t.ink);
    page.space(6);
  }
  if (!s.note.empty()) {
    page.need(30);
    page.text(QObject::tr("Note"), report_face(10, 600), t.ink);
    page.text(qt_text(s.note), report_face(9), t.ink);
    page.space(6);
  }
  page.text(s.signature.empty() ? QObject::tr("Not signed off.")
                                : QObject::tr("Signed off by %1").arg(qt_text(s.signature)),
            report_face(9, 500), t.slate);
  page.space(14);
}

/// In plain words, before the sheets.
void owner(PageWriter& page, const std::vector<OwnerPart>& parts) {
  if (parts.empty()) return;
  const Theme& t = light_theme();
  page.rule(t.hairStrong);
  page.space(10);
  page.text(QObject::tr("For the owner"), report_face(14, 600), t.ink);
  page.space(4);
  for (const OwnerPart& part : parts) {
    page.need(34);
    page.text(qt_text(part.head), report_face(10, 600), t.ink);
    for (const std::string& line : part.lines) bullet(page, line, report_face(9), t.ink);
    page.space(6);
  }
  page.space(8);
}

}  // namespace

void write_report_pdf(const ReportDocument& d, const QString& path) {
  QByteArray bytes;
  QBuffer buffer(&bytes);
  buffer.open(QIODevice::WriteOnly);
  {
    QPdfWriter pdf(&buffer);
    pdf.setPageSize(QPageSize(QPageSize::A4));
    pdf.setTitle(qt_text(d.title));
    pdf.setCreator("Even Heron");
    PageWriter page(
        pdf, qt_text(d.title + "  \u00b7  made with Even Heron, " + readable_time(d.made_at)));
    const Theme& t = light_theme();
    page.text(qt_text(d.title), report_face(19, 600), t.ink);
    page.space(6);
    pairs(page, d.device);
    page.space(12);
    owner(page, d.owner);
    for (const ReportSection& s : d.sections) section(page, s);
    page.need(70);
    page.rule(t.hairStrong);
    page.space(8);
    page.text(QObject::tr("How to read this"), report_face(10, 600), t.ink);
    for (const std::string& rule : d.conventions) bullet(page, rule, report_face(8), t.slate);
    page.finish();
  }
  AtomicFile::write_whole(QFileInfo(path).absoluteFilePath().toStdString(),
                          {bytes.constData(), static_cast<std::size_t>(bytes.size())});
}

}  // namespace heron
