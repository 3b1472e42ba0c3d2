#pragma once

#include <QFont>

namespace heron {

/// Type styles by role. Words are Inter, figures JetBrains Mono.
enum class Type {
  readout,
  readout_small,
  uncertainty,
  title,
  wordmark,
  heading,
  question,
  device,
  button,
  body,
  name,
  current,
  control,
  control_chosen,
  link,
  figure,
  figure_chosen,
  figure_small,
  label,
  tick
};

QFont type_font(Type type);
/// Of a label that stands out.
QFont strong_label();
/// Registers the fonts that ship with the program; false if one is missing.
bool load_fonts();

}  // namespace heron
