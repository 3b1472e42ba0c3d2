#include "demo/demo_bench.h"

#include <cmath>
#include <complex>
#include <ctime>
#include <fmt/format.h>
#include <numbers>
#include <random>

#include "core/quantity/levels.h"
#include "store/file_sync.h"

namespace heron::demo {
namespace {

/// A pad that is good to 50 MHz and loses more and more above, as a real one does.
std::string pad_curve(double loss_db, double knee_hz, std::size_t points) {
  std::string text = "! power pad, two ports\n# MHz S DB R 50\n";
  for (std::size_t i = 0; i < points; ++i) {
    const double hz =
        1e6 * std::pow(150.0, static_cast<double>(i) / static_cast<double>(points - 1));
    const double loss =
        loss_db + 7.5 * std::pow(hz / knee_hz, 2.2) - 0.05 * std::log10(hz / 14.2e6);
    const double match_db = -30.0 + 13.0 * hz / knee_hz;
    const double angle = -90.0 * hz / knee_hz;
    text +=
        fmt::format("{:.6f} {:.3f} {:.1f} {:.4f} {:.1f} {:.4f} {:.1f} {:.3f} {:.1f}\n", hz / 1e6,
                    match_db, angle, -loss, angle, -loss, angle, match_db - 2.0, angle);
  }
  return text;
}

struct Rating {
  double watt = 0.0;   ///< continuous; 0 = not stated
  double tau_s = 0.0;  ///< 0 = not stated
  double peak_watt = 0.0;
};

BenchItem part(const std::string& sort, const std::string& name, double gain_db, double expanded_db,
               double vswr, const Rating& rating, double age_months) {
  BenchItem item = made_item(sort);
  item.part.name = name;
  item.part.gain = Gain(gain_db);
  item.part.u_db = expanded_db / 2.0;
  item.part.vswr = vswr;
  if (rating.watt > 0.0) item.part.max_input_w = rating.watt;
  if (rating.tau_s > 0.0) item.part.time_constant_s = rating.tau_s;
  if (rating.peak_watt > 0.0) item.part.max_input_dbm = to_dbm(Watt{rating.peak_watt}).value;
  if (age_months > 0.0) item.part.calibration.date = months_ago(age_months).substr(0, 10);
  return item;
}

BenchItem instrument(const std::string& sort, const std::string& name,
                     const std::string& resolution, double age_months) {
  BenchItem item = made_item(sort);
  item.part.name = name;
  item.resolution = resolution;
  if (age_months > 0.0) item.part.calibration.date = months_ago(age_months).substr(0, 10);
  return item;
}

BenchItem power_pad() {
  BenchItem item = part("attenuator", "Power pad, 40 dB", -40.0, 0.12, 1.08, {10, 118, 100}, 7);
  set_curve(item, pad_curve(39.94, 150e6, 401), "pad-p07.s2p");
  item.part.vswr.reset();
  item.serial = "P07";
  item.part.calibration.ageing_u_db_per_month = 0.0075;
  item.past = {{months_ago(34).substr(0, 10), 0.06, std::nullopt},
               {months_ago(19).substr(0, 10), 0.06, std::nullopt}};
  return item;
}

BenchItem sampler() {
  BenchItem item = instrument("sampler", "Sampler", "16 bit", 0.7);
  item.part.u_db = 0.10;
  item.part.vswr = 1.15;
  item.part.max_input_dbm = 20.0;
  item.part.full_scale_dbm = 1.7;
  item.part.best_input_dbm = std::pair{-22.0, -6.0};
  item.part.linearity_u_db = 0.35;
  return item;
}

std::vector<BenchItem> all_items() {
  std::vector<BenchItem> items;
  items.push_back(power_pad());
  items.push_back(part("attenuator", "Power pad, 50 dB", -50.05, 0.16, 1.10, {50, 180, 500}, 2));
  items.push_back(part("attenuator", "Pad, 20 dB", -20.02, 0.10, 1.06, {5, 0, 0}, 9));
  items.push_back(part("attenuator", "Pad, 10 dB", -9.98, 0.08, 1.05, {2, 0, 0}, 9));
  items.push_back(part("step_attenuator", "Step attenuator", -6.21, 0.10, 1.12, {0.5, 0, 2}, 26));
  items.push_back(part("load", "Dummy load, 53 dB tap", -53.1, 0.30, 1.12, {150, 300, 1000}, 5));
  items.push_back(part("cable", "Cable, 2 m", -0.09, 0.02, 1.04, {100, 0, 500}, 11));
  items.push_back(part("cable", "Cable, 0.5 m", -0.03, 0.01, 1.03, {100, 0, 500}, 11));
  items.push_back(part("coupler", "Coupler, 30 dB", -30.2, 0.25, 1.15, {200, 0, 1000}, 4));
  items.push_back(part("probe", "Probe, 10:1", -20.0, 0.20, 1.5, {0, 0, 1}, 0));
  items.back().part.vswr.reset();
  items.push_back(sampler());
  items.push_back(instrument("generator", "Generator", "0.1 dB", 8));
  items.back().level_means = "emf";
  items.back().part.u_db = 0.25;
  items.back().part.vswr = 1.3;
  items.push_back(instrument("power_meter", "Power meter", "0.01 dB", 10));
  items.back().part.u_db = 0.1;
  items.back().part.vswr = 1.05;
  items.back().part.max_input_w = 0.2;
  items.back().part.max_input_dbm = 26.0;
  items.back().part.best_input_dbm = std::pair{-25.0, 15.0};
  items.push_back(instrument("counter", "Counter", "0.1 Hz", 12.5));
  items.back().timebase_ppm = 0.1;
  items.back().gate_s = 10.0;
  items.push_back(instrument("rms_voltmeter", "RMS voltmeter", "0.1 mV", 9));
  items.push_back(instrument("average_voltmeter", "Old voltmeter", "1 mV", 0));
  items.push_back(instrument("supply", "Supply, 10 A", "10 mA", 0));
  items.back().current_limit_a = 10.0;
  items.push_back(instrument("thermometer", "Thermometer", "0.1 \u00b0C", 14));
  return items;
}

}  // namespace

std::string months_ago(double months) {
  const std::time_t then =
      std::time(nullptr) - static_cast<std::time_t>(months * 30.436875 * 86400.0);
  std::tm parts{};
  gmtime_r(&then, &parts);
  char text[32];
  std::strftime(text, sizeof text, "%Y-%m-%dT%H:%M:%SZ", &parts);
  return text;
}

std::map<std::string, Id> add_bench(Shack& shack) {
  std::map<std::string, Id> ids;
  for (const BenchItem& item : all_items()) ids[item.part.name] = add_bench_item(shack, item);
  return ids;
}

Id add_hookup_of(Shack& shack, const std::map<std::string, Id>& bench, const std::string& name,
                 const std::vector<std::string>& parts, double source_vswr) {
  Chain chain;
  chain.source_vswr = source_vswr;
  for (const std::string& part : parts)
    chain.parts.push_back(bench_entry(shack, bench.at(part)).part());
  return add_hookup(shack, name, chain);
}

void write_files_to_try(const std::filesystem::path& folder) {
  AtomicFile::write_whole(folder / "pad-p07.s2p", pad_curve(39.94, 150e6, 401));
  // 14.2 MHz, 650 + 1850 Hz, 20 Hz RBW: what an analyser shows behind the pad.
  std::string csv = "# two tones behind the 40 dB pad\n# rbw: 20 Hz\nfrequency_hz,level_dbm\n";
  std::mt19937 random(7);
  std::exponential_distribution<double> noise(1.0);
  std::uniform_real_distribution<double> phase(0.0, 2.0 * std::numbers::pi);
  const std::vector<std::pair<double, double>> lines = {
      {14200650, -7.0},  {14201850, -7.1},  {14199450, -37.5}, {14203050, -36.2}, {14198250, -41.0},
      {14204250, -39.8}, {14197050, -55.0}, {14205450, -53.2}, {14200000, -58.0}};
  for (double hz = 14195000; hz <= 14208000; hz += 10) {
    std::complex<double> sum = std::polar(std::sqrt(noise(random)) * 1e-5, phase(random));
    for (const auto& [line, dbm] : lines) {
      const double x = 2.0 * (hz - line) / 20.0;
      sum += std::polar(std::pow(10.0, (dbm - 3.0103 * x * x) / 20.0), 0.3);
    }
    csv += fmt::format("{:.0f},{:.2f}\n", hz, 20.0 * std::log10(std::abs(sum)));
  }
  AtomicFile::write_whole(folder / "two tones from an analyser.csv", csv);
}

}  // namespace heron::demo
