// What the purity sheet asks and offers; the rest of it is in purity_sheet.cpp.
#include <QFile>
#include <QFileDialog>
#include <limits>
#include <nlohmann/json.hpp>

#include "app/live/live_bench.h"
#include "app/live/live_ladder.h"
#include "app/purity/purity_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/text_card.h"
#include "core/judge/mask_text.h"
#include "core/method/ladder_advice.h"
#include "core/quantity/format.h"
#include "core/read_text.h"

namespace heron {
namespace {

constexpr std::uintmax_t kLargestMaskMb = 1;

/// One typed line a line of text.
std::vector<TypedLine> typed_lines_of(const QString& text) {
  std::vector<TypedLine> lines;
  int number = 0;
  for (const QString& raw : text.split('\n')) {
    ++number;
    const QString line = raw.section('#', 0, 0).trimmed();
    if (line.isEmpty()) continue;
    try {
      lines.push_back(parse_typed_line(line.toStdString()));
    } catch (const InputError& error) {
      throw InputError("lines", "line " + std::to_string(number), error.reason, error.advice);
    }
  }
  return lines;
}

QString lines_understood(const QString& text) {
  const std::vector<TypedLine> lines = typed_lines_of(text);
  if (lines.empty()) return QObject::tr("No lines: nothing typed counts.");
  const TypedLine& last = lines.back();
  const QString where = last.to_hz > 0.0 ? QObject::tr("nothing else from %1 to %2")
                                               .arg(qt_text(frequency_text(last.frequency_hz)),
                                                    qt_text(frequency_text(last.to_hz)))
                                         : qt_text(frequency_text(last.frequency_hz));
  return QObject::tr("%1 lines. The last: %2 at %3%4 %5")
      .arg(lines.size())
      .arg(where, last.is_bound ? QObject::tr("at most ") : QString(),
           qt_text(number_text(last.level, 1)),
           last.is_dbc ? QStringLiteral("dBc") : QStringLiteral("dBm"));
}

}  // namespace

void PuritySheet::change(const QString& what, const PurityTestSettings& settings) {
  session_.set_settings(what, with_purity_settings(session_.purity()->test.settings, settings));
}

void PuritySheet::set_mask(const std::optional<Mask>& mask) {
  PurityTestSettings settings = session_.purity()->settings;
  settings.mask = mask;
  change(tr("mask"), settings);
}

void PuritySheet::refresh_menus(const PurityTest* t) {
  mask_->set_value(t->mask.is_none() ? tr("none") : qt_text(t->mask.name));
  mask_->setToolTip(t->mask.is_none()
                        ? tr("Nothing is judged")
                        : qt_text(t->mask.note.empty() ? mask_text(t->mask) : t->mask.note));
  mask_->menu()->clear();
  mask_->menu()->addAction(tr("Generic, by power"), this, [this] { set_mask(std::nullopt); });
  mask_->menu()->addAction(tr("Edit the mask\u2026"), this, &PuritySheet::edit_mask);
  mask_->menu()->addAction(tr("Load a mask file\u2026"), this, &PuritySheet::load_mask);
  mask_->menu()
      ->addAction(tr("Save this mask\u2026"), this, &PuritySheet::save_mask)
      ->setEnabled(!t->mask.is_none());
  mask_->menu()->addAction(tr("No mask"), this, [this] { set_mask(Mask{"none", "", {}}); });
  carrier_->set_value(
      qt_text(engineering_text(t->carrier_hz, "Hz", 6)) +
      (t->settings.power_dbm ? ", " + qt_text(t->settings.power_typed) : QString()));
  carrier_->menu()->clear();
  carrier_->menu()->addAction(tr("Its frequency\u2026"), this, &PuritySheet::ask_carrier);
  carrier_->menu()->addAction(tr("Its power, from a power meter\u2026"), this,
                              &PuritySheet::ask_power);
  carrier_->menu()
      ->addAction(tr("Power as the recording says"), this,
                  [this] {
                    PurityTestSettings s = session_.purity()->settings;
                    s.power_dbm.reset();
                    s.power_typed.clear();
                    change(tr("carrier power"), s);
                  })
      ->setEnabled(t->settings.power_dbm.has_value());
  fill_evidence_menu(*t);
}

void PuritySheet::fill_evidence_menu(const PurityTest& t) {
  const auto taken = std::count_if(t.sources.begin(), t.sources.end(),
                                   [](const auto& s) { return s.has_value(); });
  QStringList words;
  if (taken > 0) words << tr("%1 recordings").arg(taken);
  if (!t.settings.lines.empty()) words << tr("%1 typed").arg(t.settings.lines.size());
  if (t.is_self_tested) words << tr("self-tested");
  evidence_->set_value(words.isEmpty() ? tr("nothing yet") : words.join(", "));
  QMenu* menu = evidence_->menu();
  menu->clear();
  menu->addAction(tr("Add recordings or traces\u2026"), this, &Sheet::ask_recordings);
  menu->addAction(tr("Type lines\u2026"), this, &PuritySheet::type_lines);
  menu->addAction(tr("Plan the carrier and harmonics 2 to 7"), this, &PuritySheet::plan_harmonics)
      ->setEnabled(t.test.drive.has_value() && t.steps.empty());
  menu->addAction(tr("A sweep from the analyser"), this, &PuritySheet::ask_sweep)
      ->setEnabled(!live_->is_running() && t.test.drive.has_value() &&
                   bench_->answers(Role::spectrum_analyser) &&
                   live_->obstacle(std::numeric_limits<int>::max()).what.isEmpty());
  if (!t.steps.empty()) menu->addSeparator();
  for (std::size_t i = 0; i < t.steps.size(); ++i) {
    const bool has = t.steps[i].capture.has_value();
    QMenu* of = menu->addMenu(qt_text(t.steps[i].label) + (has ? QString() : tr(", not measured")));
    of->addAction(tr("Measure it with the instruments"), this, [this, i] {
        live_->start(static_cast<int>(i));
      })->setEnabled(!live_->is_running() && live_->obstacle(static_cast<int>(i)).what.isEmpty());
    of->addAction(
        has ? tr("Replace its recording\u2026") : tr("Add its recording\u2026"), this, [this, i] {
          const QString file =
              QFileDialog::getOpenFileName(this, tr("The recording"), {}, recording_filter());
          if (!file.isEmpty()) queue_->replace(file, static_cast<int>(i));
        });
    of->addAction(tr("Once more with more attenuation\u2026"), this, [this, i] {
        ask_self_test(i);
      })->setEnabled(has);
    of->addAction(tr("Rename\u2026"), this, [this, i] {
      const auto label =
          ask(this, tr("Where it was recorded"),
              tr("A frequency in the name is used as the centre of recordings that do not say."),
              tr("Name"), qt_text(session_.purity()->steps[i].label), tr("Save"));
      if (label) session_.set_step_label(i, *label);
    });
    if (t.steps[i].self_test)
      of->addAction(tr("Remove the self-test"), this, [this, i] { session_.remove_beside(i); });
    of->addAction(tr("Remove it"), this, [this, i] { session_.remove_step(i); });
  }
  // Without a full scale only this says what a recording beside the carrier's is relative to.
  QAction* gain = menu->addAction(tr("All were recorded at one gain setting"));
  gain->setCheckable(true);
  gain->setChecked(t.settings.is_same_gain);
  connect(gain, &QAction::toggled, this, [this](bool on) {
    PurityTestSettings settings = session_.purity()->settings;
    settings.is_same_gain = on;
    change(tr("gain"), settings);
  });
  add_record_actions(menu);
}

void PuritySheet::ask_sweep() {
  const PurityTest* t = session_.purity();
  if (t == nullptr || !t->hookup || !t->test.drive) return;
  AskDialog dialog(tr("A sweep from the analyser"),
                   tr("Keys one tone at %1 into %2 while the analyser sweeps over carrier and "
                      "harmonics. Hot parts and open connectors burn: local codes and your licence "
                      "come first. Esc switches RF off at once.")
                       .arg(qt_text(watts_text(t->test.drive->pep_dbm)),
                            qt_text(t->hookup->chain.parts.front().name)),
                   {}, tr("Transmit"), {}, this);
  if (dialog.exec() == QDialog::Accepted) take_sweep();
}

void PuritySheet::edit_mask() {
  const PurityTest* t = session_.purity();
  if (t == nullptr) return;
  if (mask_card_ == nullptr) {
    mask_card_ = new TextCard(
        tr("Mask"),
        tr("A range a line. P is the carrier\u2019s power in W. The rules of your own licence "
           "count; this is only how they are written down here."),
        tr("Use it"), window());
    mask_card_->set_reader([this](const QString& text) {
      const Mask mask = parse_mask_text(text.toStdString(), mask_card_->name().toStdString());
      return tr("%1 ranges%2")
          .arg(mask.segments.size())
          .arg(mask.needs_power() ? tr(", by the carrier\u2019s power") : QString());
    });
    connect(mask_card_, &TextCard::accepted, this, [this] {
      const std::string name =
          mask_card_->name().isEmpty() ? "own mask" : mask_card_->name().toStdString();
      set_mask(parse_mask_text(mask_card_->text().toStdString(), name));
    });
  }
  mask_card_->set_name(tr("Name"), t->mask.is_none() ? tr("own mask") : qt_text(t->mask.name));
  mask_card_->set_text(t->mask.is_none() ? QStringLiteral("1 MHz to 30 MHz: -43 dBc\n")
                                         : qt_text(mask_text(t->mask)));
  mask_card_->adjustSize();
  mask_card_->open_at(mask_->mapTo(window(), QPoint(0, mask_->height() + 6)));
}

void PuritySheet::type_lines() {
  const PurityTest* t = session_.purity();
  if (t == nullptr) return;
  if (lines_card_ == nullptr) {
    lines_card_ = new TextCard(
        tr("Lines read off a screen"),
        tr("A line each: frequency and level, in dBc or in dBm at the instrument. \u201c<\u201d "
           "for one that the noise hides; \u201c1 to 150 MHz < -65 dBc\u201d for a range with "
           "nothing else in it."),
        tr("Use them"), window());
    lines_card_->set_reader(lines_understood);
    connect(lines_card_, &TextCard::accepted, this, [this] {
      PurityTestSettings settings = session_.purity()->settings;
      settings.lines = typed_lines_of(lines_card_->text());
      change(tr("typed lines"), settings);
    });
  }
  QStringList lines;
  for (const TypedLine& l : t->settings.lines) lines << qt_text(l.typed);
  lines_card_->set_text(lines.join('\n'));
  lines_card_->adjustSize();
  lines_card_->open_at(evidence_->mapTo(window(), QPoint(0, evidence_->height() + 6)));
}

void PuritySheet::load_mask() {
  const QString path = QFileDialog::getOpenFileName(this, tr("A mask file"), {},
                                                    tr("Masks (*.json);;All files (*)"));
  if (path.isEmpty()) return;
  try {
    set_mask(parse_mask(read_text(path.toStdString(), kLargestMaskMb),
                        QFileInfo(path).fileName().toStdString()));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

void PuritySheet::save_mask() {
  QString path = QFileDialog::getSaveFileName(this, tr("Save the mask"),
                                              qt_text(session_.purity()->mask.name) + ".json",
                                              tr("Masks (*.json)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(".json", Qt::CaseInsensitive)) path += ".json";
  const QByteArray text =
      QByteArray::fromStdString(to_json(session_.purity()->mask).dump(2) + "\n");
  QFile file(path);
  if (file.open(QIODevice::WriteOnly) && file.write(text) == text.size() && file.flush())
    emit told(tr("Saved %1").arg(path));
  else
    emit failed(tr("%1 could not be written: %2").arg(path, file.errorString()),
                tr("Choose another folder or name"));
}

void PuritySheet::ask_carrier() {
  const PurityTest* t = session_.purity();
  if (t == nullptr) return;
  const auto asked = ask_quantity(this, tr("The carrier"),
                                  tr("Its frequency, to 50 ppm: everything is relative to it, "
                                     "and harmonics are its multiples."),
                                  tr("Frequency"), qt_text(frequency_text(t->carrier_hz)),
                                  tr("Use it"), Quantity::frequency);
  if (!asked) return;
  PurityTestSettings settings = t->settings;
  settings.carrier_hz = asked->value;
  change(tr("carrier"), settings);
}

void PuritySheet::ask_power() {
  const PurityTest* t = session_.purity();
  if (t == nullptr) return;
  QuantityOptions options;
  options.default_unit = "W";
  const auto asked = ask_quantity(
      this, tr("The carrier\u2019s power"),
      tr("At the device, from a power meter: masks by power and levels in dBm hang on it."),
      tr("Power"), t->settings.power_typed.empty() ? tr("30 W") : qt_text(t->settings.power_typed),
      tr("Use it"), Quantity::level, options);
  if (!asked) return;
  PurityTestSettings settings = t->settings;
  settings.power_dbm = asked->value;
  settings.power_typed = asked->typed.toStdString();
  change(tr("carrier power"), settings);
}

void PuritySheet::ask_self_test(std::size_t step) {
  ask_more_attenuation(
      tr("Device or instrument?"),
      tr("The same place once more with more attenuation before the instrument. A line of the "
         "device falls by as much, a line that the instrument makes by more."),
      static_cast<int>(step));
}

}  // namespace heron
