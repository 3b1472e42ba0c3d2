#include "core/signal/level_steps.h"

#include <algorithm>
#include <cmath>
#include <numeric>
#include <queue>

#include "core/quantity/levels.h"
#include "core/signal/median.h"

namespace heron {
namespace {

constexpr double kSmallestStepDb = 0.3;
constexpr std::size_t kLookCells = 20;
constexpr std::size_t kLastingCells = 60;
constexpr double kSilence = 1e-16;  // -160 dBFS: what lies below is equally silent

double level_db(double power) {
  return db_from_power_ratio(std::max(power, kSilence));
}

double median(std::vector<double> values) {
  if (values.empty()) return 0.0;
  return median_of(values);
}

/// Scatter of whatever scatters most of what is there for a while: its loud half and all of it.
double cell_scatter(const std::vector<double>& db) {
  std::vector<double> sorted = db;
  const auto high = sorted.begin() + static_cast<std::ptrdiff_t>(sorted.size() * 49 / 50);
  std::nth_element(sorted.begin(), high, sorted.end());
  std::vector<double> loud;
  for (const double v : db) {
    if (v > *high - 10.0) loud.push_back(v);
  }
  const double of_loud = loud.size() >= 8 ? neighbour_scatter(loud) : 0.0;
  return std::max(neighbour_scatter(db), of_loud);
}

std::vector<double> in_db(std::span<const double> power) {
  std::vector<double> db;
  db.reserve(power.size());
  for (const double p : power) db.push_back(level_db(p));
  return db;
}

struct Run {
  std::size_t first;
  std::size_t count;
  double sum_db;
  std::size_t left;
  std::size_t right;
  std::size_t version = 0;
  bool alive = true;
  double mean() const { return sum_db / static_cast<double>(count); }
};

constexpr std::size_t kNoRun = static_cast<std::size_t>(-1);

/// What joining two runs costs: the squares that it adds.
double cost(const Run& a, const Run& b) {
  const auto na = static_cast<double>(a.count);
  const auto nb = static_cast<double>(b.count);
  const double d = a.mean() - b.mean();
  return na * nb / (na + nb) * d * d;
}

double mean_of(const std::vector<double>& db, std::size_t from, std::size_t to) {
  return std::accumulate(db.begin() + static_cast<std::ptrdiff_t>(from),
                         db.begin() + static_cast<std::ptrdiff_t>(to), 0.0) /
         static_cast<double>(to - from);
}

/// Whether the level steps where `b` begins: a drift and a slow beat change as much on either side
/// of any place as across it.
bool is_step(const std::vector<double>& db, const Run& a, const Run& b, double scatter_db) {
  constexpr double kClearStepDb = 1.5;
  const std::size_t before = std::min(a.count, kLookCells);
  const std::size_t after = std::min(b.count, kLookCells);
  const double step =
      std::abs(mean_of(db, b.first, b.first + after) - mean_of(db, b.first - before, b.first));
  const auto n = static_cast<double>(std::min(before, after));
  if (step < std::max(kSmallestStepDb, 5.0 * scatter_db * std::sqrt(2.0 / n))) return false;
  if (step > kClearStepDb) return true;
  // A small one has to last, or it is one swing of a beat.
  if (std::min(a.count, b.count) < kLastingCells) return false;
  const auto slope = [&](std::size_t from, std::size_t to) {
    const std::size_t middle = (from + to) / 2;
    return to - from < 4 ? 0.0 : std::abs(mean_of(db, from, middle) - mean_of(db, middle, to));
  };
  return slope(b.first - before, b.first) + slope(b.first, b.first + after) < 0.5 * step;
}

/// Runs in a chain, joined from the cheapest pair on.
class Joiner {
 public:
  explicit Joiner(const std::vector<double>& db) : db_(db) {
    for (std::size_t i = 0; i < db.size(); ++i)
      runs_.push_back({i, 1, db[i], i == 0 ? kNoRun : i - 1, i + 1 < db.size() ? i + 1 : kNoRun});
    for (std::size_t i = 0; i + 1 < db.size(); ++i) offer(i);
  }

  void join_up_to(double scatter_db) {
    const double allowed =
        scatter_db * scatter_db * (20.0 + 4.0 * std::log(static_cast<double>(db_.size()) + 1.0));
    while (!offers_.empty()) {
      const Offer o = offers_.top();
      offers_.pop();
      if (!is_current(o)) continue;
      Run& a = runs_[o.left];
      const Run& b = runs_[a.right];
      const bool is_small = std::abs(a.mean() - b.mean()) < kSmallestStepDb;
      if (o.cost <= allowed || is_small) join(o.left);
    }
  }

  /// A staircase that only follows a drift or a beat is no keying.
  void join_drifts(double scatter_db) {
    std::size_t i = 0;
    while (runs_[i].right != kNoRun) {
      const Run& a = runs_[i];
      const Run& b = runs_[a.right];
      if (is_step(db_, a, b, scatter_db)) {
        i = a.right;
        continue;
      }
      join(i);
      if (runs_[i].left != kNoRun) i = runs_[i].left;
    }
  }

  std::vector<Run> left() const {
    std::vector<Run> out;
    for (std::size_t i = 0; i != kNoRun; i = runs_[i].right) out.push_back(runs_[i]);
    return out;
  }

 private:
  struct Offer {
    double cost;
    std::size_t left;
    std::size_t version;
    std::size_t right_version;
    bool operator<(const Offer& other) const { return cost > other.cost; }
  };
  void offer(std::size_t i) {
    if (i == kNoRun || runs_[i].right == kNoRun) return;
    const Run& b = runs_[runs_[i].right];
    offers_.push({cost(runs_[i], b), i, runs_[i].version, b.version});
  }
  bool is_current(const Offer& o) const {
    const Run& a = runs_[o.left];
    return a.alive && a.right != kNoRun && a.version == o.version &&
           runs_[a.right].version == o.right_version;
  }
  void join(std::size_t i) {
    Run& a = runs_[i];
    Run& b = runs_[a.right];
    a.count += b.count;
    a.sum_db += b.sum_db;
    a.right = b.right;
    ++a.version;
    b.alive = false;
    ++b.version;
    if (a.right != kNoRun) runs_[a.right].left = i;
    offer(i);
    offer(a.left);
  }
  const std::vector<double>& db_;
  std::vector<Run> runs_;
  std::priority_queue<Offer> offers_;
};

}  // namespace

double neighbour_scatter(std::span<const double> db) {
  std::vector<double> differences;
  for (std::size_t i = 1; i < db.size(); ++i) differences.push_back(std::abs(db[i] - db[i - 1]));
  return kMedianToSigma * median(std::move(differences)) / std::sqrt(2.0);
}

std::size_t cells_to_join(std::span<const double> power, double cell_s) {
  constexpr double kWantedScatterDb = 0.3;
  constexpr double kLongestS = 0.25;
  constexpr std::size_t kFewest = 64;
  std::size_t joined = 1;
  std::vector<double> cells(power.begin(), power.end());
  while (cells.size() >= 2 * kFewest && 2.0 * static_cast<double>(joined) * cell_s <= kLongestS &&
         cell_scatter(in_db(cells)) > kWantedScatterDb) {
    for (std::size_t i = 0; i + 1 < cells.size(); i += 2)
      cells[i / 2] = (cells[i] + cells[i + 1]) / 2.0;
    cells.resize(cells.size() / 2);
    joined *= 2;
  }
  return joined;
}

std::vector<LevelStretch> level_stretches(std::span<const double> power) {
  std::vector<LevelStretch> out;
  if (power.empty()) return out;
  const std::vector<double> db = in_db(power);
  const double scatter = cell_scatter(db);
  Joiner joiner(db);
  joiner.join_up_to(scatter);
  joiner.join_drifts(scatter);
  for (const Run& run : joiner.left()) {
    LevelStretch s;
    s.first = run.first;
    s.count = run.count;
    double squares = 0.0;
    for (std::size_t i = run.first; i < run.first + run.count; ++i) {
      s.power += power[i] / static_cast<double>(run.count);
      squares += (db[i] - run.mean()) * (db[i] - run.mean());
    }
    s.scatter_db = std::sqrt(squares / static_cast<double>(run.count));
    out.push_back(s);
  }
  return out;
}

}  // namespace heron
