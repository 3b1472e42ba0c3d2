#include "instrument/live_look.h"

#include <algorithm>
#include <chrono>
#include <cmath>
#include <fmt/format.h>

#include "core/progress.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {
namespace {

constexpr double kSurelyMoreDb = 0.2;
constexpr int kMostFailures = 3;
constexpr double kShortestS = 1.0 / 30.0;  // nobody sees more

double wall_s() {
  return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

}  // namespace

LiveLook::LiveLook(LookPlan plan, ScpiSession& sampler, ScpiSession* generator,
                   std::function<void()> updated, BenchTime time)
    : plan_(std::move(plan)),
      sampler_(sampler),
      generator_(generator),
      updated_(std::move(updated)),
      time_(time),
      spectrum_(plan_.bins) {
  for (LookFrame* frame : {&shown_, &working_}) {
    frame->average.resize(plan_.bins);
    frame->hold.resize(plan_.bins);
    frame->what.reserve(256);
  }
  block_.reserve(plan_.frames * 8 + 64);
  samples_.reserve(plan_.frames * 2);
}

void LiveLook::set_averages(unsigned segments) {
  const std::scoped_lock lock(mutex_);
  wish_.averages = segments;
  wish_.changed = true;
}

void LiveLook::clear() {
  const std::scoped_lock lock(mutex_);
  wish_.clear = wish_.changed = true;
}

void LiveLook::set_level(double generator_dbm) {
  const std::scoped_lock lock(mutex_);
  wish_.generator_dbm = std::min(generator_dbm, plan_.most_generator_dbm);
  wish_.changed = true;
}

void LiveLook::key(bool on) {
  const std::scoped_lock lock(mutex_);
  wish_.key = on;
  wish_.changed = true;
  ++wish_.asked;
}

void LiveLook::drop_rf() {
  const std::scoped_lock lock(mutex_);
  wish_.key = false;
  wish_.changed = true;
  ++wish_.asked;
  if (guard_ != nullptr) guard_->drop_now();
}

bool LiveLook::latest(LookFrame& frame) {
  const std::scoped_lock lock(mutex_);
  if (!is_new_) return false;
  std::swap(frame, shown_);
  is_new_ = false;
  return true;
}

void LiveLook::switch_off(RfGuard& guard, const std::string& why) {
  const auto unconfirmed = guard.off();
  clock_.unkey(time_.now_s());
  is_keyed_ = false;
  working_.rf = unconfirmed.empty() ? RfState::confirmed_off : RfState::unknown;
  working_.what = why;
  if (!unconfirmed.empty())
    working_.what = fmt::format("RF may still be on: {} does not confirm that it is off. {}",
                                unconfirmed.front(), why);
}

void LiveLook::rf_off(RfGuard& guard, const std::string& why) {
  switch_off(guard, why);
  // What was asked for since then is newer than what made it stop.
  const std::scoped_lock lock(mutex_);
  if (wish_.asked == obeyed_) wish_.key = false;
}

/// Does what was asked for since the last update.
void LiveLook::obey(const Wish& wish, bool is_key_new, RfGuard& guard) {
  spectrum_.set_averages(wish.averages);
  if (wish.clear) spectrum_.clear();
  if (generator_ == nullptr) return;
  // Dropped, and asked for once more before that was seen here.
  if (wish.key && is_keyed_ && is_key_new && guard.has_tripped()) switch_off(guard, "");
  if (!wish.key && is_keyed_) rf_off(guard, "");
  if (!wish.key) return;
  if (is_keyed_ && wish.generator_dbm != set_dbm_) {
    tell_level(*generator_, wish.generator_dbm);
    generator_->settle();
    set_dbm_ = wish.generator_dbm;
  }
  if (is_keyed_) return;
  const KeyDownReading heat = clock_.read(time_.now_s());
  if (heat.rest_s > 0.0) {
    rf_off(guard, fmt::format("{} has to cool down for {:.0f} s more", heat.binding, heat.rest_s));
    return;
  }
  guard.rearm();
  tell_stimulus(*generator_, plan_.stimulus);
  tell_level(*generator_, wish.generator_dbm);
  generator_->settle();
  set_dbm_ = wish.generator_dbm;
  working_.rf = RfState::on;
  working_.what.clear();
  is_keyed_ = true;
  clock_.key(time_.now_s());
  generator_->tell(Role::generator, "output_on");
  generator_->settle();
  spectrum_.clear();
}

void LiveLook::take(const std::stop_token& stop) {
  sampler_.set_stop(stop);
  sampler_.ask_samples(Role::sampler, "read", block_, samples_,
                       static_cast<double>(plan_.frames) / plan_.rate_hz / time_.factor());
  spectrum_.clear_peak();
  spectrum_.add(samples_);
  working_.pep_dbm =
      db_from_power_ratio(std::max(static_cast<double>(spectrum_.peak_power()), 1e-20)) +
      working_.full_scale_dbm + working_.loss_db;
  working_.is_over_range = spectrum_.was_over_range();
}

/// A bench that gives its samples faster than they are wanted is waited for.
void LiveLook::pace() const {
  const double left = last_update_s_ + kShortestS - wall_s();
  if (left > 0.0) std::this_thread::sleep_for(std::chrono::duration<double>(left));
}

void LiveLook::publish() {
  pace();
  std::copy(spectrum_.average().begin(), spectrum_.average().end(), working_.average.begin());
  std::copy(spectrum_.hold().begin(), spectrum_.hold().end(), working_.hold.begin());
  working_.segments = spectrum_.segments();
  working_.generator_dbm = set_dbm_;
  const KeyDownReading heat = clock_.read(time_.now_s());
  working_.left_s = is_keyed_ ? heat.left_s : std::nullopt;
  working_.rest_s = heat.rest_s;
  const double now = wall_s();
  const double rate = last_update_s_ > 0.0 ? 1.0 / std::max(now - last_update_s_, 1e-4) : 0.0;
  working_.updates_per_s += 0.1 * (rate - working_.updates_per_s);
  last_update_s_ = now;
  {
    const std::scoped_lock lock(mutex_);
    working_.averages = wish_.averages;
    const LookFrame& from = working_;
    // What the other side gave back has the same room.
    shown_.average.assign(from.average.begin(), from.average.end());
    shown_.hold.assign(from.hold.begin(), from.hold.end());
    shown_.segments = from.segments;
    shown_.averages = from.averages;
    shown_.pep_dbm = from.pep_dbm;
    shown_.full_scale_dbm = from.full_scale_dbm;
    shown_.loss_db = from.loss_db;
    shown_.generator_dbm = from.generator_dbm;
    shown_.is_over_range = from.is_over_range;
    shown_.rf = from.rf;
    shown_.left_s = from.left_s;
    shown_.rest_s = from.rest_s;
    shown_.updates_per_s = from.updates_per_s;
    shown_.what = from.what;
    is_new_ = true;
  }
  if (updated_) updated_();
}

void LiveLook::run(const std::stop_token& stop) {
  RfGuard guard(
      generator_ != nullptr ? std::vector<ScpiSession*>{generator_} : std::vector<ScpiSession*>{},
      plan_.watchdog_s);
  {
    const std::scoped_lock lock(mutex_);
    guard_ = &guard;
  }
  int failures = 0;
  bool is_set_up = false;
  while (!stop.stop_requested() && failures < kMostFailures) {
    try {
      if (!is_set_up) {
        sampler_.set_stop(stop);
        sampler_.tell(Role::sampler, "set_center", {{"hz", plan_.center_hz}});
        sampler_.tell(Role::sampler, "set_rate", {{"hz", plan_.rate_hz}});
        sampler_.tell(Role::sampler, "set_frames", {{"frames", static_cast<double>(plan_.frames)}});
        sampler_.settle();
        if (sampler_.can(Role::sampler, "full_scale"))
          working_.full_scale_dbm = sampler_.ask_number(Role::sampler, "full_scale");
        else if (const Part* recorder = recorder_of(plan_.chain))
          working_.full_scale_dbm = recorder->full_scale_dbm.value_or(0.0);
        if (!plan_.chain.parts.empty()) {
          working_.loss_db = -total_gain_db(plan_.chain, plan_.center_hz);
          clock_.set_chain(plan_.chain, plan_.drive, time_.now_s());
        }
        is_set_up = true;
      }
      Wish wish;
      bool is_key_new = false;
      {
        const std::scoped_lock lock(mutex_);
        wish = wish_;
        wish_.clear = wish_.changed = false;
        is_key_new = wish.asked != obeyed_;
        obeyed_ = wish.asked;
      }
      if (generator_ != nullptr) generator_->set_stop(stop);
      if (wish.changed) obey(wish, is_key_new, guard);
      take(stop);
      if (is_keyed_) {
        guard.feed();
        const KeyDownReading heat = clock_.read(time_.now_s());
        if (heat.left_s && *heat.left_s <= 0.0)
          rf_off(guard, heat.binding + " has reached its key-down time: RF is off");
        else if (working_.pep_dbm > plan_.most_output_dbm + kSurelyMoreDb)
          rf_off(guard, fmt::format("{} dBm came out, more than the {} dBm allowed: RF is "
                                    "off",
                                    number_text(working_.pep_dbm, 1),
                                    number_text(plan_.most_output_dbm, 1)));
        else if (working_.is_over_range)
          rf_off(guard, "the sampler is at full scale: RF is off. Add attenuation before it");
      }
      failures = 0;
      publish();
    } catch (const Cancelled&) {
      break;
    } catch (const std::exception& error) {
      bool was_asked_for = false;
      {
        const std::scoped_lock lock(mutex_);
        was_asked_for = guard.has_tripped() && wish_.asked != obeyed_;
      }
      if (!was_asked_for) {
        ++failures;
        is_set_up = false;
      }
      const bool is_plain = dynamic_cast<const InputError*>(&error) != nullptr ||
                            dynamic_cast<const InstrumentError*>(&error) != nullptr;
      rf_off(guard, was_asked_for ? ""
                    : is_plain    ? error.what()
                                  : "the view met something unexpected");
      publish();
    }
  }
  rf_off(guard, working_.what);
  publish();
  const std::scoped_lock lock(mutex_);
  guard_ = nullptr;
}

}  // namespace heron
