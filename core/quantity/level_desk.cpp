#include "core/quantity/level_desk.h"

#include <fmt/format.h>

#include "core/quantity/format.h"

namespace heron {
namespace {

/// Four significant digits with a prefix, number and unit apart.
DeskRow engineering_row(std::string id, std::string group, std::string name, double value,
                        const std::string& unit) {
  DeskRow row{std::move(id), std::move(group), std::move(name), "", "", value};
  const std::string text = engineering_text(value, unit);
  const std::size_t space = text.find(' ');
  row.number = text.substr(0, space);
  row.unit = space == std::string::npos ? unit : text.substr(space + 1);
  return row;
}

DeskRow decibel_row(std::string id, std::string group, std::string name, double value,
                    const std::string& unit) {
  return {std::move(id), std::move(group), std::move(name), number_text(value, 2, true), unit,
          value};
}

}  // namespace

std::vector<DeskRow> desk_rows(Dbm pep, const DeskView& view) {
  const std::string envelope = view.is_two_tone ? "Peak envelope" : "Power";
  const double watt = to_watt(pep).value;
  std::vector<DeskRow> rows;
  rows.push_back(decibel_row("dbm", envelope, "dBm", pep.value, "dBm"));
  rows.push_back(decibel_row("dbw", envelope, "dBW", pep.value - 30.0, "dBW"));
  rows.push_back(engineering_row("watt", envelope, "Power", watt, "W"));
  if (view.is_two_tone) {
    // Two equal tones: the mean is half, each tone a quarter of the peak envelope power.
    const std::string mean = "Mean of the two tones";
    rows.push_back(engineering_row("mean_watt", mean, "Power", watt / 2.0, "W"));
    const std::string one = "One tone of the two";
    rows.push_back(
        decibel_row("tone_dbm", one, "dBm", pep.value - pep_over_one_tone(1.0).value, "dBm"));
    rows.push_back(engineering_row("tone_watt", one, "Power", watt / 4.0, "W"));
  }
  const std::string volts =
      std::string(view.is_two_tone ? "Voltage at the envelope\u2019s peak" : "Voltage") + ", in " +
      fmt::format("{:g} \u03a9", view.impedance.value);
  const VoltPd pd = to_pd(Watt{watt}, view.impedance);
  const VoltPd emf{to_emf(pd).value};
  rows.push_back(engineering_row("v_rms", volts, "RMS, terminals (PD)", pd.value, "V"));
  rows.push_back(engineering_row("v_peak", volts, "Peak", peak_volts(pd), "V"));
  rows.push_back(engineering_row("v_pp", volts, "Peak to peak", peak_to_peak_volts(pd), "V"));
  rows.push_back(engineering_row("v_emf", volts, "RMS, open circuit (EMF)", emf.value, "V"));
  rows.push_back(decibel_row("dbuv", volts, "dB\u00b5V (PD)", dbuv(pd), "dB\u00b5V"));
  rows.push_back(decibel_row("dbuv_emf", volts, "dB\u00b5V (EMF)", dbuv(emf), "dB\u00b5V"));
  for (const auto range : {SMeterRange::hf, SMeterRange::vhf}) {
    DeskRow row;
    row.id = range == SMeterRange::hf ? "s_hf" : "s_vhf";
    row.group = "S units, 6 dB each";
    row.name = range == SMeterRange::hf ? "below 30 MHz" : "above 30 MHz";
    row.number = view.is_receiver_level ? s_units_text(pep, range) : "\u2013";
    row.value = pep.value;
    rows.push_back(row);
  }
  return rows;
}

}  // namespace heron
