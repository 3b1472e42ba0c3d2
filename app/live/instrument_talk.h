#pragma once

#include <QObject>
#include <deque>
#include <map>
#include <optional>

#include "app/session/background_job.h"
#include "instrument/rf_state.h"
#include "instrument/role.h"
#include "instrument/scpi_session.h"
#include "store/instrument.h"

namespace heron {

/// One line of a conversation, as the panel shows it.
struct TrafficLine {
  bool is_sent = false;
  QString text;
};

/// What an instrument is asked.
struct InstrumentQuestion {
  KnownInstrument known;
  Role role = Role::sampler;
  QString line;              ///< empty: only who is there
  bool keep = false;         ///< the instrument, if it answers
  bool rf_off = false;       ///< switch its output off first
  bool is_greeting = false;  ///< at the start: who does not answer is only shown
};

/// The words for an instrument: its own, else the generic ones. InputError if they are damaged.
Profile profile_of(const KnownInstrument& known);

/// Questions to instruments, in the background, one after the other, and what was said.
class InstrumentTalk : public QObject {
  Q_OBJECT
 public:
  using QObject::QObject;
  ~InstrumentTalk() override;
  void ask(InstrumentQuestion question);
  /// Before whatever else is waiting.
  void ask_first(InstrumentQuestion question);
  /// Questions that wait or are under way belong to instruments that are no longer there: no answer
  /// to them comes any more. What was said is forgotten too.
  void start_anew();
  bool is_busy() const { return job_ != nullptr; }
  const std::deque<TrafficLine>& traffic(Role role) const;

 signals:
  /// Who it is, and what its output does, where it was asked.
  void answered(const heron::InstrumentQuestion& question, const QString& identity,
                const std::optional<heron::RfState>& rf);
  void failed(const heron::InstrumentQuestion& question, const QString& what,
              const QString& advice);
  void changed();  ///< busy or not
  void traffic_changed();

 private:
  void ask_next();
  void hear(Role role, const Traffic& traffic);
  std::deque<InstrumentQuestion> questions_;
  std::map<Role, std::deque<TrafficLine>> traffic_;
  int number_ = 0;  ///< of the set of instruments that is asked
  BackgroundJob* job_ = nullptr;
};

}  // namespace heron
