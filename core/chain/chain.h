#pragma once

#include <optional>
#include <string>
#include <vector>

#include "core/chain/part.h"
#include "core/judge/remark.h"
#include "core/quantity/figure.h"

namespace heron {

/// A hook-up along the signal: from the device to the instrument that ends it, or from a generator
/// to the device.
struct Chain {
  std::string name;
  std::string source;  ///< what drives it, where that has a name of its own
  double impedance_ohm = 50.0;
  bool is_impedance_stated = true;    ///< else 50 ohm is assumed, and said
  std::optional<double> source_vswr;  ///< of the device's output
  double source_u_db = 0.0;           ///< standard uncertainty of a generator's level
  bool is_source_in_emf = false;      ///< its dial shows open-circuit volts
  std::vector<Part> parts;
};

/// What the device puts into it.
struct Drive {
  double pep_dbm = 0.0;
  bool is_two_tone = false;  ///< average power is half of PEP then, else equal to it
  double frequency_hz = 0.0;
  std::optional<double> key_down_s;  ///< for how long; continuous if not given
  std::string typed = {};            ///< how the level was typed
  std::string typed_frequency = {};
  std::string typed_key_down = {};
};

/// Peak envelope power over average power of a drive, dB.
double peak_to_average_db(const Drive& drive);

/// The input of one part.
struct ChainNode {
  std::string name;
  double level_dbm = 0.0;                   ///< PEP
  std::vector<Contribution> contributions;  ///< of everything before it, and the match into it
  double u_db = 0.0;
  std::optional<double> rating_dbm;  ///< PEP that it stands for this drive
  std::optional<double> margin_db;   ///< rating - level
  std::string limit;                 ///< what binds: "continuous", "key-down", "absolute"; or empty
  std::optional<double> max_key_down_s;  ///< from cold; nullopt = unlimited
  bool is_peak_assumed = false;          ///< no peak rating is stated, and the assumed one binds
  bool is_unrated = false;               ///< nothing says whether it is rated for this level
};

struct ChainResult {
  std::vector<ChainNode> nodes;             ///< one a part
  double total_gain_db = 0.0;               ///< to the instrument's input
  std::vector<Contribution> contributions;  ///< of the total gain, and the instrument's own
  double u_mismatch_db = 0.0;               ///< standard, of all joints
  bool is_safe = true;                      ///< no level, with its U, reaches a stated rating
  std::vector<std::string> unrated;         ///< parts of which that is not known
  bool is_known_safe() const { return is_safe && unrated.empty(); }
  std::optional<double> max_key_down_s;  ///< of the whole chain; 0 = an absolute rating is exceeded
  std::string binding;                   ///< the part that limits it
  std::optional<std::size_t> binding_part;
  std::vector<Remark> remarks;
};

/// The chain on a day (ISO; empty: without age): what age has added since each part's calibration
/// is part of its uncertainty. InputError if it is no date.
Chain aged(Chain chain, const std::string& on);

/// The instrument or device at its end; nullptr if it has none.
const Part* recorder_of(const Chain& chain);

/// Whether any part loses differently at different frequencies.
bool depends_on_frequency(const Chain& chain);

/// From the device to the instrument's input, dB. InputError outside a part's table.
double total_gain_db(const Chain& chain, double frequency_hz);

/// Levels, uncertainties and ratings at every node. Mismatch enters everywhere; a VSWR that is not
/// stated is taken as 1.2 (1.5 of a device), and said. InputError: no parts, a part that cannot be
/// or stands twice, a frequency outside a table.
ChainResult evaluate_chain(const Chain& chain, const Drive& drive);

}  // namespace heron
