#pragma once

#include <QObject>
#include <QStringList>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

#include "app/live/instrument_talk.h"
#include "app/session/session.h"
#include "instrument/rf_state.h"
#include "store/instrument.h"

namespace heron {

namespace sim {
class SimServer;
}

/// How an instrument stands to the program.
enum class LinkState { unasked, asking, answering, simulated, failed };

struct LiveInstrument {
  Role role = Role::sampler;
  KnownInstrument known;
  LinkState state = LinkState::unasked;
  QString words;  ///< what it answered, or why it did not
};

/// The instruments that answer by themselves, real or simulated. Talking to them happens in the
/// background, one question after the other.
class LiveInstruments : public QObject {
  Q_OBJECT
 public:
  explicit LiveInstruments(Session& session, QObject* parent = nullptr);
  ~LiveInstruments() override;

  const std::vector<LiveInstrument>& instruments() const { return instruments_; }
  const LiveInstrument* find(Role role) const;  ///< nullptr if there is none in that role
  const std::deque<TrafficLine>& traffic(Role role) const { return talk_.traffic(role); }
  bool is_simulated() const { return server_ != nullptr; }
  bool is_busy() const { return talk_.is_busy(); }
  /// Whether a role can be used now.
  bool answers(Role role) const;

  /// Puts the simulated bench in place of everything, on free ports of this machine; and away.
  /// Refused while something is being taken.
  void use_simulation(bool on);
  void set_in_use(bool in_use) { is_in_use_ = in_use; }
  bool is_in_use() const { return is_in_use_; }
  sim::SimServer* simulation() { return server_.get(); }
  /// Hooks the simulated bench up as the shown test says, with an amplifier behind its transmitter
  /// where that is what is evaluated. Nothing on a real bench.
  void follow_test();
  /// On a simulated bench what runs by itself is built or set as a step of that name says: there
  /// nobody stands who could.
  void follow_step(const QString& step);
  /// On a simulated bench an oscillator of that frequency is switched on, cold; one that was stays
  /// as warm as it is. `reference_dbm`: of an outside reference at its input.
  void follow_log(double nominal_hz, std::optional<double> reference_dbm);
  /// On a simulated bench the device is taken out of the line, or put back.
  void set_bypassed(bool bypassed);
  /// Sets the dial of what is simulated; any thread may call it while the bench is in use.
  std::function<void(double)> tuner();
  /// Reads the simulated receiver's indicator, S units; from any thread.
  std::function<double()> indicator();
  /// Whether it stands for an amplifier, with a transmitter before it.
  bool simulates_amplifier() const;
  /// How much faster than the clock the simulated bench lives; 1 for a real one.
  double time_factor() const;
  void set_time_factor(double factor);

  /// Asks who is there, and keeps the instrument if it answers. `profile` is a profile's text,
  /// empty for the generic one. Complains through failed().
  void connect_to(Role role, const QString& name, const QString& address,
                  const QString& profile = {});
  void test(Role role);
  void forget(Role role);
  /// Sends a line that somebody typed; an answer goes to the traffic.
  void say(Role role, const QString& line);

  /// A conversation for a run, not yet opened; nullptr if the role cannot be used.
  std::unique_ptr<ScpiSession> open(Role role) const;

  /// What is known of the generator's output; nullopt where there is no generator.
  std::optional<RfState> rf() const;
  /// What a run has learnt of it.
  void set_rf(RfState state);
  /// Switches a connected generator off and asks whether it is, in the background; false if there
  /// is none to switch, or a run has it and switches it off itself.
  bool switch_rf_off();

 signals:
  void rf_changed();
  /// A generator was found with its output on, which nothing here has switched on.
  void rf_found_on(const QString& name);
  void changed();
  void traffic_changed();
  void told(const QString& text);
  void failed(const QString& what, const QString& what_to_do);

 private:
  void load();
  void greet();
  void hear_greeting(const InstrumentQuestion& question, bool is_there);
  void change_bench();
  void ask(const InstrumentQuestion& question);
  void hear_answer(const InstrumentQuestion& question, const QString& identity,
                   const std::optional<RfState>& rf);
  void hear_failure(const InstrumentQuestion& question, const QString& what, const QString& advice);
  void hear_rf(const InstrumentQuestion& question, const std::optional<RfState>& rf);
  LiveInstrument* entry(Role role);

  Session& session_;
  std::vector<LiveInstrument> instruments_;
  int greetings_ = 0;  ///< that are still to be answered
  QStringList greeted_;
  QStringList silent_;
  std::unique_ptr<sim::SimServer> server_;
  double time_factor_ = 30.0;
  bool is_in_use_ = false;
  RfState rf_ = RfState::unknown;
  InstrumentTalk talk_;
};

}  // namespace heron
