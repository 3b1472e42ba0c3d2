// What the bench shows of one thing; adding, files and edits are in bench_view.cpp.
#include <QDragEnterEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QLabel>
#include <QMenu>
#include <QMimeData>
#include <QStackedWidget>
#include <algorithm>
#include <cmath>

#include "app/bench/bench_view.h"
#include "app/bench/bench_words.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/chain/bench_json.h"
#include "core/chain/bench_remarks.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/read_text.h"
#include "store/clock.h"
#include "store/file_sync.h"

namespace heron {

void BenchView::show_all() {
  const auto e = entry();
  const bool read_only = session_.shack().is_read_only();
  for (QWidget* w : {static_cast<QWidget*>(show_), static_cast<QWidget*>(frequency_),
                     static_cast<QWidget*>(more_), static_cast<QWidget*>(facts_),
                     static_cast<QWidget*>(stack_), static_cast<QWidget*>(calibration_)})
    w->setVisible(e.has_value());
  primary_->setVisible(e.has_value());
  consequence_->setVisible(e.has_value());
  remarks_->setVisible(false);
  if (!e) {
    title_->setText(tr("The bench is empty"));
    question_->setText(
        tr("Add a pad or an instrument below, or drop a Touchstone or bench file here."));
    return;
  }
  title_->setText(qt_text(e->item.part.name));
  const bool is_part = find_bench_sort(e->item.sort)->kind != "instrument";
  question_->setText(is_part ? tr("What is its loss, and how certain is it?")
                             : tr("What input may it have, and is it in calibration?"));
  primary_->setEnabled(!read_only);
  show_facts(*e);
  show_curve(*e);
  ageing_->set_item(e->item, utc_now());
  used_model_->set_item(session_.shack(), item_);
  form_->set_item(e->item, item_, read_only);
  show_calibration(*e);
  show_remarks(*e);
  fill_more_menu(*e);
}

void BenchView::show_facts(const BenchEntry& entry) {
  const BenchItem& item = entry.item;
  const Part& part = item.part;
  std::vector<FactBand::Fact> facts;
  const auto dbm = [](double value) { return qt_text(number_text(value, 1, true)) + " dBm"; };
  const QString none = QString::fromUtf8("–");
  if (find_bench_sort(item.sort)->kind == "instrument") {
    facts.push_back(
        {tr("Damage level"), part.max_input_dbm ? dbm(*part.max_input_dbm) : none, tr("absolute")});
    facts.push_back({tr("Input range"),
                     part.best_input_dbm
                         ? tr("%1 to %2")
                               .arg(qt_text(number_text(part.best_input_dbm->first, 0)),
                                    qt_text(number_text(part.best_input_dbm->second, 0)))
                         : none,
                     tr("dBm at its input")});
    if (item.sort == "generator")
      facts.push_back({tr("Dial calibrated in"),
                       item.level_means == "emf"   ? tr("EMF")
                       : item.level_means == "pd"  ? tr("PD")
                       : item.level_means == "dbm" ? tr("dBm")
                                                   : none,
                       tr("EMF is twice PD")});
    else if (item.timebase_ppm)
      facts.push_back(
          {tr("Timebase"), qt_text(quantity_text(Quantity::relative, *item.timebase_ppm)),
           item.gate_s ? tr("gate %1").arg(qt_text(duration_text(*item.gate_s))) : QString()});
    else
      facts.push_back({tr("Full scale"), part.full_scale_dbm ? dbm(*part.full_scale_dbm) : none,
                       tr("a sinusoid")});
    facts.push_back({tr("Resolution"), item.resolution.empty() ? none : qt_text(item.resolution),
                     tr("last digit")});
  } else {
    facts.push_back(
        {tr("Rating, average"),
         part.max_input_w ? qt_text(engineering_text(*part.max_input_w, "W", 3)) : none,
         part.max_input_w ? dbm(to_dbm(Watt{*part.max_input_w}).value) : tr("not stated")});
    facts.push_back({tr("Rating, peak"),
                     part.max_input_dbm ? qt_text(engineering_text(
                                              to_watt(Dbm{*part.max_input_dbm}).value, "W", 3))
                                        : none,
                     part.max_input_dbm ? dbm(*part.max_input_dbm) : tr("not stated")});
    facts.push_back(
        {tr("Above the average"),
         part.time_constant_s ? qt_text(duration_text(*part.time_constant_s)) : none,
         part.time_constant_s ? tr("heat time constant") : tr("the rating is absolute")});
    if (part.gain.is_constant())
      facts.push_back({part.gain.largest_db() > 0 ? tr("Gain") : tr("Loss"),
                       qt_text(number_text(std::abs(part.gain.largest_db()), 2)) + " dB",
                       tr("at every frequency")});
    else
      facts.push_back({tr("Curve"), tr("%1 points").arg(part.gain.points().size()),
                       tr("%1 to %2")
                           .arg(qt_text(frequency_text(part.gain.points().front().frequency_hz)),
                                qt_text(frequency_text(part.gain.points().back().frequency_hz)))});
  }
  const auto vswr = part.input_vswr(frequency_hz_);
  facts.push_back(
      {tr("VSWR"), vswr ? qt_text(number_text(*vswr, 2)) : none,
       vswr ? tr("at %1").arg(qt_text(frequency_text(frequency_hz_))) : tr("not stated")});
  facts_->set_facts(facts);
}

void BenchView::show_curve(const BenchEntry& entry) {
  const Part& part = entry.item.part;
  CurvePicture picture;
  const bool is_part = find_bench_sort(entry.item.sort)->kind != "instrument";
  const std::string today = utc_now();
  picture.expanded = expanded_on(part, today);
  picture.in_use_hz = frequency_hz_;
  if (wants_vswr_) {
    picture.y_title = tr("VSWR at its input");
    picture.expanded = 0.0;
    if (part.network) {
      for (const TwoPort& p : part.network->points)
        picture.points.emplace_back(p.frequency_hz, part.network->input_vswr(p.frequency_hz));
      picture.in_use_words =
          tr("%1: %2").arg(qt_text(frequency_text(frequency_hz_)),
                           qt_text(number_text(part.network->input_vswr(frequency_hz_), 2)));
    } else {
      picture.empty_words =
          tr("The match is one number. Drop a Touchstone file here to see it over frequency.");
    }
  } else if (!is_part) {
    picture.empty_words =
        tr("An instrument ends the chain and loses nothing. Its levels are in the details.");
  } else if (part.gain.is_constant()) {
    picture.y_title = tr("Loss, dB");
    picture.empty_words = tr("One number for every frequency: %1 dB ± %2. Drop a Touchstone file "
                             "here to have its curve.")
                              .arg(qt_text(number_text(-part.gain.largest_db(), 2)),
                                   qt_text(number_text(picture.expanded, 2)));
  } else {
    const bool gains = part.kind == "amplifier";
    picture.y_title = gains ? tr("Gain, dB") : tr("Loss, dB");
    for (const GainPoint& p : part.gain.points())
      picture.points.emplace_back(p.frequency_hz, gains ? p.gain_db : -p.gain_db);
    picture.note =
        (entry.item.curve_name.empty() ? tr("a table")
                                       : tr("from %1").arg(qt_text(entry.item.curve_name))) +
        tr(" · band: ± as known today");
    try {
      const double here = part.gain.at(frequency_hz_, part.name);
      picture.in_use_words = tr("%1: %2 ± %3 dB")
                                 .arg(qt_text(frequency_text(frequency_hz_)),
                                      qt_text(number_text(gains ? here : -here, 2)),
                                      qt_text(number_text(picture.expanded, 2)));
    } catch (const InputError&) {
      picture.in_use_hz.reset();
    }
  }
  curve_->set_picture(picture);
}

void BenchView::show_calibration(const BenchEntry& entry) {
  const BenchItem& item = entry.item;
  const Part& part = item.part;
  const std::string today = utc_now();
  const double expanded = expanded_on(part, today);
  VerdictCardContent card;
  card.where = tr("Calibration");
  const CalibrationState state = calibration_state(part.calibration, today);
  card.word = qt_text(calibration_word(state));
  card.mark.verdict = calibration_verdict(item, today);
  const bool is_part = find_bench_sort(item.sort)->kind != "instrument";
  card.unit = "dB";
  if (is_part) {
    try {
      const double gain = part.gain.at(frequency_hz_, part.name);
      card.value = qt_text(number_text(std::abs(gain), 2));
      card.explanation =
          gain > 0 ? tr("Gain at %1, as known today").arg(qt_text(frequency_text(frequency_hz_)))
                   : tr("Loss at %1, as known today").arg(qt_text(frequency_text(frequency_hz_)));
    } catch (const InputError&) {
      card.value = tr("none");
      card.unit.clear();
      card.explanation = tr("No data at %1").arg(qt_text(frequency_text(frequency_hz_)));
    }
    if (expanded > 0.0) card.uncertainty = qt_text(number_text(expanded, 2));
    card.explanation_short = tr("As known today");
  } else if (part.u_db > 0.0) {
    card.value = QString::fromUtf8("± ") + qt_text(number_text(expanded, 2));
    card.explanation = card.explanation_short = tr("Its level, as known today");
  } else {
    const auto months = months_between(part.calibration.date, today);
    card.value = months ? qt_text(months_text(*months)).section(' ', 0, 0) : tr("none");
    card.unit = months ? qt_text(months_text(*months)).section(' ', 1) : QString();
    card.explanation = card.explanation_short =
        months ? tr("since it was calibrated") : tr("never calibrated");
  }
  const auto left = months_left(part.calibration, today);
  if (left) {
    card.span = *part.calibration.interval_months;
    card.mark.margin = *left;
    card.limit = tr("due in months");
    card.worse = tr("overdue");
    card.better = tr("time left");
    if (*left < 0.0) card.limit = tr("due");
  }
  card.sentence = qt_text(calibration_sentence(part, today));
  card.why = tr("How ageing is estimated");
  calibration_->set_content(card);
}

void BenchView::show_remarks(const BenchEntry& entry) {
  const std::vector<Remark> remarks = bench_remarks(entry.item, used_model_->uses(), utc_now());
  remarks_->set_remarks(remarks);
  remarks_->setVisible(!remarks.empty());
}

}  // namespace heron
