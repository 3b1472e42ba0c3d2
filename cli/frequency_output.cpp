#include "cli/frequency_output.h"

#include <filesystem>
#include <fmt/format.h>

#include "core/method/measure/reference_error.h"
#include "core/method/result_json.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"
#include "core/read_text.h"

namespace heron {
namespace {

constexpr std::uintmax_t kLargestMb = 1024;

std::string hertz(double hz, double u_hz) {
  const int decimals = decimals_for(2.0 * u_hz, Rounding::compact);
  return number_text(hz, decimals, true) + " \u00b1 " + number_text(2.0 * u_hz, decimals) + " Hz";
}

}  // namespace

CsvTable table_of(const std::string& file) {
  return parse_csv(read_text(file, kLargestMb), std::filesystem::path(file).filename().string());
}

void add_remarks(nlohmann::json& out, const std::vector<Remark>& remarks) {
  for (const Remark& r : remarks) out["remarks"].push_back(to_json(r));
}

nlohmann::json bands_json(const Figure& ppm, const std::vector<double>& bands_hz) {
  nlohmann::json all = nlohmann::json::array();
  for (const BandError& b : errors_at(ppm, bands_hz))
    all.push_back({{"frequency_hz", b.frequency_hz},
                   {"error_hz", finite_or_null(b.error_hz)},
                   {"u_hz", finite_or_null(b.u_hz)}});
  return all;
}

void print_bands(const Figure& ppm, const std::vector<double>& bands_hz) {
  for (const BandError& b : errors_at(ppm, bands_hz))
    fmt::print("  at {:<14} {}\n", frequency_text(b.frequency_hz), hertz(b.error_hz, b.u_hz));
}

}  // namespace heron
