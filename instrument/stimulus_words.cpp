#include "instrument/stimulus_words.h"

#include "core/quantity/levels.h"

namespace heron {

void tell_stimulus(ScpiSession& g, const RunStimulus& s) {
  switch (s.kind) {
    case RunStimulus::Kind::tone:
      g.tell(Role::generator, "set_tone", {{"hz", s.tones_hz.first}});
      break;
    case RunStimulus::Kind::two_tone:
      g.tell(Role::generator, "set_two_tone",
             {{"f1_hz", s.tones_hz.first}, {"f2_hz", s.tones_hz.second}});
      break;
    case RunStimulus::Kind::notched_noise:
      g.tell(Role::generator, "set_notched_noise",
             {{"low_hz", s.band_hz.first},
              {"high_hz", s.band_hz.second},
              {"notch_low_hz", s.notch_hz.first},
              {"notch_high_hz", s.notch_hz.second}});
      break;
    case RunStimulus::Kind::speech_noise:
      g.tell(Role::generator, "set_speech_noise",
             {{"low_hz", s.band_hz.first}, {"high_hz", s.band_hz.second}});
      break;
    case RunStimulus::Kind::carrier:
      g.tell(Role::generator, "set_frequency", {{"hz", s.carrier_hz}});
      break;
  }
}

void tell_level(ScpiSession& generator, double dbm) {
  const VoltPd pd = to_pd(to_watt(Dbm{dbm}));
  generator.tell(Role::generator, "set_level",
                 {{"dbm", dbm}, {"v_rms", pd.value}, {"v_emf", to_emf(pd).value}});
}

}  // namespace heron
