#include "app/session/session.h"

#include <QCoreApplication>
#include <QEventLoop>
#include <QUndoCommand>
#include <algorithm>

#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/method_table.h"
#include "store/clock.h"
#include "store/result_record.h"

namespace heron {
namespace {

constexpr int kTyping = 1;  // edits that follow each other as a text is typed

/// One change with its reverse; each says whether it could be done. One that could not is reported,
/// not thrown through Qt, and leaves the stack: what stands there can be undone.
class Edit : public QUndoCommand {
 public:
  using Step = std::function<bool()>;
  Edit(const QString& text, Step redo, Step undo, Id typed_in)
      : QUndoCommand(text), redo_(std::move(redo)), undo_(std::move(undo)), typed_in_(typed_in) {}
  void redo() override { setObsolete(!redo_()); }
  void undo() override { setObsolete(!undo_()); }
  int id() const override { return typed_in_ != 0 ? kTyping : -1; }
  bool mergeWith(const QUndoCommand* later) override {
    const auto* edit = static_cast<const Edit*>(later);
    if (edit->typed_in_ != typed_in_ || edit->isObsolete()) return false;
    if (typed_in_ > 0) {
      redo_ = edit->redo_;
      return true;
    }
    redo_ = [first = redo_, then = edit->redo_] { return first() && then(); };
    undo_ = [first = undo_, then = edit->undo_] { return then() && first(); };
    setText(QObject::tr("%1 recordings").arg(++count_));
    return true;
  }

 private:
  Step redo_;
  Step undo_;
  Id typed_in_;  ///< the test whose note is being typed, below 0 a batch; 0 for every other change
  int count_ = 1;
};

}  // namespace

Session::Session(QObject* parent) : QObject(parent) {}

Session::~Session() {
  blockSignals(true);
  finish();
}

void Session::open(const QString& folder) {
  auto shack = Shack::open(folder.toStdString());
  auto evaluator = std::make_unique<Evaluator>(*shack, [this] {
    QMetaObject::invokeMethod(
        this,
        [this] {
          if (receive()) tell();
        },
        Qt::QueuedConnection);
  });
  finish();
  evaluator_ = std::move(evaluator);
  shack_ = std::move(shack);
  is_waiting_ = false;
  undo_.clear();
  evaluation_ = test_ = 0;
  course_.clear();
  shown_ = {};
  emit shack_opened();
}

void Session::create(const QString& folder, const QString& place) {
  Shack::create(folder.toStdString(), place.toStdString()).reset();
  open(folder);
}

void Session::show_evaluation(Id evaluation, Id test) {
  try {
    course_ = tests(*shack_, evaluation);
  } catch (const InputError& error) {
    emit refused(qt_text(error.reason), qt_text(error.advice));
    return;
  }
  evaluation_ = evaluation;
  test_ = test != 0 || course_.empty() ? test : course_.front().id;
  shown_ = {};
  ask_for(test_, false);
  wait_for(patience);
  emit evaluation_shown();
  emit test_changed();
}

void Session::show_test(Id test) {
  if (test == test_) return;
  test_ = test;
  shown_ = {};
  ask_for(test_, false);
  wait_for(patience);
  emit test_changed();
}

void Session::ask_for(Id test, bool is_changed) {
  if (test == test_) is_waiting_ = test != 0;
  if (test == 0) return;
  evaluator_->ask(test, is_changed);
}

void Session::preview(const nlohmann::json& settings) {
  if (!shown_ || is_waiting_) return;
  Evidence tried = shown_->evidence;
  tried.settings = settings;
  shown_->result = shown_->method->evaluate(tried);
  emit test_changed();
}

bool Session::wait_for(std::chrono::milliseconds at_most) {
  if (evaluator_ == nullptr || at_most.count() == 0) return false;
  evaluator_->wait(at_most);
  return receive();
}

void Session::tell() {
  emit course_changed();
  emit test_changed();
  emit shack_changed();
}

const Test* Session::waited_for() const {
  const auto found =
      std::find_if(course_.begin(), course_.end(), [this](const Test& t) { return t.id == test_; });
  return is_waiting_ && found != course_.end() ? &*found : nullptr;
}

void Session::finish() {
  constexpr std::chrono::minutes kLong{10};  // it ends by itself
  if (wait_for(kLong)) tell();
}

void Session::settle() {
  if (wait_for(patience)) tell();
  // Meanwhile the window paints, and what was pressed waits for its turn.
  constexpr std::chrono::milliseconds kLook{15};
  while (evaluator_ != nullptr && evaluator_->is_busy()) {
    QCoreApplication::processEvents(QEventLoop::ExcludeUserInputEvents);
    if (evaluator_ != nullptr) evaluator_->wait(kLook);
  }
  if (evaluator_ != nullptr && receive()) tell();
}

bool Session::receive() {
  const auto all = evaluator_->take();
  for (const Evaluator::Done& done : all) {
    if (done.test == test_) {
      is_waiting_ = false;
      shown_ = done.loaded;
    }
    if (!done.failure.empty()) emit refused(qt_text(done.failure), qt_text(done.advice));
    if (!done.is_changed || !done.loaded) continue;
    try {
      set_test_headline(*shack_, done.test, done.loaded->test.headline);
      for (Test& t : course_) {
        if (t.id == done.test) t.headline = done.loaded->test.headline;
      }
    } catch (const InputError& error) {
      emit refused(qt_text(error.what_happened()), qt_text(error.advice));
    }
  }
  return !all.empty();
}

Test Session::on_disk() const {
  try {
    return heron::test(*shack_, test_);
  } catch (const InputError&) {
    return {};  // what edits it is refused with the reason
  }
}

Step Session::step_on_disk(std::size_t step) const {
  if (planned() == nullptr || step >= planned()->steps.size()) return {};
  const Step& shown = planned()->steps[step];
  try {
    for (Step& s : steps(*shack_, test_)) {
      if (s.id == shown.id) return std::move(s);
    }
  } catch (const InputError&) {
    return shown;  // as above
  }
  return shown;  // removed meanwhile
}

nlohmann::json Session::settings() const {
  Test t = on_disk();
  const Method* method = find_method(t.characteristic);
  return method != nullptr ? sound_settings(*method, t) : t.settings;
}

void Session::after_change(Id test) {
  if (evaluation_ != 0 && !is_evaluation_there(*shack_, evaluation_)) {
    evaluation_ = test_ = 0;
    course_.clear();
    shown_ = {};
    is_waiting_ = false;
    if (test != 0) ask_for(test, true);
    emit evaluation_gone();
    emit test_changed();
    emit shack_changed();
    return;
  }
  if (evaluation_ != 0) course_ = tests(*shack_, evaluation_);
  const bool still_there =
      std::any_of(course_.begin(), course_.end(), [&](const Test& t) { return t.id == test_; });
  if (!still_there) {
    test_ = course_.empty() ? 0 : course_.front().id;
    shown_ = {};
  }
  if (test != 0) ask_for(test, true);
  if (test != test_) ask_for(test_, false);
  wait_for(patience);
  tell();
}

std::optional<Refusal> Session::refusal(Id test) const {
  if (shack_->is_read_only()) return Refusal{qt_text(shack_->why_read_only()), {}};
  if (test == 0) return std::nullopt;
  try {
    const Test t = heron::test(*shack_, test);
    if (!t.is_signed()) return std::nullopt;
    return Refusal{tr("This test is signed off by %1.").arg(qt_text(t.signed_by)),
                   tr("Withdraw the signature to change it.")};
  } catch (const InputError& error) {
    return Refusal{qt_text(error.what_happened()), qt_text(error.advice)};
  }
}

void Session::change_test(Id test, const QString& text, const Change& redo, const Change& undo,
                          EditRules rules) {
  const std::optional<Refusal> no = refusal(rules.even_if_signed ? 0 : test);
  if (no) {
    emit refused(no->what, no->what_to_do);
    emit test_changed();
    return;
  }
  const auto guarded = [this, test](const Change& change) {
    try {
      shack_->write_together([&] { change(); });
      after_change(test);
      return true;
    } catch (const InputError& error) {
      emit refused(qt_text(error.what_happened()), qt_text(error.advice));
      emit test_changed();
      return false;
    }
  };
  undo_.push(new Edit(
      text, [guarded, redo] { return guarded(redo); }, [guarded, undo] { return guarded(undo); },
      rules.typed_in));
}

}  // namespace heron
