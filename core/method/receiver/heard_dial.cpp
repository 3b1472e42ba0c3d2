#include "core/method/receiver/heard_dial.h"

#include <cmath>
#include <fmt/format.h>

#include "core/method/measure/reference_error.h"
#include "core/quantity/format.h"
#include "core/quantity/parse_quantity.h"

namespace heron {
namespace {

constexpr double kToneU = 0.5;        // Hz, of a pitch in some seconds of noise
constexpr double kDialStepHz = 10.0;  // as most dials show

}  // namespace

HeardDial heard_dial(const std::string& band, double frequency_hz, double dial_hz, double tone_hz,
                     const ReceiverPlan& plan) {
  HeardDial d{band, frequency_hz, dial_hz, tone_hz};
  BeatNote beat;
  beat.carrier_hz = frequency_hz;
  beat.dial_hz = dial_hz;
  beat.tone_hz = tone_hz;
  // A carrier above the dial is heard in the upper sideband.
  beat.is_upper = frequency_hz >= dial_hz;
  beat.u_tone_hz = kToneU;
  beat.dial_step_hz = plan.dial_step_hz.value_or(kDialStepHz);
  d.error_hz = beat_error_hz(beat);
  if (!plan.generator_ppm) return d;
  beat.u_carrier_ppm = *plan.generator_ppm / std::sqrt(3.0);
  d.error = beat_error(beat);
  d.error->id = "dial_error";
  d.error->label = "Dial error, " + band;
  return d;
}

ResultTable dial_table(const std::vector<HeardDial>& all) {
  ResultTable t;
  t.title = "Dial";
  t.tab = "dial";
  t.columns = {
      {"band", "Band", CellKind::name, -1},         {"dial", "Dial", CellKind::figure, 130},
      {"tone", "Tone, Hz", CellKind::figure, 90},   {"hz", "Error, Hz", CellKind::figure, 90},
      {"ppm", "Error, ppm", CellKind::figure, 120}, {"words", "", CellKind::text, 190, 1200}};
  for (const HeardDial& d : all) {
    ResultTable::Row row{d.item, {{d.band}}};
    row.cells.push_back({frequency_text(d.dial_hz)});
    row.cells.push_back({number_text(d.tone_hz, 1)});
    row.cells.push_back({number_text(d.error_hz, 1, true)});
    row.cells.push_back(d.error
                            ? TableCell{figure_cell(*d.error, 2, true), std::nullopt, true, d.error}
                            : TableCell{});
    row.cells.push_back({d.error ? error_words(*d.error) : "the generator is not known"});
    t.rows.push_back(std::move(row));
  }
  t.note = "Generator less dial and pitch. Positive: the dial reads low.";
  return t;
}

std::vector<Remark> dial_remarks(const std::vector<HeardDial>& all) {
  if (all.empty() || all.front().error) return {};
  return {{"dial", Severity::note,
           fmt::format("{}: by its pitch the dial is {} Hz off, as far as the generator is right.",
                       all.front().band, number_text(all.front().error_hz, 0, true)),
           "Say how good the generator\u2019s frequency is"}};
}

}  // namespace heron
