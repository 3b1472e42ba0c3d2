#include "app/live/live_instruments.h"

#include <algorithm>

#include "app/live/live_plan.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "simbench/sim_server.h"

namespace heron {
namespace {

QString title_of(Role role) {
  return qt_text(std::string(role_kind(role).title));
}

constexpr double kSimulatedS = 60.0;  // within which a simulated instrument answers

}  // namespace

LiveInstruments::LiveInstruments(Session& session, QObject* parent)
    : QObject(parent), session_(session) {
  connect(&session, &Session::shack_opened, this, [this] {
    server_.reset();
    is_in_use_ = false;
    change_bench();
    load();
  });
  connect(&session, &Session::evaluation_shown, this, [this] {
    if (is_simulated()) emit changed();
  });
  connect(&talk_, &InstrumentTalk::answered, this, &LiveInstruments::hear_answer);
  connect(&talk_, &InstrumentTalk::failed, this, &LiveInstruments::hear_failure);
  connect(&talk_, &InstrumentTalk::changed, this, &LiveInstruments::changed);
  connect(&talk_, &InstrumentTalk::traffic_changed, this, &LiveInstruments::traffic_changed);
}

LiveInstruments::~LiveInstruments() = default;

void LiveInstruments::load() {
  instruments_.clear();
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
  greet();
  emit changed();
}

/// Those that are remembered are asked who they are; nothing is told to them.
void LiveInstruments::greet() {
  greeted_.clear();
  silent_.clear();
  greetings_ = 0;
  if (is_simulated()) return;
  for (const LiveInstrument& i : std::vector<LiveInstrument>(instruments_)) {
    if (i.state == LinkState::failed) continue;
    ++greetings_;
    InstrumentQuestion question;
    question.known = i.known;
    question.role = i.role;
    question.is_greeting = true;
    ask(question);
  }
}

/// Once all have answered, or not.
void LiveInstruments::hear_greeting(const InstrumentQuestion& question, bool is_there) {
  (is_there ? greeted_ : silent_) << qt_text(question.known.name);
  if (--greetings_ > 0) return;
  const QString silent = silent_.join(QStringLiteral(", "));
  if (greeted_.isEmpty())
    emit told(tr("No instrument answers: %1").arg(silent));
  else
    emit told(tr("Answering: %1").arg(greeted_.join(QStringLiteral(", "))) +
              (silent.isEmpty() ? QString() : tr("; not answering: %1").arg(silent)));
}

/// Questions under way belong to the bench that was: their answers say nothing about this one.
void LiveInstruments::change_bench() {
  set_rf(RfState::unknown);
  talk_.start_anew();
}

const LiveInstrument* LiveInstruments::find(Role role) const {
  const auto found = std::find_if(instruments_.begin(), instruments_.end(),
                                  [&](const LiveInstrument& i) { return i.role == role; });
  return found == instruments_.end() ? nullptr : &*found;
}

LiveInstrument* LiveInstruments::entry(Role role) {
  const auto found = std::find_if(instruments_.begin(), instruments_.end(),
                                  [&](const LiveInstrument& i) { return i.role == role; });
  return found == instruments_.end() ? nullptr : &*found;
}

bool LiveInstruments::answers(Role role) const {
  const LiveInstrument* i = find(role);
  return i != nullptr && (i->state == LinkState::answering || i->state == LinkState::simulated);
}

double LiveInstruments::time_factor() const {
  return server_ ? time_factor_ : 1.0;
}

void LiveInstruments::set_time_factor(double factor) {
  time_factor_ = factor;
  if (server_) server_->bench().set_time_factor(factor);
}

void LiveInstruments::use_simulation(bool on) {
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

std::optional<RfState> LiveInstruments::rf() const {
  return find(Role::generator) == nullptr ? std::nullopt : std::optional(rf_);
}

void LiveInstruments::set_rf(RfState state) {
  if (rf_ == state) return;
  rf_ = state;
  emit rf_changed();
}

bool LiveInstruments::switch_rf_off() {
  const LiveInstrument* i = find(Role::generator);
  if (i == nullptr || !answers(Role::generator) || is_in_use_) return false;
  talk_.ask_first({.known = i->known, .role = Role::generator, .line = {}, .rf_off = true});
  return true;
}

bool LiveInstruments::simulates_amplifier() const {
  if (!server_ || !session_.is_open() || session_.evaluation_id() == 0) return false;
  const Shack& shack = session_.shack();
  return is_amplifier(device(shack, evaluation(shack, session_.evaluation_id()).device_id));
}

void LiveInstruments::follow_test() {
  const PlannedTest* t = session_.planned();
  if (!server_ || t == nullptr) return;
  sim::SimWorld& bench = server_->bench();
  const bool hears = is_listening(session_.loaded());
  sim::ReceiverDesign receiver;
  if (hears) {
    const RunRecipe::Listen listen = *recipe_of(session_.loaded()).listen;
    receiver.is_am = listen.am.has_value();
    if (listen.at_if) {
      receiver.if_hz = listen.at_if->if_hz.value_or(receiver.if_hz);
      receiver.probe_db = listen.at_if->probe_db;
    }
  }
  bench.set_receiver(hears ? std::optional(receiver) : std::nullopt);
  if (hears || t->hookup) bench.set_chain(t->hookup ? t->hookup->chain : Chain());
  if (!t->hookup) return;
  bench.set_bypassed(false);
  bench.set_synthesizer(std::nullopt);
  bench.set_meter_at_end(is_read_by_meter(session_.loaded()));
  if (t->test.drive) bench.set_dial(t->test.drive->frequency_hz);
  bench.set_amplifier(simulates_amplifier() ? std::optional(sim::AmplifierDesign{}) : std::nullopt);
}

void LiveInstruments::follow_step(const QString& step) {
  const PlannedTest* t = session_.planned();
  if (!server_ || t == nullptr || !t->test.drive ||
      recipe_of(session_.loaded()).stimulus != RunRecipe::Stimulus::nothing)
    return;
  sim::SynthesizerDesign design;
  design.carrier_hz = t->test.drive->frequency_hz;
  design.output_dbm = t->test.drive->pep_dbm;
  server_->bench().set_synthesizer(sim::as_named(design, step.toStdString()));
}

void LiveInstruments::follow_log(double nominal_hz, std::optional<double> reference_dbm) {
  if (!server_) return;
  sim::OscillatorDesign design;
  design.nominal_hz = nominal_hz;
  server_->bench().set_oscillator(design);
  server_->bench().set_reference(reference_dbm);
}

std::function<void(double)> LiveInstruments::tuner() {
  return [server = server_.get()](double hz) {
    if (server != nullptr) server->bench().set_dial(hz);
  };
}

std::function<double()> LiveInstruments::indicator() {
  return [server = server_.get()] { return server != nullptr ? server->bench().indicated() : 0.0; };
}

void LiveInstruments::set_bypassed(bool bypassed) {
  if (server_) server_->bench().set_bypassed(bypassed);
}

void LiveInstruments::connect_to(Role role, const QString& name, const QString& address,
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

void LiveInstruments::test(Role role) {
  if (const LiveInstrument* i = find(role)) ask({i->known, role, {}, false});
}

void LiveInstruments::say(Role role, const QString& line) {
  const LiveInstrument* i = find(role);
  if (i != nullptr && !line.trimmed().isEmpty()) ask({i->known, role, line.trimmed(), false});
}

void LiveInstruments::forget(Role role) {
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

void LiveInstruments::ask(const InstrumentQuestion& question) {
  if (LiveInstrument* i = entry(question.role); i != nullptr && !is_simulated()) {
    i->state = LinkState::asking;
    i->words = tr("asking");
  }
  talk_.ask(question);
}

void LiveInstruments::hear_answer(const InstrumentQuestion& question, const QString& identity,
                                  const std::optional<RfState>& rf) {
  KnownInstrument known = question.known;
  known.identity = identity.toStdString();
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
  hear_rf(question, rf);
  if (question.is_greeting)
    hear_greeting(question, true);
  else if (question.line.isEmpty() && !question.rf_off)
    emit told(tr("%1: %2").arg(title_of(question.role), identity));
}

void LiveInstruments::hear_failure(const InstrumentQuestion& question, const QString& what,
                                   const QString& advice) {
  if (LiveInstrument* i = entry(question.role); i != nullptr && !is_simulated()) {
    i->state = LinkState::failed;
    i->words = tr("not answering");
  }
  if (question.role == Role::generator) set_rf(RfState::unknown);
  if (question.is_greeting)
    hear_greeting(question, false);
  else if (question.rf_off)
    emit failed(tr("RF may still be on: %1").arg(what), tr("Switch it off by hand"));
  else
    emit failed(what, advice);
}

void LiveInstruments::hear_rf(const InstrumentQuestion& question,
                              const std::optional<RfState>& rf) {
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

std::unique_ptr<ScpiSession> LiveInstruments::open(Role role) const {
  const LiveInstrument* i = find(role);
  if (i == nullptr || !answers(role)) return nullptr;
  Profile profile = profile_of(i->known);
  // It does not fall silent, but this computer may be slow to compute what it answers.
  if (is_simulated()) profile.timeout_s = kSimulatedS;
  return std::make_unique<ScpiSession>(i->known.name, parse_address(i->known.address),
                                       std::move(profile));
}

}  // namespace heron
