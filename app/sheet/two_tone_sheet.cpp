#include "app/sheet/two_tone_sheet.h"

#include <QDragEnterEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QResizeEvent>
#include <QStackedWidget>
#include <QTimer>

#include "app/live/live_ladder.h"
#include "app/live/look_view.h"
#include "app/sheet/ladder_picture.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/caution_card.h"
#include "core/error.h"
#include "core/method/two_tone/two_tone_trace.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "core/quantity/parse_quantity.h"
#include "report/spectrum_picture.h"

namespace heron {

QString TwoToneSheet::shown_convention() const {
  const TwoToneTest* t = session_.two_tone();
  return t == nullptr || t->test.convention.empty() ? QString(kRePep) : qt_text(t->test.convention);
}

const TwoToneAnalysis* TwoToneSheet::chosen_analysis() const {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || step_ < 0 || step_ >= static_cast<int>(t->analyses.size())) return nullptr;
  const auto& a = t->analyses[static_cast<std::size_t>(step_)];
  return a ? &*a : nullptr;
}

void TwoToneSheet::refresh() {
  const TwoToneTest* t = session_.two_tone();
  if (session_.test_id() != shown_test_) {
    shown_test_ = session_.test_id();
    chosen_product_.reset();
    compared_ = -1;
    step_ = t == nullptr ? 0 : static_cast<int>(t->headline_step().value_or(0));
  }
  if (t != nullptr)
    step_ = std::clamp(step_, 0, std::max(0, static_cast<int>(t->steps.size()) - 1));
  refresh_title(t);
  refresh_limit_menu(t);
  const bool is_pep = shown_convention() == kRePep;
  convention_->set_current(is_pep ? 1 : 0);
  if (t != nullptr) {
    ladder_model_->set_test(*t, shown_convention());
    ladder_table_->choose_row(step_);
  }
  product_model_->set_analysis(chosen_analysis());
  if (chosen_product_)
    product_table_->choose_row(
        product_model_->row_of(chosen_product_->first, chosen_product_->second));
  refresh_plot(t);
  refresh_verdict(t);
  readings_->set_test(t, step_, session_.is_open() && session_.shack().is_read_only());
  if (t != nullptr)
    readings_grid_->readings()->set_test(*t, shown_convention(), !session_.refusal(t->test.id));
  refresh_more_menu(t);
  refresh_driving_menu(t);
  lay_out_controls();
  refresh_ladder(t);
  refresh_remarks(t);
}

void TwoToneSheet::refresh_title(const TwoToneTest* t) {
  refresh_head();
  StripContent strip;
  strip.test = t;
  strip.step = static_cast<std::size_t>(std::max(0, step_));
  if (t != nullptr && strip.step < t->steps.size()) {
    strip.output = t->outputs[strip.step];
    strip.is_output_typed = t->steps[strip.step].output.has_value();
    const auto& a = t->analyses[strip.step];
    strip.is_taken = a.has_value();
    if (a && a->capture.frames > 0 && a->window != kAnalyserWindow)
      strip.recorder = RecorderLoad{a->peak_dbfs, a->clipped_samples};
  }
  strip_->set_step(device_name(), strip);
}

QString TwoToneSheet::add_words() const {
  const TwoToneTest* t = session_.two_tone();
  if (t == nullptr || t->steps.empty()) return tr("Add a recording");
  return tr("Add a recording for %1").arg(qt_text(t->steps[static_cast<std::size_t>(step_)].label));
}

void TwoToneSheet::refresh_plot(const TwoToneTest* t) {
  const TwoToneAnalysis* a = chosen_analysis();
  if (a == nullptr) {
    plot_->set_empty(
        t == nullptr         ? tr("Choose a test in the test plan, or add one.")
        : !t->may_be_keyed() ? tr("Nothing is measured through a hook-up that is over its ratings.")
        : may_take_live()
            ? tr("Nothing measured yet: Ctrl Return measures all steps with the instruments.")
            : tr("No recording at this step: drop a WAV, SigMF or CSV file here."),
        t == nullptr ? std::nullopt : t->test.limit, shown_convention());
    return;
  }
  if (a->spectrum.y.empty()) {
    plot_->set_empty(tr("Typed readings have no spectrum: see Over power."), t->test.limit,
                     shown_convention());
    return;
  }
  SpectrumPicture picture = spectrum_picture(*a, shown_convention().toStdString(), t->test.limit);
  plot_->set_picture(picture);
  plot_->highlight(chosen_product_);
}

Sheet::ShownPart TwoToneSheet::shown_part() const {
  const TwoToneAnalysis* a = chosen_analysis();
  const bool is_spectrum = plots_->currentWidget() == plot_;
  return {a != nullptr && a->parts && is_spectrum ? &*a->parts : nullptr, step_};
}

void TwoToneSheet::refresh_verdict(const TwoToneTest* t) {
  std::optional<VerdictCardContent> content;
  if (is_ladder() && t != nullptr) content = ceiling_verdict(*t, shown_convention());
  verdict_->set_content(content ? *content : step_verdict(t, step_, shown_convention(), compared_));
}

void TwoToneSheet::refresh_ladder(const TwoToneTest* t) {
  pair_->setVisible(false);
  // While a ladder is taken its own card needs the room.
  readings_->setVisible(!is_ladder() && !live_->is_running());
  if (t == nullptr || !is_ladder()) return;
  ladder_plot_->set_picture(
      ladder_picture(*t, shown_convention(), step_, !session_.refusal(t->test.id)));
  std::optional<double> at = t->ladder_settings.ceiling_dbm;
  if (!at && !t->outputs.empty() && t->outputs[static_cast<std::size_t>(step_)])
    at = t->outputs[static_cast<std::size_t>(step_)]->value;
  pair_->set_test(t, at);
}

void TwoToneSheet::refresh_remarks(const TwoToneTest* t) {
  std::vector<Remark> remarks;
  const TwoToneAnalysis* a = chosen_analysis();
  if (a != nullptr && !is_ladder()) remarks = a->remarks;
  if (t != nullptr) {
    const auto add = [&](const std::vector<Remark>& more) {
      remarks.insert(remarks.end(), more.begin(), more.end());
    };
    if (is_ladder() || a == nullptr)
      add(ladder_remarks(t->ladder.remarks, ladder_advice(*t)));
    else
      add(t->ladder.remarks);
    add(plan_remarks());
    for (const ReadingDoubt& d : t->doubts)
      remarks.push_back({"doubt", Severity::caution, t->steps[d.step].label + ": " + d.text, ""});
  }
  sort_remarks(remarks);
  remarks_->set_remarks(remarks);
  remarks_->setVisible(a != nullptr || !remarks.empty());
  refresh_caution();
}

void TwoToneSheet::compare_with(int step) {
  compared_ = step;
  refresh_verdict(session_.two_tone());
}

void TwoToneSheet::live_changed() {
  readings_->setVisible(!is_ladder() && !live_->is_running());
}

void TwoToneSheet::show_view(View view) {
  view_->set_current(static_cast<int>(view));
  plots_->setCurrentIndex(static_cast<int>(view));
  if (view == View::ladder) show_table(Table::steps);
  if (view == View::live) look_->refresh();
  lay_out_controls();
  refresh();
}

void TwoToneSheet::set_ceiling(std::optional<double> dbm, const QString& typed) {
  LadderSettings ladder = session_.two_tone()->ladder_settings;
  ladder.ceiling_dbm = dbm;
  ladder.ceiling_typed = typed.toStdString();
  session_.set_ladder_settings(tr("power ceiling"), ladder);
}

void TwoToneSheet::choose_step(int step) {
  if (step == step_) return;
  flush();
  step_ = step;
  chosen_product_.reset();
  refresh();
}

void TwoToneSheet::show_table(Table table) {
  which_table_->set_current(static_cast<int>(table));
  tables_->setCurrentIndex(static_cast<int>(table));
}

void TwoToneSheet::choose_product(int order, bool upper) {
  chosen_product_ = std::pair{order, upper};
  plot_->highlight(chosen_product_);
  product_table_->choose_row(product_model_->row_of(order, upper));
}

void TwoToneSheet::lay_out_controls() {
  const int total = window()->width();
  relative_words_->setVisible(total >= 1600);
  table_words_->setVisible(total >= 1520 && !is_ladder());
  controls_->setSpacing(total < 1200 ? 2 : total < 1440 ? 5 : 8);
  controls_->setContentsMargins(total < 1200 ? 8 : 19, 2, total < 1200 ? 6 : 19, 14);
  for (QWidget* w : {static_cast<QWidget*>(driving_), static_cast<QWidget*>(ceiling_)})
    w->setVisible(is_ladder());
  driving_->show_label(total >= 1200);
  which_table_->setVisible(!is_ladder());
  more_->setVisible(!is_ladder() && total >= 1200);
  // Their values matter more than the name of what is driven.
  for (Chip* chip : {limit_, ceiling_})
    chip->setMinimumWidth(std::min(chip->sizeHint().width(), 180));
}

void TwoToneSheet::resizeEvent(QResizeEvent* event) {
  QWidget::resizeEvent(event);
  const int total = window()->width();
  const bool is_narrow = total < 1200;
  lay_out_controls();
  // What has no room is in the row's tool tip and in what is copied.
  if (is_narrow)
    ladder_table_->set_columns({122, 72, 62, 62, 0, 0, 98, -1, 111});
  else
    ladder_table_->set_columns({142, 74, 64, 64, 66, total < 1440 ? 0 : 66, 106, -1, 112});
  right_->setFixedWidth(right_column_width(total));
}

}  // namespace heron
