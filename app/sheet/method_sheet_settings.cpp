// What is set for a whole test on the sheet of a method; the rest of it is in method_sheet.cpp.
#include <QActionGroup>
#include <QFileDialog>
#include <QFileInfo>
#include <QKeyEvent>

#include "app/session/background_job.h"
#include "app/session/step_edits.h"
#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/text_card.h"
#include "core/method/kept_file.h"
#include "core/quantity/format.h"
#include "core/signal/capture.h"
#include "core/signal/write_wav.h"

namespace heron {
namespace {

std::optional<std::pair<double, double>> range_of(const QString& text) {
  static const QRegularExpression two(
      QStringLiteral("^\\s*([0-9.]+)\\s*(?:to|-|\u2013)\\s*([0-9.]+)\\s*(?:Hz)?\\s*$"));
  const auto found = two.match(text);
  if (!found.hasMatch()) return std::nullopt;
  const std::pair range{found.captured(1).toDouble(), found.captured(2).toDouble()};
  return range.second > range.first ? std::optional(range) : std::nullopt;
}

}  // namespace

void MethodSheet::refresh_settings(const GeneralTest& t) {
  const Method& m = *t.method;
  if (m.settings.empty()) return;
  settings_->set_label(qt_text(m.settings.front().head));
  settings_->set_value(m.setting_words != nullptr ? qt_text(m.setting_words(t.evidence))
                                                  : QString());
  settings_->menu()->clear();
  QMenu* menu = settings_->menu();
  std::string_view group;
  for (const SettingField& field : m.settings) {
    if (field.is_evidence) continue;
    if (field.group != group) {
      group = field.group;
      menu = group.empty() ? settings_->menu() : settings_->menu()->addMenu(qt_text(group));
    }
    add_setting(menu, field);
  }
}

nlohmann::json MethodSheet::setting(const SettingField& field) const {
  const GeneralTest& t = *session_.general();
  const auto own = t.evidence.settings.find(std::string(t.method->settings_key));
  if (own != t.evidence.settings.end() && own->is_object()) {
    if (const auto found = own->find(std::string(field.key)); found != own->end()) return *found;
  }
  return t.method->usual_settings().at(std::string(field.key));
}

/// What an axis of the plot shows, at its title.
void MethodSheet::choose_axis(const QString& key, const QPoint& at) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  for (const SettingField& field : t->method->settings) {
    if (field.key != key.toStdString()) continue;
    auto* menu = new QMenu(this);
    menu->setAttribute(Qt::WA_DeleteOnClose);
    add_choices(menu, field);
    menu->popup(at);
    return;
  }
}

void MethodSheet::set_setting(const SettingField& field, const nlohmann::json& changed) {
  const GeneralTest& t = *session_.general();
  nlohmann::json all = session_.settings();
  nlohmann::json& own = all[std::string(t.method->settings_key)];
  if (!own.is_object()) own = nlohmann::json::object();
  own.update(changed);
  const std::string refusal = t.method->check != nullptr ? t.method->check(all) : std::string();
  if (refusal.empty())
    TestEdits(session_).set_settings(qt_text(field.head).toLower(), all);
  else
    emit failed(qt_text(refusal), tr("Choose another value"));
}

void MethodSheet::add_setting(QMenu* menu, const SettingField& field) {
  if (field.kind == SettingField::Kind::choice) {
    add_choices(menu, field);
    menu->addSeparator();
  } else if (field.kind == SettingField::Kind::flag) {
    add_flag(menu, field);
  } else {
    menu->addAction(qt_text(field.head) + QStringLiteral("\u2026"), this,
                    [this, &field] { ask_setting(field); });
  }
  add_proposals(menu, field);
  if (field.none.empty()) return;
  menu->addAction(qt_text(field.none), this,
                  [this, &field] { set_setting(field, {{std::string(field.key), nullptr}}); })
      ->setEnabled(!setting(field).is_null());
}

void MethodSheet::add_flag(QMenu* menu, const SettingField& field) {
  QAction* action = menu->addAction(qt_text(field.head));
  action->setToolTip(qt_text(field.hint));
  action->setCheckable(true);
  action->setChecked(setting(field).get<bool>());
  connect(action, &QAction::toggled, this,
          [this, &field](bool on) { set_setting(field, {{std::string(field.key), on}}); });
}

void MethodSheet::set_mask(const std::optional<Mask>& mask) {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  nlohmann::json all = session_.settings();
  nlohmann::json& own = all[std::string(t->method->settings_key)];
  if (!own.is_object()) own = nlohmann::json::object();
  if (mask)
    own["mask"] = mask->is_none() ? nlohmann::json(nullptr) : to_json(*mask);
  else
    own.erase("mask");
  TestEdits(session_).set_settings(tr("mask"), all);
}

void MethodSheet::add_choices(QMenu* menu, const SettingField& field) {
  const nlohmann::json now = setting(field);
  auto* group = new QActionGroup(menu);
  for (const SettingChoice& choice : field.choices) {
    const auto choose = [this, &field, &choice] {
      set_setting(field, {{std::string(field.key), std::string(choice.id)}});
    };
    const bool is_now = now == std::string(choice.id);
    QAction* action = menu->addAction(qt_text(choice.words), this, [this, &field, &choice, choose] {
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

QuantityOptions MethodSheet::options_of(const SettingField& field) {
  QuantityOptions options;
  if (!field.typed_unit.empty()) options.default_unit = std::string(field.typed_unit);
  options.is_two_tone = field.is_two_tone;
  return options;
}

double MethodSheet::parsed_setting(const SettingField& field, const std::string& typed) {
  return parse_quantity(typed, field.asked, options_of(field)).value;
}

void MethodSheet::ask_quantity_of(const SettingField& field) {
  const nlohmann::json now = setting(field);
  const std::string key(field.key);
  const std::string typed_key(field.typed_key);
  std::string shown(field.example);
  if (now.is_number()) shown = engineering_text(now.get<double>(), std::string(field.unit), 6);
  const GeneralTest& t = *session_.general();
  const auto own = t.evidence.settings.find(std::string(t.method->settings_key));
  if (now.is_number() && !typed_key.empty()) shown = own->value(typed_key, shown);
  const auto asked =
      ask_quantity(this, qt_text(field.head), qt_text(field.hint), qt_text(field.head),
                   qt_text(shown), tr("Use it"), field.asked, options_of(field));
  if (!asked) return;
  nlohmann::json changed = {{key, asked->value}};
  if (!typed_key.empty()) changed[typed_key] = asked->typed.toStdString();
  set_setting(field, changed);
}

void MethodSheet::ask_text(const SettingField& field) {
  if (text_card_ != nullptr) text_card_->deleteLater();
  text_card_ = new TextCard(qt_text(field.head), qt_text(field.hint), tr("Use them"), window());
  const SettingText how = field.text;
  text_card_->set_reader([how](const QString& text) {
    return qt_text(how.understood(how.parse(text.toStdString())));
  });
  connect(text_card_, &TextCard::accepted, this, [this, &field] {
    set_setting(field,
                {{std::string(field.key), field.text.parse(text_card_->text().toStdString())}});
  });
  text_card_->set_text(qt_text(how.written(setting(field))).trimmed());
  text_card_->adjustSize();
  const QWidget* below = field.is_evidence ? more_ : settings_;
  text_card_->open_at(below->mapTo(window(), QPoint(0, below->height() + 6)));
}

void MethodSheet::ask_setting(const SettingField& field) {
  if (field.kind == SettingField::Kind::quantity) {
    ask_quantity_of(field);
    return;
  }
  if (field.kind == SettingField::Kind::text) {
    ask_text(field);
    return;
  }
  const QString heading = qt_text(field.head);
  const QString hint = qt_text(field.hint);
  const nlohmann::json now = setting(field);
  const std::string key(field.key);
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
  auto* saving = new BackgroundJob(
      QFileInfo(path).fileName(),
      [open = capture_opener(capture_path(session_.shack(), kept_file_hash(own, file))),
       to = path.toStdString()](const Progress&, const std::stop_token&) { write_wav(open, to); },
      this);
  connect(saving, &BackgroundJob::finished, this, [this, saving, path] {
    saving->deleteLater();
    emit told(tr("Saved %1").arg(path));
  });
  connect(saving, &BackgroundJob::failed, this,
          [this, saving](const QString& what, const QString& advice) {
            saving->deleteLater();
            emit failed(what, advice);
          });
  saving->start();
}

/// What a key says of the chosen step; then the next one is due.
bool MethodSheet::type_by_key(const GeneralTest& t, int key) {
  const auto at = step();
  if (!at) return false;
  for (const TypedField& field : t.method->fields) {
    for (const TypedField::Key& one : field.keys) {
      if (key != one.key) continue;
      const Step& chosen = t.steps[*at];
      const int next = static_cast<int>(std::min(*at + 1, t.steps.size() - 1));
      StepEdits(session_).set_fields(
          tr("%1 at %2").arg(qt_text(one.typed), qt_text(chosen.label)),
          {{chosen.id, qt_text(chosen.label), {{&field, std::string(one.typed)}}}});
      choose(next);
      return true;
    }
  }
  return false;
}

/// Some settings have a key of their own: it goes on to the next choice.
void MethodSheet::keyPressEvent(QKeyEvent* event) {
  const GeneralTest* t = session_.general();
  const bool is_plain = (event->modifiers() & ~Qt::ShiftModifier) == Qt::NoModifier;
  if (t != nullptr && is_plain && !session_.refusal(t->test.id)) {
    for (const SettingField& field : t->method->settings) {
      if (field.key_press == 0 || event->key() != field.key_press) continue;
      const nlohmann::json kept = setting(field);
      const std::string now = kept.is_string() ? kept.get<std::string>() : std::string();
      for (std::size_t i = 0; i < field.choices.size(); ++i) {
        if (field.choices[i].id != now) continue;
        const SettingChoice& next = field.choices[(i + 1) % field.choices.size()];
        set_setting(field, {{std::string(field.key), std::string(next.id)}});
        return;
      }
    }
    if (table_key(*t, *event) || name_mark(event->key()) || type_by_key(*t, event->key())) return;
  }
  Sheet::keyPressEvent(event);
}

}  // namespace heron
