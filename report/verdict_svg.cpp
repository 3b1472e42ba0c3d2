#include "report/verdict_svg.h"

#include <fmt/format.h>

namespace heron {

std::string verdict_colour(Verdict verdict) {
  switch (verdict) {
    case Verdict::pass:
      return "#2F6E43";
    case Verdict::too_close:
    case Verdict::incomplete:
      return "#8A5F05";
    case Verdict::fail:
      return "#A3312F";
    case Verdict::stale:
    case Verdict::accepted:
      return "#465B69";
    case Verdict::not_taken:
      return "#5A6C77";
  }
  return "#5A6C77";
}

std::string verdict_shape(Verdict verdict) {
  const std::string colour = verdict_colour(verdict);
  std::string shape;
  switch (verdict) {
    case Verdict::pass:
      shape = fmt::format(
          "<circle cx='8' cy='8' r='7' fill='{}'/><path d='M4.6 8.3 7 10.7 11.4 5.6' fill='none' "
          "stroke='#fff' stroke-width='1.7'/>",
          colour);
      break;
    case Verdict::too_close:
      shape = fmt::format(
          "<path d='M8 0 16 8 8 16 0 8Z' fill='{}'/><path d='M4 8.6C5.3 6.6 6.6 6.6 8 8s2.7 1.4 "
          "4-.6' "
          "fill='none' stroke='#fff' stroke-width='1.5'/>",
          colour);
      break;
    case Verdict::fail:
      shape = fmt::format(
          "<path d='M.2 1.6H15.8L8 15.2Z' fill='{}'/><path d='M5.2 5.2H10.8' stroke='#fff' "
          "stroke-width='1.8'/>",
          colour);
      break;
    case Verdict::stale:
      shape = fmt::format(
          "<path d='M3 4A6.4 6.4 0 0 1 13 4M13 12A6.4 6.4 0 0 1 3 12' fill='none' stroke='{0}' "
          "stroke-width='1.5'/><circle cx='8' cy='8' r='2.2' fill='{0}'/>",
          colour);
      break;
    case Verdict::incomplete:
      shape = fmt::format(
          "<path d='M8 1.4A6.6 6.6 0 0 0 8 14.6Z' fill='{0}'/><circle cx='8' cy='8' r='6.6' "
          "fill='none' stroke='{0}' stroke-width='1.5'/>",
          colour);
      break;
    case Verdict::accepted:
      shape = fmt::format(
          "<rect x='1' y='1' width='14' height='14' rx='2.2' fill='{}'/><path d='M4.8 8H11.2' "
          "stroke='#fff' stroke-width='1.8'/>",
          colour);
      break;
    case Verdict::not_taken:
      shape = fmt::format(
          "<circle cx='8' cy='8' r='6.6' fill='none' stroke='{}' stroke-width='1.25'/>", colour);
      break;
  }
  return shape;
}

std::string verdict_svg(Verdict verdict, int size_px) {
  return fmt::format(
      "<svg xmlns='http://www.w3.org/2000/svg' width='{0}' height='{0}' viewBox='0 0 16 16' "
      "aria-hidden='true'>{1}</svg>",
      size_px, verdict_shape(verdict));
}

std::string escaped(const std::string& text) {
  std::string out;
  for (const char c : text) {
    switch (c) {
      case '&':
        out += "&amp;";
        break;
      case '<':
        out += "&lt;";
        break;
      case '>':
        out += "&gt;";
        break;
      case '"':
        out += "&quot;";
        break;
      case '\'':
        out += "&#39;";
        break;
      default:
        out += c;
    }
  }
  return out;
}

}  // namespace heron
