// What the sheet of noise and speech asks and offers; the rest of it is in spread_sheet.cpp.
#include <QFileDialog>

#include "app/live/live_ladder.h"
#include "app/session/background_job.h"
#include "app/spread/spread_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/quantity/format.h"
#include "core/signal/capture.h"
#include "core/signal/write_wav.h"

namespace heron {
namespace {

std::optional<FrequencyRange> range_of(const QString& text) {
  static const QRegularExpression two("^\\s*([0-9.]+)\\s*(?:to|-|–)\\s*([0-9.]+)\\s*(?:Hz)?\\s*$");
  const auto found = two.match(text);
  if (!found.hasMatch()) return std::nullopt;
  const FrequencyRange range{found.captured(1).toDouble(), found.captured(2).toDouble()};
  return range.second > range.first ? std::optional(range) : std::nullopt;
}

QString range_words(const FrequencyRange& range) {
  return QStringLiteral("%1 to %2 Hz").arg(range.first).arg(range.second);
}

}  // namespace

void SpreadSheet::change(const QString& what, const SpreadSettings& settings) {
  session_.set_settings(what, with_spread_settings(session_.spread()->test.settings, settings));
}

void SpreadSheet::refresh_menus(const SpreadTest& t) {
  stimulus_->set_value(qt_text(spread_stimulus_words(t.settings)));
  QMenu* menu = stimulus_->menu();
  menu->clear();
  const auto play = [this](SpreadStimulus stimulus) {
    SpreadSettings s = session_.spread()->settings;
    s.stimulus = stimulus;
    change(tr("stimulus"), s);
  };
  menu->addAction(tr("Notched noise, for the noise power ratio"), this,
                  [play] { play(SpreadStimulus::notched_noise); });
  menu->addAction(tr("Speech-shaped noise"), this, [play] { play(SpreadStimulus::speech_noise); });
  menu->addAction(tr("A recording of your own\u2026"), this, [this] {
    const QString path = QFileDialog::getOpenFileName(this, tr("What is always played"), {},
                                                      tr("Recordings (*.wav *.WAV *.w64)"));
    if (!path.isEmpty()) use_own_stimulus(path);
  });
  if (!t.settings.own_hash.empty()) {
    if (t.settings.stimulus != SpreadStimulus::own_recording)
      menu->addAction(tr("%1 again").arg(qt_text(t.settings.own_name)), this,
                      [play] { play(SpreadStimulus::own_recording); });
    menu->addAction(tr("Save it for playing\u2026"), this, &SpreadSheet::save_own_stimulus);
  }
  menu->addSeparator();
  menu->addAction(tr("Band and notch\u2026"), this, &SpreadSheet::ask_notch);
  menu->addAction(tr("Channel width\u2026"), this, &SpreadSheet::ask_channel);
  menu->addAction(t.settings.sideband == Sideband::upper ? tr("It is the lower sideband")
                                                         : tr("It is the upper sideband"),
                  this, [this] {
                    SpreadSettings s = session_.spread()->settings;
                    s.sideband = s.sideband == Sideband::upper ? Sideband::lower : Sideband::upper;
                    change(tr("sideband"), s);
                  });

  limit_->set_value(t.test.limit ? qt_text(limit_text(*t.test.limit)) : tr("none"));
  limit_->menu()->clear();
  limit_->menu()->addAction(tr("A limit\u2026"), this, &SpreadSheet::ask_limit);
  limit_->menu()
      ->addAction(tr("Keep this limit as the device\u2019s specification"), this,
                  [this] { session_.keep_limit_as_specification(); })
      ->setEnabled(t.test.limit.has_value());
  limit_->menu()->addAction(tr("No limit"), this, [this] { session_.set_limit(std::nullopt); });

  menu = more_->menu();
  menu->clear();
  menu->addAction(tr("Add a step\u2026"), this, &SpreadSheet::ask_step);
  menu->addAction(tr("Add recordings\u2026"), this, &Sheet::ask_recordings);
  if (t.steps.empty()) return;
  const auto step = static_cast<std::size_t>(step_);
  add_take_actions(menu, step_);
  menu->addAction(tr("Take this step again from a file\u2026"), this, [this] {
    const QString file =
        QFileDialog::getOpenFileName(this, tr("The recording"), {}, recording_filter());
    if (!file.isEmpty()) queue_->replace(file, step_);
  });
  menu->addAction(tr("Call this step\u2026"), this, [this, step] {
    const auto label =
        ask(this, tr("What was set"), tr("A drive such as 10 W, or settings in words."), tr("Step"),
            qt_text(session_.spread()->steps[step].label), tr("Keep"));
    if (label) session_.set_step_label(step, *label);
  });
  menu->addAction(tr("Take the recording off this step"), this,
                  [this, step] { session_.remove_capture(step); })
      ->setEnabled(t.steps[step].capture.has_value());
  menu->addAction(tr("Remove this step"), this, [this, step] { session_.remove_step(step); });
}

void SpreadSheet::ask_step() {
  const auto label =
      ask(this, tr("Add a step"),
          tr("A drive such as 10 W, or what is set: \u201c2.4 kHz, compressor on\u201d."),
          tr("Step"), tr("2.4 kHz, compressor off"), tr("Add"),
          [](const QString& s) { return s.isEmpty() ? tr("Type a name.") : QString(); });
  if (label) session_.add_step(*label);
}

void SpreadSheet::ask_limit() {
  const SpreadTest* t = session_.spread();
  if (t == nullptr) return;
  if (t->test.characteristic == "bandwidth") {
    const auto asked = ask_quantity(this, tr("Widest signal"),
                                    tr("99 % of the power has to lie within this width."),
                                    tr("Width"), tr("2.8 kHz"), tr("Use it"), Quantity::frequency);
    if (!asked) return;
    Limit limit{"own limit", Sense::at_most,           asked->value,
                "Hz",        hold_name(Hold::average), std::max(200.0, asked->value / 3.0)};
    limit.typed = asked->typed.toStdString();
    session_.set_limit(limit);
    return;
  }
  const bool is_notch = t->settings.stimulus == SpreadStimulus::notched_noise;
  const auto asked = ask_quantity(this, tr("A limit"),
                                  is_notch ? tr("The notch has to be at least so deep.")
                                           : tr("No more than this may fall beside the channel."),
                                  is_notch ? tr("Depth, dB") : tr("Power beside the channel, dB"),
                                  is_notch ? QStringLiteral("30") : QString::fromUtf8("−35"),
                                  tr("Use it"), is_notch ? Quantity::gain : Quantity::limit);
  if (!asked) return;
  Limit limit;
  limit.name = "own limit";
  limit.sense = is_notch ? Sense::at_least : Sense::at_most;
  limit.value = is_notch ? std::abs(asked->value) : asked->value;
  limit.unit = "dB";
  limit.convention = is_notch ? kNoisePowerRatio : "re channel, " + hold_name(Hold::average);
  limit.typed = asked->typed.toStdString();
  session_.set_limit(limit);
}

void SpreadSheet::ask_channel() {
  const SpreadTest* t = session_.spread();
  const auto asked = ask_quantity(
      this, tr("Channel"),
      tr("The width of the channel and of each window beside it. Recordings taken before keep "
         "theirs until they are taken again."),
      tr("Width"), tr("%1 kHz").arg(t->settings.channel_hz / 1e3), tr("Use it"),
      Quantity::frequency);
  if (!asked) return;
  SpreadSettings s = t->settings;
  s.channel_hz = asked->value;
  change(tr("channel"), s);
}

void SpreadSheet::ask_notch() {
  const SpreadSettings now = session_.spread()->settings;
  AskDialog dialog(
      tr("What was played"),
      tr("The band of the noise and the notch in it, as audio frequencies. They count for "
         "recordings added from now on."),
      {{tr("Band"), range_words(now.band_hz)}, {tr("Notch"), range_words(now.notch_hz)}},
      tr("Use them"),
      [](const QStringList& texts) {
        const auto band = range_of(texts[0]);
        const auto notch = range_of(texts[1]);
        if (!band || !notch) return tr("Type two frequencies, such as 300 to 2700 Hz.");
        if (notch->first <= band->first || notch->second >= band->second)
          return tr("The notch has to lie inside the band.");
        return QString();
      },
      this);
  if (dialog.exec() != QDialog::Accepted) return;
  SpreadSettings s = now;
  s.band_hz = *range_of(dialog.texts()[0]);
  s.notch_hz = *range_of(dialog.texts()[1]);
  change(tr("band and notch"), s);
}

void SpreadSheet::use_own_stimulus(const QString& path) {
  if (job_ != nullptr || session_.spread() == nullptr) return;
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
      [this, end, stored, test = session_.test_id(), name = job_->name()] {
        end();
        if (session_.test_id() != test || session_.spread() == nullptr) return;
        SpreadSettings s = session_.spread()->settings;
        s.stimulus = SpreadStimulus::own_recording;
        s.own_name = name.toStdString();
        s.own_hash = stored->hash;
        change(tr("stimulus"), s);
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

void SpreadSheet::save_own_stimulus() {
  const SpreadSettings& s = session_.spread()->settings;
  QString path = QFileDialog::getSaveFileName(this, tr("Save it for playing"), qt_text(s.own_name),
                                              tr("WAV (*.wav)"));
  if (path.isEmpty()) return;
  if (!path.endsWith(".wav", Qt::CaseInsensitive)) path += ".wav";
  try {
    write_wav(capture_opener(capture_path(session_.shack(), s.own_hash)), path.toStdString());
    emit told(tr("Saved %1").arg(path));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

}  // namespace heron
