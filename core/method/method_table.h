#pragma once

#include <span>
#include <string>
#include <string_view>

namespace heron {

/// One characteristic of a device: how it is called, judged and drawn, everywhere the same.
struct Characteristic {
  std::string_view id;
  std::string_view title;     ///< column head in the shack: "Two-tone"
  std::string_view test;      ///< name of a test of it: "Two-tone products"
  std::string_view question;  ///< the one plain question of its sheet
  std::string_view unit;
  double span;             ///< full scale of its margin line, in `unit`
  bool has_method;         ///< measured by this version
  bool has_column = true;  ///< of the shack
};

/// In the order of the shack's columns.
std::span<const Characteristic> characteristics();
/// nullptr if unknown.
const Characteristic* find_characteristic(std::string_view id);

/// What every evaluation begins with, so that there is something to do on it.
const Characteristic& first_characteristic();

}  // namespace heron
