// What the sheet of a method asks and offers; the rest of it is in method_sheet.cpp.
#include <QActionGroup>
#include <QFileDialog>

#include "app/live/live_ladder.h"
#include "app/session/background_job.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/judge/limit.h"
#include "core/method/kept_file.h"
#include "core/quantity/format.h"
#include "core/signal/capture.h"
#include "core/signal/write_wav.h"

namespace heron {
namespace {

QString view_text(std::string_view text) {
  return qt_text(std::string(text));
}

std::optional<std::pair<double, double>> range_of(const QString& text) {
  static const QRegularExpression two(
      QStringLiteral("^\\s*([0-9.]+)\\s*(?:to|-|\u2013)\\s*([0-9.]+)\\s*(?:Hz)?\\s*$"));
  const auto found = two.match(text);
  if (!found.hasMatch()) return std::nullopt;
  const std::pair range{found.captured(1).toDouble(), found.captured(2).toDouble()};
  return range.second > range.first ? std::optional(range) : std::nullopt;
}

}  // namespace

void MethodSheet::refresh_menus(const GeneralTest& t) {
  refresh_settings(t);
  limit_->set_value(t.test.limit ? qt_text(limit_text(*t.test.limit)) : tr("none"));
  limit_->menu()->clear();
  limit_->menu()->addAction(tr("A limit\u2026"), this, &MethodSheet::ask_limit);
  limit_->menu()
      ->addAction(tr("Save this limit as the device\u2019s specification"), this,
                  [this] { session_.keep_limit_as_specification(); })
      ->setEnabled(t.test.limit.has_value());
  limit_->menu()->addAction(tr("No limit"), this, [this] { session_.set_limit(std::nullopt); });
  QMenu* menu = more_->menu();
  menu->clear();
  menu->addAction(tr("Add a step\u2026"), this, &MethodSheet::ask_step);
  if (takes_recordings()) menu->addAction(tr("Add recordings\u2026"), this, &Sheet::ask_recordings);
  if (static_cast<std::size_t>(step_) < t.steps.size()) add_step_actions(menu, t);
  menu->addAction(tr("Describe the conditions\u2026"), this, &Sheet::ask_conditions);
}

void MethodSheet::add_step_actions(QMenu* menu, const GeneralTest& t) {
  const auto step = static_cast<std::size_t>(step_);
  if (t.method->run != nullptr) add_take_actions(menu, step_);
  if (takes_recordings()) {
    menu->addAction(tr("Replace this step\u2019s recording\u2026"), this, [this] {
      const QString file =
          QFileDialog::getOpenFileName(this, tr("The recording"), {}, recording_filter());
      if (!file.isEmpty()) queue_->replace(file, step_);
    });
    menu->addAction(tr("Remove the recording from this step"), this,
                    [this, step] { session_.remove_capture(step); })
        ->setEnabled(t.steps[step].capture.has_value());
  }
  menu->addAction(tr("Rename this step\u2026"), this, [this, step] {
    const auto label = ask(this, tr("What was set"), tr("A name for this step."), tr("Step"),
                           qt_text(session_.general()->steps[step].label), tr("Save"));
    if (label) session_.set_step_label(step, *label);
  });
  menu->addAction(tr("Remove this step"), this, [this, step] { session_.remove_step(step); });
}

void MethodSheet::refresh_settings(const GeneralTest& t) {
  const Method& m = *t.method;
  settings_->setVisible(!m.settings.empty());
  if (m.settings.empty()) return;
  settings_->set_label(view_text(m.settings.front().head));
  settings_->set_value(m.setting_words != nullptr ? qt_text(m.setting_words(t.evidence.settings))
                                                  : QString());
  settings_->menu()->clear();
  for (const SettingField& field : m.settings) add_setting(settings_->menu(), field);
}

nlohmann::json MethodSheet::setting(const SettingField& field) const {
  const GeneralTest& t = *session_.general();
  const auto own = t.evidence.settings.find(std::string(t.method->settings_key));
  if (own != t.evidence.settings.end() && own->is_object()) {
    if (const auto found = own->find(std::string(field.key)); found != own->end()) return *found;
  }
  return t.method->usual_settings().at(std::string(field.key));
}

void MethodSheet::set_setting(const SettingField& field, const nlohmann::json& changed) {
  const GeneralTest& t = *session_.general();
  nlohmann::json all = t.evidence.settings;
  all[std::string(t.method->settings_key)].update(changed);
  const std::string refusal = t.method->check != nullptr ? t.method->check(all) : std::string();
  if (refusal.empty())
    session_.set_settings(view_text(field.head).toLower(), all);
  else
    emit failed(qt_text(refusal), tr("Choose another value"));
}

void MethodSheet::add_setting(QMenu* menu, const SettingField& field) {
  if (field.kind == SettingField::Kind::choice) {
    add_choices(menu, field);
    menu->addSeparator();
  } else {
    menu->addAction(view_text(field.head) + QStringLiteral("\u2026"), this,
                    [this, &field] { ask_setting(field); });
  }
}

void MethodSheet::add_choices(QMenu* menu, const SettingField& field) {
  const nlohmann::json now = setting(field);
  auto* group = new QActionGroup(menu);
  for (const SettingChoice& choice : field.choices) {
    const auto choose = [this, &field, &choice] {
      set_setting(field, {{std::string(field.key), std::string(choice.id)}});
    };
    const bool is_now = now == std::string(choice.id);
    QAction* action =
        menu->addAction(view_text(choice.words), this, [this, &field, &choice, choose] {
          if (choice.file.empty())
            choose();
          else
            ask_own_file(field, choice);
        });
    action->setActionGroup(group);
    action->setCheckable(true);
    action->setChecked(is_now);
    if (choice.file.empty()) continue;
    const GeneralTest& t = *session_.general();
    const auto own = t.evidence.settings.find(std::string(t.method->settings_key));
    if (own == t.evidence.settings.end() || kept_file_hash(*own, std::string(choice.file)).empty())
      continue;
    const QString name = qt_text(own->value(std::string(choice.file) + "_name", ""));
    if (!is_now) menu->addAction(tr("%1 again").arg(name), this, choose);
    menu->addAction(tr("Save %1 for playing\u2026").arg(name), this,
                    [this, &choice] { save_own_file(choice); });
  }
}

void MethodSheet::ask_setting(const SettingField& field) {
  const QString heading = view_text(field.head);
  const QString hint = view_text(field.hint);
  const nlohmann::json now = setting(field);
  const std::string key(field.key);
  if (field.kind == SettingField::Kind::quantity) {
    const std::string shown = engineering_text(now.get<double>(), std::string(field.unit), 6);
    const auto asked =
        ask_quantity(this, heading, hint, heading, qt_text(shown), tr("Use it"), field.asked);
    if (asked) set_setting(field, {{key, asked->value}});
    return;
  }
  const auto asked =
      ask(this, heading, hint, heading,
          QStringLiteral("%1 to %2 Hz").arg(now[0].get<double>()).arg(now[1].get<double>()),
          tr("Use it"), [](const QString& text) {
            return range_of(text) ? QString() : tr("Type two frequencies, such as 300 to 2700 Hz.");
          });
  if (!asked) return;
  const auto range = *range_of(*asked);
  set_setting(field, {{key, {range.first, range.second}}});
}

void MethodSheet::ask_own_file(const SettingField& field, const SettingChoice& choice) {
  const QString path = QFileDialog::getOpenFileName(this, tr("Recording to play"), {},
                                                    tr("Recordings (*.wav *.WAV *.w64)"));
  if (!path.isEmpty()) use_own_file(field, choice, path);
}

void MethodSheet::use_own_file(const SettingField& field, const SettingChoice& choice,
                               const QString& path) {
  if (job_ != nullptr || session_.general() == nullptr) return;
  auto stored = std::make_shared<StoredCapture>();
  const auto captures = session_.shack().captures_folder();
  job_ = new BackgroundJob(
      QFileInfo(path).fileName(),
      [stored, captures, file = path.toStdString()](const Progress& progress,
                                                    const std::stop_token& stop) {
        *stored = store_capture(captures, capture_opener(file), progress, stop);
      },
      this);
  const auto end = [this] {
    job_->deleteLater();
    job_ = nullptr;
  };
  connect(
      job_, &BackgroundJob::finished, this,
      [this, end, stored, &field, &choice, test = session_.test_id(), name = job_->name()] {
        end();
        if (session_.test_id() != test || session_.general() == nullptr) return;
        const std::string file(choice.file);
        set_setting(field, {{std::string(field.key), std::string(choice.id)},
                            {file + "_name", name.toStdString()},
                            {file + "_hash", stored->hash}});
        emit told(
            tr("%1 is kept in the shack, so that it stays the same for all settings").arg(name));
      });
  connect(job_, &BackgroundJob::cancelled, this, end);
  connect(job_, &BackgroundJob::failed, this,
          [this, end](const QString& what, const QString& advice) {
            end();
            emit failed(what, advice);
          });
  job_->start();
}

void MethodSheet::save_own_file(const SettingChoice& choice) {
  const GeneralTest& t = *session_.general();
  const nlohmann::json& own = t.evidence.settings.at(std::string(t.method->settings_key));
  const std::string file(choice.file);
  QString path = QFileDialog::getSaveFileName(
      this, tr("Save it for playing"), qt_text(own.value(file + "_name", "")), tr("WAV (*.wav)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(".wav", Qt::CaseInsensitive)) path += ".wav";
  try {
    write_wav(capture_opener(capture_path(session_.shack(), kept_file_hash(own, file))),
              path.toStdString());
    emit told(tr("Saved %1").arg(path));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void MethodSheet::ask_step() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const auto label = ask(this, tr("Add a step"), tr("A name that says what is set."), tr("Step"),
                         view_text(t->method->step_example), tr("Add"), [](const QString& s) {
                           return s.isEmpty() ? tr("Type a name.") : QString();
                         });
  if (label) session_.add_step(*label);
}

void MethodSheet::ask_limit() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || t->method->limit == nullptr) return;
  const LimitField field = t->method->limit(t->evidence.settings);
  QuantityOptions options;
  if (field.asked == Quantity::power) options.default_unit = field.unit;
  const auto asked =
      ask_quantity(this, qt_text(field.head), qt_text(field.hint), qt_text(field.label),
                   qt_text(t->test.limit && !t->test.limit->typed.empty() ? t->test.limit->typed
                                                                          : field.example),
                   tr("Use it"), field.asked, options);
  if (asked) session_.set_limit(limit_of(field, asked->value, asked->typed.toStdString()));
}

}  // namespace heron
