#include "store/two_tone_test.h"

#include <cmath>

#include "core/method/two_tone_json.h"
#include "store/result_record.h"

namespace heron {

std::optional<Figure> step_output(const Step& step,
                                  const std::optional<TwoToneAnalysis>& analysis) {
  Figure output;
  output.id = "output";
  output.label = "Output";
  output.unit = "dBm";
  output.convention = "PEP";
  if (step.output) {
    output.value = step.output->dbm;
    if (step.output->u_db > 0.0)
      output.contributions = {{"power meter", step.output->u_db, Scope::common}};
    return output;
  }
  if (analysis && analysis->full_scale_dbm && analysis->tones.size() == 2) {
    output.value = analysis->pep_dbfs + *analysis->full_scale_dbm;
    return output;
  }
  return std::nullopt;
}

std::optional<std::size_t> TwoToneTest::headline_step() const {
  std::optional<std::size_t> best;
  for (std::size_t i = 0; i < ladder.rows.size(); ++i) {
    const LadderRow& row = ladder.rows[i];
    if (!row.worst) continue;
    if (!best) {
      best = i;
      continue;
    }
    const auto& output = ladder.rows[*best].output_dbm;
    if (row.output_dbm && (!output || *row.output_dbm > *output)) best = i;
  }
  return best;
}

void reevaluate(TwoToneTest& t) {
  std::vector<LadderStep> evidence;
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    evidence.push_back({t.steps[i].label, step_output(t.steps[i], t.analyses[i]),
                        t.analyses[i] ? &*t.analyses[i] : nullptr});
  }
  t.ladder = evaluate_ladder(evidence, t.test.limit);
}

TwoToneTest load_two_tone_test(const Shack& shack, Id id) {
  TwoToneTest t;
  t.test = test(shack, id);
  t.settings = two_tone_settings_from_json(t.test.settings);
  t.steps = steps(shack, id);
  for (const Step& step : t.steps) {
    std::optional<TwoToneAnalysis> analysis;
    if (step.capture) {
      if (const auto record = load_result(shack, step.capture->id)) {
        analysis = two_tone_from_json(*record);
        // The ladder is judged with the test's present settings, not those of the day it was taken.
        analysis->linearity_u_db = t.settings.linearity_u_db;
      }
    }
    t.analyses.push_back(std::move(analysis));
  }
  reevaluate(t);
  return t;
}

TwoToneTest refresh_headline(Shack& shack, Id id) {
  TwoToneTest t = load_two_tone_test(shack, id);
  std::optional<Headline> headline;
  if (const auto step = t.headline_step()) {
    const LadderRow& row = t.ladder.rows[*step];
    headline = Headline{*row.worst, row.label, t.steps[*step].capture->taken_at, row.judgement};
  }
  set_test_headline(shack, id, headline);
  t.test.headline = headline;
  return t;
}

}  // namespace heron
