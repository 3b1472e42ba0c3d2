#include "app/live/instrument_talk.h"

#include "app/theme/qt_text.h"

namespace heron {
namespace {

constexpr std::size_t kMostTraffic = 400;

struct WhatItSaid {
  std::string identity;
  std::optional<RfState> rf;
};

void converse(const InstrumentQuestion& question, ScpiSession& session, WhatItSaid& answer) {
  session.connect();
  answer.identity = session.identity();
  const bool is_source = role_kind(question.role).is_source;
  if (is_source && question.rf_off)
    answer.rf =
        switch_rf_off(session) == RfOff::confirmed ? RfState::confirmed_off : RfState::unknown;
  else if (is_source && question.line.isEmpty())
    answer.rf = ask_rf(session);
  if (question.line.isEmpty()) return;
  const std::string line = question.line.toStdString();
  if (line.find('?') != std::string::npos)
    session.ask(line);
  else
    session.send(line);
  session.settle();
  // What was typed may have switched it.
  if (is_source) answer.rf = ask_rf(session);
}

}  // namespace

Profile profile_of(const KnownInstrument& known) {
  return known.profile.empty() ? generic_profile() : parse_profile(known.profile, "profile");
}

InstrumentTalk::~InstrumentTalk() {
  delete job_;  // its thread speaks to this
}

void InstrumentTalk::ask(InstrumentQuestion question) {
  questions_.push_back(std::move(question));
  emit changed();
  if (job_ == nullptr) ask_next();
}

void InstrumentTalk::ask_first(InstrumentQuestion question) {
  questions_.push_front(std::move(question));
  if (job_ == nullptr) ask_next();
}

void InstrumentTalk::start_anew() {
  ++number_;
  questions_.clear();
  traffic_.clear();
  if (job_ != nullptr) job_->cancel();
}

const std::deque<TrafficLine>& InstrumentTalk::traffic(Role role) const {
  static const std::deque<TrafficLine> none;
  const auto found = traffic_.find(role);
  return found == traffic_.end() ? none : found->second;
}

void InstrumentTalk::hear(Role role, const Traffic& traffic) {
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

void InstrumentTalk::ask_next() {
  if (questions_.empty()) return;
  const InstrumentQuestion question = questions_.front();
  questions_.pop_front();
  const auto answer = std::make_shared<WhatItSaid>();
  job_ = new BackgroundJob(
      qt_text(question.known.name),
      [this, question, answer](const Progress&, const std::stop_token& stop) {
        ScpiSession session(question.known.name, parse_address(question.known.address),
                            profile_of(question.known));
        session.set_stop(stop);
        session.watch([this, role = question.role](const Traffic& t) { hear(role, t); });
        converse(question, session, *answer);
      },
      this);
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
    emit changed();
    ask_next();
  };
  connect(job_, &BackgroundJob::finished, this, [this, question, answer, end, number = number_] {
    if (number == number_) emit answered(question, qt_text(answer->identity), answer->rf);
    end();
  });
  connect(job_, &BackgroundJob::cancelled, this, end);
  connect(job_, &BackgroundJob::failed, this,
          [this, question, end, number = number_](const QString& what, const QString& advice) {
            if (number == number_) emit failed(question, what, advice);
            end();
          });
  job_->start();
}

}  // namespace heron
