#include "core/method/phase_noise/reciprocal.h"

#include <cmath>

#include "core/error.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"

namespace heron {

Reciprocal reciprocal_mixing(const NoiseCurve& curve, const ReciprocalCase& how) {
  if (!(how.bandwidth_hz > 0.0))
    throw InputError("bandwidth", "", "it is not above 0", "Give the noise bandwidth in Hz");
  const auto p = curve_at(curve.points, how.offset_hz);
  if (!p)
    throw InputError(curve.name, "",
                     "it has " + frequency_text(curve.low_hz()) + " to " +
                         frequency_text(curve.high_hz()) + ", not " + frequency_text(how.offset_hz),
                     "Choose an offset inside the curve");
  Reciprocal r;
  r.l_dbc_hz = p->l_dbc_hz;
  r.u_db = std::hypot(p->u_db, p->u_common_db);
  r.bound = p->bound;
  const double in_channel_db = p->l_dbc_hz + db_from_power_ratio(how.bandwidth_hz);
  r.ratio_db = -in_channel_db;
  r.limit_interferer_dbm = how.mds_dbm - in_channel_db;
  if (how.interferer_dbm) {
    r.noise_in_channel_dbm = *how.interferer_dbm + in_channel_db;
    r.desensitisation_db =
        db_from_power_ratio(1.0 + power_ratio_from_db(*r.noise_in_channel_dbm - how.mds_dbm));
  }
  return r;
}

double interferer_for_loss(double l_dbc_hz, double bandwidth_hz, double mds_dbm, double loss_db) {
  return mds_dbm + db_from_power_ratio(power_ratio_from_db(loss_db) - 1.0) - l_dbc_hz -
         db_from_power_ratio(bandwidth_hz);
}

}  // namespace heron
