#include "report/html.h"

#include <fmt/format.h>

#include "report/plot_svg.h"
#include "report/verdict_svg.h"

namespace heron {
namespace {

constexpr const char* kStyle = R"css(
:root{color:#1B282F;background:#F1F3EC;font:14px/1.45 Inter,system-ui,sans-serif}
body{max-width:860px;margin:24px auto;padding:0 16px}
header,section{background:#fff;border:1px solid #DADFD8;border-radius:6px;padding:20px 24px;margin:0 0 12px}
h1{font-size:22px;margin:0 0 12px}h2{font-size:18px;margin:0}h3{font-size:14px;margin:18px 0 6px}
.question{color:#465B69;margin:2px 0 12px}
dl{display:grid;grid-template-columns:max-content 1fr;gap:2px 16px;margin:0}dt{color:#5A6C77}dd{margin:0}
.answer{display:flex;flex-wrap:wrap;align-items:center;gap:6px 14px;margin:14px 0 2px}
.figure{font:500 24px 'JetBrains Mono',monospace}
.verdict{display:inline-flex;align-items:center;gap:6px;font-weight:600;white-space:nowrap}
table{border-collapse:collapse;width:100%;font-variant-numeric:tabular-nums}
th{font-weight:500;color:#5A6C77;text-align:right;font-size:12px}td{text-align:right}
th:first-child,td:first-child,th:last-child,td:last-child{text-align:left}
th,td{padding:5px 8px;border-bottom:1px solid #DADFD8}
td:first-child{font-weight:600}
figure{margin:14px 0 0}figcaption,.small{color:#5A6C77;font-size:12px}
svg{max-width:100%}
ul{margin:4px 0;padding-left:18px}
.signed{border-top:1px solid #BCC5BF;margin-top:16px;padding-top:8px;color:#465B69}
@media print{:root{background:#fff}body{margin:0;max-width:none}header,section{border:0;padding:0 0 12px}
section{break-before:auto}figure,tr,.answer{break-inside:avoid}thead{display:table-header-group}}
)css";

std::string pairs(const std::vector<std::pair<std::string, std::string>>& list) {
  std::string out = "<dl>";
  for (const auto& [name, value] : list) {
    if (!value.empty()) out += fmt::format("<dt>{}</dt><dd>{}</dd>", escaped(name), escaped(value));
  }
  return out + "</dl>";
}

std::string verdict(Verdict v, const std::string& word, int size) {
  return fmt::format("<span class='verdict' style='color:{}'>{}{}</span>", verdict_colour(v),
                     verdict_svg(v, size), escaped(word));
}

std::string table(const ReportTable& t) {
  if (t.rows.empty()) return {};
  std::string out = "<table><thead><tr>";
  for (const std::string& head : t.heads) out += "<th scope='col'>" + escaped(head) + "</th>";
  out += "</tr></thead><tbody>";
  for (std::size_t r = 0; r < t.rows.size(); ++r) {
    out += "<tr>";
    for (std::size_t c = 0; c < t.rows[r].size(); ++c) {
      const bool is_verdict = r < t.verdicts.size() && c + 1 == t.rows[r].size();
      out += "<td>" +
             (is_verdict ? verdict(t.verdicts[r], t.rows[r][c], 12) : escaped(t.rows[r][c])) +
             "</td>";
    }
    out += "</tr>";
  }
  return out + "</tbody></table><p class='small'>" + escaped(t.note) + "</p>";
}

std::string section(const ReportSection& s) {
  std::string out = fmt::format("<section><h2>{}</h2><p class='question'>{}</p>", escaped(s.title),
                                escaped(s.question));
  out += pairs(s.conditions);
  out += fmt::format("<div class='answer'><span class='figure'>{}</span>", escaped(s.answer));
  if (!s.limit.empty())
    out += verdict(s.judgement.verdict, verdict_word(s.judgement.verdict, s.is_provisional), 16);
  out += fmt::format("</div><p>{}{}{}</p>", escaped(s.answer_label),
                     s.answer_label.empty() ? "" : ". ", escaped(s.judgement_sentence));
  if (!s.further_tables.empty()) out += "<h3>" + escaped(s.table.title) + "</h3>";
  out += table(s.table);
  for (const ReportTable& t : s.further_tables)
    out += "<h3>" + escaped(t.title) + "</h3>" + table(t);
  for (const Plot& plot : s.plots)
    out += "<figure>" + plot_svg(plot) + "<figcaption>" + escaped(plot.title) +
           "</figcaption></figure>";
  if (!s.remarks.empty()) {
    out += "<h3>Remarks</h3><ul>";
    for (const Remark& r : s.remarks) {
      out += "<li>" + escaped(r.text) +
             (r.action.empty() ? "" : " <em>" + escaped(r.action) + ".</em>") + "</li>";
    }
    out += "</ul>";
  }
  if (!s.note.empty()) out += "<h3>Note</h3><p>" + escaped(s.note) + "</p>";
  out += "<p class='signed'>" +
         (s.signature.empty() ? std::string("Not signed off.")
                              : "Signed off by " + escaped(s.signature)) +
         "</p>";
  return out + "</section>";
}

std::string lines(const std::vector<std::string>& list) {
  std::string out = "<ul>";
  for (const std::string& line : list) out += "<li>" + escaped(line) + "</li>";
  return out + "</ul>";
}

std::string owner(const std::vector<OwnerPart>& parts) {
  if (parts.empty()) return {};
  std::string out = "<section class='owner'><h2>For the owner</h2>";
  for (const OwnerPart& part : parts)
    out += "<h3>" + escaped(part.head) + "</h3>" + lines(part.lines);
  return out + "</section>";
}

}  // namespace

std::string report_html(const ReportDocument& d) {
  std::string out = fmt::format(
      "<!doctype html>\n<html lang='en'><head><meta charset='utf-8'><meta name='viewport' "
      "content='width=device-width'><title>{}</title><style>{}</style></head><body>",
      escaped(d.title), kStyle);
  out += "<header><h1>" + escaped(d.title) + "</h1>" + pairs(d.device) + "</header>";
  out += owner(d.owner);
  for (const ReportSection& s : d.sections) out += section(s);
  out += "<section><h2>How to read this</h2>" + lines(d.conventions);
  out += "<p class='small'>Made with Even Heron, " + escaped(readable_time(d.made_at)) +
         "</p></section>";
  return out + "</body></html>\n";
}

}  // namespace heron
