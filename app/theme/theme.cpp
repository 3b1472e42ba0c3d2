#include "app/theme/theme.h"

#include <QApplication>
#include <QWidget>

#include "app/theme/fonts.h"
#include "app/theme/style_sheet.h"

namespace heron {

const Theme& light_theme() {
  static const Theme theme = [] {
    Theme t;
    t.paper = "#F1F3EC";
    t.sheet = "#FFFFFF";
    t.strip = "#F8F9F5";
    t.sunk = "#E7EBE2";
    t.raised = "#FFFFFF";
    t.segOn = "#FFFFFF";
    t.hoverPaper = "#E7EBE2";
    t.hoverSheet = "#F6F7F3";
    t.ink = "#1B282F";
    t.slate = "#465B69";
    t.mute = "#5A6C77";
    t.hair = "#DADFD8";
    t.hairStrong = "#BCC5BF";
    t.water = "#24627F";
    t.waterTint = "#E6EFF2";
    t.bill = "#B0500E";
    t.billInk = "#FFFFFF";
    t.billTint = "#F8EBDF";
    t.pass = "#2F6E43";
    t.passTint = "#E3EEE4";
    t.marg = "#8A5F05";
    t.margTint = "#F7EED6";
    t.fail = "#A3312F";
    t.failTint = "#F7E4E1";
    t.floorTint = "#EEF0EB";
    t.trackCaution = "#E6D7AC";
    return t;
  }();
  return theme;
}

const Theme& dark_theme() {
  static const Theme theme = [] {
    Theme t;
    t.is_dark = true;
    t.paper = "#10171B";
    t.sheet = "#182126";
    t.strip = "#141C20";
    t.sunk = "#0B1114";
    t.raised = "#202B31";
    t.segOn = "#33434C";
    t.hoverPaper = "#202B31";
    t.hoverSheet = "#202B31";
    t.ink = "#E3E8E2";
    t.slate = "#A9BAC3";
    t.mute = "#8A9CA6";
    t.hair = "#2A363D";
    t.hairStrong = "#43525B";
    t.water = "#78B7D3";
    t.waterTint = "#1D3039";
    t.bill = "#EE9450";
    t.billInk = "#1A1006";
    t.billTint = "#35261A";
    t.pass = "#7CC492";
    t.passTint = "#1C3226";
    t.marg = "#E3B550";
    t.margTint = "#352C17";
    t.fail = "#F08A80";
    t.failTint = "#3A2220";
    t.floorTint = "#1F2A30";
    t.trackCaution = "#52461F";
    return t;
  }();
  return theme;
}

QPalette Theme::palette() const {
  QPalette p;
  p.setColor(QPalette::Window, paper);
  p.setColor(QPalette::WindowText, ink);
  p.setColor(QPalette::Base, sheet);
  p.setColor(QPalette::AlternateBase, sheet);
  p.setColor(QPalette::Text, ink);
  p.setColor(QPalette::Button, sheet);
  p.setColor(QPalette::ButtonText, ink);
  p.setColor(QPalette::Highlight, water);
  p.setColor(QPalette::HighlightedText, is_dark ? sunk : sheet);
  p.setColor(QPalette::ToolTipBase, raised);
  p.setColor(QPalette::ToolTipText, ink);
  p.setColor(QPalette::PlaceholderText, mute);
  p.setColor(QPalette::Link, water);
  p.setColor(QPalette::Disabled, QPalette::Text, mute);
  p.setColor(QPalette::Disabled, QPalette::ButtonText, mute);
  p.setColor(QPalette::Disabled, QPalette::WindowText, mute);
  return p;
}

const Theme& theme_of(const QWidget*) {
  // The application's own palette: a style sheet may give a single widget another one.
  return QApplication::palette().color(QPalette::Window).lightness() < 128 ? dark_theme()
                                                                           : light_theme();
}

void apply_theme(QApplication& application, const Theme& theme) {
  application.setPalette(theme.palette());
  application.setFont(type_font(Type::body));
  application.setStyleSheet(style_sheet(theme));
}

}  // namespace heron
