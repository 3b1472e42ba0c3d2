#include "core/chain/touchstone.h"

#include <algorithm>
#include <cctype>
#include <charconv>
#include <cmath>
#include <fmt/format.h>
#include <numbers>
#include <optional>

#include "core/error.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

enum class Form { db_angle, magnitude_angle, real_imaginary };

std::string lower(std::string_view text) {
  std::string out(text);
  std::transform(out.begin(), out.end(), out.begin(),
                 [](unsigned char c) { return static_cast<char>(std::tolower(c)); });
  return out;
}

std::vector<std::string_view> words_of(std::string_view line) {
  std::vector<std::string_view> words;
  std::size_t at = 0;
  while (true) {
    at = line.find_first_not_of(" \t\r\f\v,", at);
    if (at == std::string_view::npos) return words;
    const std::size_t end = std::min(line.find_first_of(" \t\r\f\v,", at), line.size());
    words.push_back(line.substr(at, end - at));
    at = end;
  }
}

std::optional<double> number_in(std::string_view word) {
  if (!word.empty() && word.front() == '+') word.remove_prefix(1);
  double value = 0.0;
  const auto [end, error] = std::from_chars(word.data(), word.data() + word.size(), value);
  if (error != std::errc() || end != word.data() + word.size() || !std::isfinite(value))
    return std::nullopt;
  return value;
}

std::complex<double> value_of(Form form, double a, double b) {
  if (form == Form::real_imaginary) return {a, b};
  const double magnitude = form == Form::db_angle ? voltage_ratio_from_db(a) : a;
  return std::polar(magnitude, b * std::numbers::pi / 180.0);
}

/// Reads line by line; keeps what it needs to say where something is wrong.
class Reader {
 public:
  explicit Reader(std::string name) : name_(std::move(name)) {}

  void take(std::string_view line) {
    ++line_number_;
    line = line.substr(0, line.find('!'));
    const auto words = words_of(line);
    if (words.empty() || is_finished_) return;
    if (words.front().front() == '#')
      take_options(words);
    else if (words.front().front() == '[')
      take_keyword(line);
    else if (!is_in_data_ && is_version_2_)
      take_reference(words);
    else
      take_numbers(words);
  }

  Touchstone finish() {
    if (!numbers_.empty()) {
      refuse(fmt::format("the last frequency has {} numbers instead of 9", numbers_.size()),
             "Copy the file again, or measure the part again");
    }
    if (result_.points.empty()) {
      line_number_ = 0;
      refuse("it has no data", "Choose a two-port file (.s2p)");
    }
    if (promised_ && *promised_ != result_.points.size()) {
      line_number_ = 0;
      refuse(
          fmt::format("it announces {} frequencies and has {}", *promised_, result_.points.size()),
          "Copy the file again");
    }
    return result_;
  }

 private:
  [[noreturn]] void refuse(const std::string& why, const std::string& what_to_do) const {
    throw InputError(name_, line_number_ > 0 ? fmt::format("line {}", line_number_) : "", why,
                     what_to_do);
  }

  void take_options(const std::vector<std::string_view>& words) {
    if (has_options_) return;  // the standard lets only the first one count
    has_options_ = true;
    bool next_is_reference = false;
    for (std::size_t i = 0; i < words.size(); ++i) {
      std::string word = lower(words[i]);
      if (i == 0) word.erase(0, 1);
      if (word.empty()) continue;
      if (next_is_reference) {
        set_reference(word);
        next_is_reference = false;
      } else if (word == "hz" || word == "khz" || word == "mhz" || word == "ghz") {
        unit_ = word == "hz" ? 1.0 : word == "khz" ? 1e3 : word == "mhz" ? 1e6 : 1e9;
      } else if (word == "db") {
        form_ = Form::db_angle;
      } else if (word == "ma") {
        form_ = Form::magnitude_angle;
      } else if (word == "ri") {
        form_ = Form::real_imaginary;
      } else if (word == "r") {
        next_is_reference = true;
      } else if (word == "y" || word == "z" || word == "g" || word == "h") {
        refuse("it holds " + word + " parameters", "Save it with S parameters");
      } else if (word != "s") {
        refuse("\u201c" + word + "\u201d is no option of such a file",
               "The line should read like: # MHz S DB R 50");
      }
    }
  }

  void set_reference(const std::string& word) {
    const auto ohms = number_in(word);
    if (!ohms || *ohms <= 0.0)
      refuse("the reference impedance is not a number above 0", "Give it in ohms, such as R 50");
    result_.reference_ohm = *ohms;
  }

  void take_keyword(std::string_view line) {
    const std::size_t close = line.find(']');
    if (close == std::string_view::npos) refuse("a keyword is not closed", "Copy the file again");
    const std::string key = lower(line.substr(line.find('[') + 1, close - line.find('[') - 1));
    const auto values = words_of(line.substr(close + 1));
    const auto count = [&]() -> std::size_t {
      const auto v = values.empty() ? std::nullopt : number_in(values.front());
      if (!v || *v < 1.0 || *v > 1e7 || *v != std::floor(*v))
        refuse("[" + key + "] needs a whole number", "Copy the file again");
      return static_cast<std::size_t>(*v);
    };
    if (key == "version") {
      is_version_2_ = true;
      if (values.empty() || number_in(values.front()) != 2.0)
        refuse("only versions 1 and 2.0 are known", "Save it as version 1 or 2.0");
    } else if (key == "number of ports") {
      if (count() != 2)
        refuse("it has " + std::string(values.front()) + " ports", "Choose a two-port file (.s2p)");
    } else if (key == "number of frequencies") {
      promised_ = count();
    } else if (key == "two-port data order") {
      is_21_first_ = values.empty() || values.front() != "12_21";
    } else if (key == "matrix format") {
      if (!values.empty() && lower(values.front()) != "full")
        refuse("only a full matrix is read", "Save it with the full matrix");
    } else if (key == "reference") {
      wants_reference_ = true;
      take_reference(values);
    } else if (key == "network data") {
      is_in_data_ = true;
    } else if (key == "noise data" || key == "end") {
      is_finished_ = true;
    }  // what describes the file and not the part is passed over
  }

  void take_reference(const std::vector<std::string_view>& words) {
    if (!wants_reference_) return;
    for (const std::string_view word : words) {
      const auto ohms = number_in(word);
      if (!ohms || *ohms <= 0.0)
        refuse("the reference impedance is not a number above 0", "Give it in ohms");
      if (has_reference_ && *ohms != result_.reference_ohm)
        refuse("its two ports have different reference impedances",
               "Save it with one reference impedance");
      result_.reference_ohm = *ohms;
      has_reference_ = true;
    }
  }

  void take_numbers(const std::vector<std::string_view>& words) {
    std::vector<double> values;
    for (const std::string_view word : words) {
      const auto value = number_in(word);
      if (!value)
        refuse("\u201c" + std::string(word.substr(0, 20)) + "\u201d is not a number",
               "Copy the file again, or remove the line");
      values.push_back(*value);
    }
    // Version 1 puts noise parameters behind the network, five a line, from a lower frequency on.
    if (numbers_.empty() && values.size() == 5 && !result_.points.empty() &&
        values.front() * unit_ <= result_.points.back().frequency_hz) {
      is_finished_ = true;
      return;
    }
    if (numbers_.empty() && values.size() == 3 && result_.points.empty())
      refuse("it has one port", "Choose a two-port file (.s2p)");
    numbers_.insert(numbers_.end(), values.begin(), values.end());
    if (numbers_.size() > 9)
      refuse(fmt::format("a frequency has {} numbers instead of 9", numbers_.size()),
             "Choose a two-port file (.s2p)");
    if (numbers_.size() < 9) return;
    const double frequency = numbers_[0] * unit_;
    if (frequency < 0.0 ||
        (!result_.points.empty() && frequency <= result_.points.back().frequency_hz))
      refuse("its frequency does not rise above the one before",
             "Sort the file by frequency, each frequency once");
    const auto value = [&](std::size_t i) {
      return value_of(form_, numbers_[1 + 2 * i], numbers_[2 + 2 * i]);
    };
    result_.points.push_back({frequency, value(0), is_21_first_ ? value(1) : value(2),
                              is_21_first_ ? value(2) : value(1), value(3)});
    numbers_.clear();
  }

  std::string name_;
  Touchstone result_;
  std::vector<double> numbers_;
  std::optional<std::size_t> promised_;
  double unit_ = 1e9;
  Form form_ = Form::magnitude_angle;
  int line_number_ = 0;
  bool has_options_ = false;
  bool is_version_2_ = false;
  bool is_in_data_ = false;
  bool is_finished_ = false;
  bool is_21_first_ = true;
  bool wants_reference_ = false;
  bool has_reference_ = false;
};

double vswr_of(std::complex<double> reflection) {
  const double magnitude = std::min(std::abs(reflection), 0.999);
  return (1.0 + magnitude) / (1.0 - magnitude);
}

const TwoPort& nearest(const std::vector<TwoPort>& points, double frequency_hz) {
  return *std::min_element(points.begin(), points.end(), [&](const TwoPort& a, const TwoPort& b) {
    return std::abs(a.frequency_hz - frequency_hz) < std::abs(b.frequency_hz - frequency_hz);
  });
}

}  // namespace

Touchstone parse_touchstone(std::string_view text, const std::string& name) {
  Reader reader(name);
  while (!text.empty()) {
    const std::size_t end = text.find_first_of("\n\r");
    reader.take(text.substr(0, end));
    if (end == std::string_view::npos) break;
    const bool is_pair = text[end] == '\r' && end + 1 < text.size() && text[end + 1] == '\n';
    text.remove_prefix(end + (is_pair ? 2 : 1));
  }
  return reader.finish();
}

Gain Touchstone::gain(const std::string& subject) const {
  std::vector<GainPoint> table;
  table.reserve(points.size());
  for (const TwoPort& p : points)
    table.push_back({p.frequency_hz, db_from_voltage_ratio(std::max(std::abs(p.s21), 1e-15))});
  return {std::move(table), subject};
}

Touchstone Touchstone::referred_to(double ohm) const {
  Touchstone out = *this;
  out.reference_ohm = ohm;
  // One real impedance at both ports: S' = (S - r I) (I - r S)^-1 (Kurokawa's power waves).
  const double r = (ohm - reference_ohm) / (ohm + reference_ohm);
  for (TwoPort& p : out.points) {
    const std::complex<double> a = 1.0 - r * p.s11;
    const std::complex<double> d = 1.0 - r * p.s22;
    const std::complex<double> product = p.s12 * p.s21;
    const std::complex<double> determinant = a * d - r * r * product;
    const TwoPort old = p;
    p.s11 = ((old.s11 - r) * d + r * product) / determinant;
    p.s22 = ((old.s22 - r) * a + r * product) / determinant;
    p.s21 = old.s21 * (1.0 - r * r) / determinant;
    p.s12 = old.s12 * (1.0 - r * r) / determinant;
  }
  return out;
}

double Touchstone::input_vswr(double frequency_hz) const {
  return vswr_of(nearest(points, frequency_hz).s11);
}

double Touchstone::output_vswr(double frequency_hz) const {
  return vswr_of(nearest(points, frequency_hz).s22);
}

}  // namespace heron
