// The row of controls above the plot: what has room there; the rest of the sheet is in
// method_sheet.cpp.
#include <algorithm>

#include "app/sheet/method_sheet.h"
#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/words.h"

namespace heron {
namespace {

constexpr int kNarrowPx = 1200;
constexpr int kWideSheetPx = 1440;
constexpr int kRoomyPx = 1900;

}  // namespace

/// What has no room is in menus.
void MethodSheet::arrange_controls(const GeneralTest& t, bool is_narrow) {
  const Method& m = *t.method;
  const int total = window()->width();
  controls_->setSpacing(is_narrow ? 2 : total < kWideSheetPx ? 5 : 8);
  controls_->setContentsMargins(is_narrow ? 8 : 19, 2, is_narrow ? 6 : 19, 14);
  const auto belongs = [&](std::string_view its) {
    return (its.empty() || its == view().toStdString()) && !is_live_view();
  };
  const auto setting = std::find_if(m.settings.begin(), m.settings.end(),
                                    [](const SettingField& f) { return !f.is_evidence; });
  settings_->setVisible(setting != m.settings.end() && belongs(setting->view));
  driving_->setVisible(!m.driven_view.empty() && belongs(m.driven_view));
  driving_->show_label(!is_narrow);
  limit_->setVisible(m.limit != nullptr || m.mask != nullptr);
  const bool judges_cells = results_->table().has_two_lines() && results_->rows_in_all() > 0;
  shown_rows_->setVisible(judges_cells);
  row_count_->setVisible(judges_cells && shown_rows_->current() > 0);
  switch_->setVisible(is_switch_wanted() && !is_narrow);
  convention_->setVisible(!m.conventions.empty());
  // Beside what is driven there is no room for them.
  const bool is_full = driving_->isVisibleTo(this) && total < kRoomyPx;
  const bool has_many_views = is_narrow && t.result.views.size() > 2;
  const bool is_crowded = has_many_views || (is_narrow && !m.conventions.empty());
  for (Chip* chip : {limit_, settings_}) chip->show_label(!has_many_views);
  more_->show_label(true);
  more_->setVisible(!is_full && !is_crowded);
  below_->setVisible(!is_full && below_of(t).words.size() > 1);
  if (is_full && is_grid_shown()) show_below(0);
}

/// What has no room is in menus, tool tips and in what is copied.
void MethodSheet::lay_out_controls() {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return;
  const int total = window()->width();
  // They are given their width only after this: it is what the right column leaves.
  const int room = width() - right_column_width(total) - 16;
  const auto is_too_wide = [&] {
    controls_->invalidate();
    return controls_->minimumSize().width() > room || controls_->sizeHint().width() > room;
  };
  Segmented* const choices[] = {views_, shown_rows_, switch_, convention_, below_};
  for (Segmented* choice : choices) choice->set_tight(false);
  arrange_controls(*t, total < kNarrowPx);
  if (is_too_wide()) arrange_controls(*t, true);
  if (is_too_wide())
    for (Segmented* choice : choices) choice->set_tight(true);
  // What a value means is in its tool tip, too.
  if (is_too_wide())
    for (Chip* chip : {limit_, settings_, more_}) chip->show_label(false);
  for (Chip* chip : {limit_, settings_})
    chip->setMinimumWidth(std::min(chip->sizeHint().width(), 180));
}

const SettingField* MethodSheet::switched() const {
  const GeneralTest* t = session_.general();
  if (t == nullptr) return nullptr;
  for (const SettingField& field : t->method->settings)
    if (field.is_switch) return &field;
  return nullptr;
}

void MethodSheet::show_switch(const GeneralTest& t) {
  const SettingField* field = switched();
  if (field == nullptr) return;
  QStringList words;
  for (const SettingChoice& c : field->choices) words << qt_text(std::string(c.words));
  switch_->set_choices(words);
  switch_->setAccessibleName(qt_text(std::string(field->head)));
  switch_->setToolTip(qt_text(std::string(field->hint)));
  const nlohmann::json kept = setting(*field);
  for (std::size_t i = 0; i < field->choices.size(); ++i)
    if (kept.is_string() && kept.get<std::string>() == field->choices[i].id)
      switch_->set_current(static_cast<int>(i));
  switch_->setEnabled(!session_.refusal(t.test.id));
}

void MethodSheet::choose_switch(int which) {
  const SettingField* field = switched();
  if (field == nullptr || which < 0 || which >= static_cast<int>(field->choices.size())) return;
  set_setting(*field, {{std::string(field->key),
                        std::string(field->choices[static_cast<std::size_t>(which)].id)}});
}

}  // namespace heron
