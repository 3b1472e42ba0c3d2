#include "app/live/live_bench.h"

#include <algorithm>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "simbench/sim_server.h"

namespace heron {
namespace {

constexpr std::size_t kMostTraffic = 400;

Profile profile_of(const KnownInstrument& known) {
  return known.profile.empty() ? generic_profile() : parse_profile(known.profile, "profile");
}

QString title_of(Role role) {
  return qt_text(std::string(role_kind(role).title));
}

}  // namespace

LiveBench::LiveBench(Session& session, QObject* parent) : QObject(parent), session_(session) {
  connect(&session, &Session::shack_opened, this, [this] {
    server_.reset();
    is_in_use_ = false;
    change_bench();
    load();
  });
  connect(&session, &Session::evaluation_shown, this, [this] {
    if (is_simulated()) emit changed();
  });
}

LiveBench::~LiveBench() {
  delete job_;  // its thread speaks to this
}

void LiveBench::load() {
  instruments_.clear();
  traffic_.clear();
  if (session_.is_open()) {
    for (const KnownInstrument& k : known_instruments(session_.shack())) {
      const RoleKind* kind = find_role(k.role);
      if (kind == nullptr) continue;
      LiveInstrument i{kind->role, k, LinkState::unasked, tr("not tested yet")};
      try {
        profile_of(k);
      } catch (const InputError&) {
        i.state = LinkState::failed;
        i.words = tr("profile damaged");
      }
      instruments_.push_back(std::move(i));
    }
  }
  emit changed();
}

/// Questions under way belong to the bench that was: their answers say nothing about this one.
void LiveBench::change_bench() {
  set_rf(RfState::unknown);
  ++bench_number_;
  questions_.clear();
  if (job_ != nullptr) job_->cancel();
}

const LiveInstrument* LiveBench::find(Role role) const {
  const auto found = std::find_if(instruments_.begin(), instruments_.end(),
                                  [&](const LiveInstrument& i) { return i.role == role; });
  return found == instruments_.end() ? nullptr : &*found;
}

LiveInstrument* LiveBench::entry(Role role) {
  const auto found = std::find_if(instruments_.begin(), instruments_.end(),
                                  [&](const LiveInstrument& i) { return i.role == role; });
  return found == instruments_.end() ? nullptr : &*found;
}

const std::deque<TrafficLine>& LiveBench::traffic(Role role) const {
  static const std::deque<TrafficLine> none;
  const auto found = traffic_.find(role);
  return found == traffic_.end() ? none : found->second;
}

bool LiveBench::answers(Role role) const {
  const LiveInstrument* i = find(role);
  return i != nullptr && (i->state == LinkState::answering || i->state == LinkState::simulated);
}

double LiveBench::time_factor() const {
  return server_ ? time_factor_ : 1.0;
}

void LiveBench::set_time_factor(double factor) {
  time_factor_ = factor;
  if (server_) server_->bench().set_time_factor(factor);
}

void LiveBench::use_simulation(bool on) {
  if (on == is_simulated()) return;
  if (is_in_use_) {
    emit failed(tr("A measurement is running on this bench."), tr("Stop it first"));
    return;
  }
  change_bench();
  if (!on) {
    server_.reset();
    load();
    return;
  }
  sim::SimConfig config;
  config.seed = session_.is_open() ? simulation_seed(session_.shack()) : 1;
  config.time_factor = time_factor_;
  try {
    server_ = std::make_unique<sim::SimServer>(config);
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    return;
  }
  instruments_.clear();
  traffic_.clear();
  for (const RoleKind& kind : role_kinds()) {
    const std::string id(kind.id);
    instruments_.push_back({kind.role,
                            {id, std::string(kind.title), server_->address(id), "", ""},
                            LinkState::simulated,
                            tr("simulated")});
  }
  // It was made just now, with nothing on.
  set_rf(RfState::confirmed_off);
  emit changed();
}

std::optional<RfState> LiveBench::rf() const {
  return find(Role::generator) == nullptr ? std::nullopt : std::optional(rf_);
}

void LiveBench::set_rf(RfState state) {
  if (rf_ == state) return;
  rf_ = state;
  emit rf_changed();
}

bool LiveBench::switch_rf_off() {
  const LiveInstrument* i = find(Role::generator);
  if (i == nullptr || !answers(Role::generator) || is_in_use_) return false;
  Question question{i->known, Role::generator, {}};
  question.rf_off = true;
  // Before whatever else is waiting.
  questions_.push_front(std::move(question));
  if (job_ == nullptr) ask_next();
  return true;
}

bool LiveBench::simulates_amplifier() const {
  if (!server_ || !session_.is_open() || session_.evaluation_id() == 0) return false;
  const Shack& shack = session_.shack();
  return is_amplifier(device(shack, evaluation(shack, session_.evaluation_id()).device_id));
}

void LiveBench::follow_test() {
  const PlannedTest* t = session_.planned();
  if (!server_ || t == nullptr || !t->hookup) return;
  sim::SimWorld& bench = server_->bench();
  bench.set_chain(t->hookup->chain);
  if (t->test.drive) bench.set_dial(t->test.drive->frequency_hz);
  bench.set_amplifier(simulates_amplifier() ? std::optional(sim::AmplifierDesign{}) : std::nullopt);
}

void LiveBench::hear(Role role, const Traffic& traffic) {
  // Called from the thread of the conversation.
  QMetaObject::invokeMethod(
      this,
      [this, role, line = TrafficLine{traffic.is_sent, qt_text(traffic.text)}] {
        auto& lines = traffic_[role];
        lines.push_back(line);
        if (lines.size() > kMostTraffic) lines.pop_front();
        emit traffic_changed();
      },
      Qt::QueuedConnection);
}

void LiveBench::connect_to(Role role, const QString& name, const QString& address,
                           const QString& profile) {
  KnownInstrument known;
  known.role = role_kind(role).id;
  known.name =
      name.trimmed().isEmpty() ? std::string(role_kind(role).title) : name.trimmed().toStdString();
  known.address = address.trimmed().toStdString();
  known.profile = profile.toStdString();
  try {
    parse_address(known.address);
    if (!profile_of(known).roles.contains(role))
      throw InputError("profile", "",
                       "it has no commands for a " + std::string(role_kind(role).title),
                       "Choose another profile");
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    return;
  }
  ask({known, role, {}, true});
}

void LiveBench::test(Role role) {
  if (const LiveInstrument* i = find(role)) ask({i->known, role, {}, false});
}

void LiveBench::say(Role role, const QString& line) {
  const LiveInstrument* i = find(role);
  if (i != nullptr && !line.trimmed().isEmpty()) ask({i->known, role, line.trimmed(), false});
}

void LiveBench::forget(Role role) {
  if (is_simulated()) return;
  try {
    forget_instrument(session_.shack(), std::string(role_kind(role).id));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
    return;
  }
  std::erase_if(instruments_, [&](const LiveInstrument& i) { return i.role == role; });
  emit changed();
}

void LiveBench::ask(Question question) {
  if (LiveInstrument* i = entry(question.role); i != nullptr && !is_simulated()) {
    i->state = LinkState::asking;
    i->words = tr("asking");
  }
  questions_.push_back(std::move(question));
  emit changed();
  if (job_ == nullptr) ask_next();
}

void LiveBench::ask_next() {
  if (questions_.empty()) return;
  const Question question = questions_.front();
  questions_.pop_front();
  const auto identity = std::make_shared<std::string>();
  const auto rf = std::make_shared<std::optional<RfState>>();
  job_ = new BackgroundJob(
      qt_text(question.known.name),
      [this, question, identity, rf](const Progress&, const std::stop_token& stop) {
        ScpiSession session(question.known.name, parse_address(question.known.address),
                            profile_of(question.known));
        session.set_stop(stop);
        session.watch([this, role = question.role](const Traffic& t) { hear(role, t); });
        session.connect();
        *identity = session.identity();
        const bool is_source = role_kind(question.role).is_source;
        if (is_source && question.rf_off)
          *rf = heron::switch_rf_off(session) == RfOff::confirmed ? RfState::confirmed_off
                                                                  : RfState::unknown;
        else if (is_source && question.line.isEmpty())
          *rf = ask_rf(session);
        if (question.line.isEmpty()) return;
        const std::string line = question.line.toStdString();
        if (line.find('?') != std::string::npos)
          session.ask(line);
        else
          session.send(line);
        session.settle();
        // What was typed may have switched it.
        if (is_source) *rf = ask_rf(session);
      },
      this);
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    emit changed();
    ask_next();
  };
  connect(job_, &BackgroundJob::finished, this,
          [this, question, identity, rf, end, bench = bench_number_] {
            if (bench != bench_number_) {
              end();
              return;
            }
            KnownInstrument known = question.known;
            known.identity = *identity;
            LiveInstrument* i = entry(question.role);
            if (question.keep && !is_simulated()) {
              try {
                keep_instrument(session_.shack(), known);
              } catch (const InputError& error) {
                emit failed(qt_text(error.what_happened()), qt_text(error.advice));
              }
              if (i == nullptr) {
                instruments_.push_back({question.role, known, LinkState::answering, {}});
                i = &instruments_.back();
              }
            }
            if (i != nullptr) {
              i->known = known;
              i->state = is_simulated() ? LinkState::simulated : LinkState::answering;
              i->words = is_simulated() ? tr("simulated") : tr("answering");
            }
            hear_rf(question, *rf);
            if (question.line.isEmpty() && !question.rf_off)
              emit told(tr("%1: %2").arg(title_of(question.role), qt_text(*identity)));
            end();
          });
  connect(job_, &BackgroundJob::cancelled, this, end);
  connect(job_, &BackgroundJob::failed, this,
          [this, question, end, bench = bench_number_](const QString& what, const QString& advice) {
            if (bench != bench_number_) {
              end();
              return;
            }
            if (LiveInstrument* i = entry(question.role); i != nullptr && !is_simulated()) {
              i->state = LinkState::failed;
              i->words = tr("not answering");
            }
            if (question.role == Role::generator) set_rf(RfState::unknown);
            if (question.rf_off)
              emit failed(tr("RF may still be on: %1").arg(what), tr("Switch it off by hand"));
            else
              emit failed(what, advice);
            end();
          });
  job_->start();
}

void LiveBench::hear_rf(const Question& question, const std::optional<RfState>& rf) {
  // A run under way knows better.
  if (!rf || is_in_use_) return;
  const bool is_news = *rf == RfState::on && rf_ != RfState::on;
  set_rf(*rf);
  const QString name = qt_text(question.known.name);
  if (question.rf_off && *rf == RfState::confirmed_off)
    emit told(tr("RF is off: %1 confirms it").arg(name));
  if (question.rf_off && *rf != RfState::confirmed_off)
    emit failed(tr("RF may still be on: %1 does not confirm that it is off").arg(name),
                tr("Switch it off by hand"));
  else if (is_news)
    emit rf_found_on(name);
}

std::unique_ptr<ScpiSession> LiveBench::open(Role role) const {
  const LiveInstrument* i = find(role);
  if (i == nullptr || !answers(role)) return nullptr;
  return std::make_unique<ScpiSession>(i->known.name, parse_address(i->known.address),
                                       profile_of(i->known));
}

}  // namespace heron
