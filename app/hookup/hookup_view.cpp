#include "app/hookup/hookup_view.h"

#include <QHBoxLayout>
#include <QMenu>
#include <algorithm>
#include <cmath>

#include "app/theme/frame.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "app/widget/card.h"
#include "app/widget/caution_card.h"
#include "app/widget/tag.h"
#include "app/widget/words.h"
#include "core/chain/chain_json.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"
#include "store/clock.h"
#include "store/device.h"

namespace heron {
namespace {

Drive usual_drive() {
  Drive drive{to_dbm(Watt{5.0}).value, true, 14.2e6, 12.0};
  drive.typed = "5 W pep";
  return drive;
}

}  // namespace

QString HookupView::source_name() const {
  if (!scene_.chain.source.empty()) return qt_text(scene_.chain.source);
  if (test_ == 0) return tr("Device");
  const Test t = heron::test(session_.shack(), test_);
  return qt_text(
      device(session_.shack(), evaluation(session_.shack(), t.evaluation_id).device_id).name);
}

/// From what the bench has: its first pad and its first sampler.
Chain HookupView::first_chain() const {
  Chain chain;
  std::optional<Part> pad;
  std::optional<Part> end;
  for (const BenchEntry& entry : bench(session_.shack())) {
    if (entry.is_retired) continue;
    if (!pad && (entry.item.sort == "attenuator" || entry.item.sort == "load")) pad = entry.part();
    if (!end && (entry.item.sort == "sampler" || entry.item.sort == "spectrum_analyser" ||
                 entry.item.sort == "power_meter"))
      end = entry.part();
  }
  if (pad) chain.parts.push_back(*pad);
  if (!end) {
    end.emplace();
    end->name = "recorder";
    end->kind = "instrument";
  }
  chain.parts.push_back(*end);
  return chain;
}

void HookupView::open(Id hookup, Id test) {
  flush();
  test_ = test;
  Drive drive = usual_drive();
  if (test != 0) {
    const Test t = heron::test(session_.shack(), test);
    if (t.drive) drive = *t.drive;
    if (hookup == 0) hookup = t.hookup_id;
  }
  if (hookup == 0) {
    const auto all = hookups(session_.shack());
    if (!all.empty()) hookup = all.front().id;
  }
  hookup_ = hookup;
  before_.clear();
  after_.clear();
  if (hookup != 0)
    version_ = latest_version(session_.shack(), hookup);
  else
    version_ = HookupVersion();
  scene_ = HookupScene();
  scene_.chain = hookup != 0 ? version_.chain : first_chain();
  if (auto draft = hookup_draft(session_.shack(), hookup)) {
    before_.push_back(scene_.chain);
    scene_.chain = std::move(*draft);
    emit told(hookup != 0 ? tr("Your draft of %1 is shown; Ctrl Z goes back to version %2")
                                .arg(qt_text(version_.name))
                                .arg(version_.number)
                          : tr("Your draft is shown; Ctrl Z goes back to a new hook-up"));
  }
  scene_.drive = drive;
  scene_.chosen = 1;
  drive_->set_typed(
      qt_text(drive.typed.empty() ? quantity_text(Quantity::level, drive.pep_dbm) : drive.typed),
      true);
  frequency_->set_typed(qt_text(drive.typed_frequency.empty() ? frequency_text(drive.frequency_hz)
                                                              : drive.typed_frequency),
                        true);
  key_down_->set_typed(!drive.key_down_s ? QString()
                       : drive.typed_key_down.empty()
                           ? qt_text(duration_text(*drive.key_down_s)).remove(" min").remove(" h")
                           : qt_text(drive.typed_key_down),
                       true);
  tones_->set_current(drive.is_two_tone ? 1 : 0);
  evaluate();
}

void HookupView::refresh() {
  if (!session_.is_open()) return;
  if (hookup_ != 0) {
    try {
      version_ = latest_version(session_.shack(), hookup_);
    } catch (const InputError&) {
      hookup_ = 0;
    }
  }
  if (!has_draft() && hookup_ != 0) scene_.chain = version_.chain;
  evaluate();
}

void HookupView::evaluate() {
  const std::string today = utc_now();
  follow_source();
  scene_.source = source_name();
  scene_.source_line = scene_.drive.is_two_tone ? tr("two tones") : tr("one tone");
  if (scene_.chain.is_source_in_emf) scene_.source_line += tr(", dial in EMF");
  scene_.chosen = std::clamp(scene_.chosen, 0, scene_.columns() - 1);
  scene_.result.reset();
  scene_.verdicts.clear();
  scene_.swap.reset();
  scene_.trouble.clear();
  const Chain chain = aged(scene_.chain, today);
  try {
    if (recorder_of(chain) == nullptr)
      throw InputError("hook-up", "", "it does not end in an instrument",
                       "Add the sampler or meter at its end with Insert");
    scene_.result = evaluate_chain(chain, scene_.drive);
    for (std::size_t i = 0; i < scene_.result->nodes.size(); ++i)
      scene_.verdicts.push_back(judge_node(chain.parts[i], scene_.result->nodes[i], scene_.drive));
    std::vector<Part> parts;
    for (const BenchEntry& entry : bench(session_.shack())) {
      if (!entry.is_retired) parts.push_back(entry.part());
    }
    scene_.swap = suggest_swap(chain, scene_.drive, parts);
  } catch (const InputError& error) {
    scene_.trouble = qt_text(error.what_happened() + ".\n" + error.advice + ".");
  }
  show_scene();
}

/// A dial in EMF shows twice the volts that reach a match: what is typed means that then.
void HookupView::follow_source() {
  QuantityOptions options = drive_->options();
  if (options.volts_are_emf == scene_.chain.is_source_in_emf) return;
  options.volts_are_emf = scene_.chain.is_source_in_emf;
  drive_->set_options(options);
  // What is being typed and is none is marked there; the last good level stays in force.
  if (const auto dbm = drive_->value()) scene_.drive.pep_dbm = *dbm;
}

void HookupView::primary_action() {
  if (!primary_->isEnabled()) return;
  flush();
  const bool is_draft = is_changed();
  if (hookup_ == 0) {
    ask_new_hookup(scene_.chain);
  } else if (is_draft) {
    const Chain chain = scene_.chain;
    before_.clear();
    after_.clear();
    keep_draft();
    edits_.save_hookup(hookup_, chain);
    emit told(tr("%1 is now version %2").arg(qt_text(version_.name)).arg(version_.number));
  } else if (test_ != 0 && heron::test(session_.shack(), test_).hookup_id != hookup_) {
    edits_.choose_hookup(test_, hookup_);
    edits_.set_drive(test_, scene_.drive);
    evaluate();
  } else if (asks_override_) {
    ask_vouch();
  } else {
    emit back_asked();
  }
}

void HookupView::change(Chain chain, int chosen) {
  before_.push_back(scene_.chain);
  after_.clear();
  scene_.chain = std::move(chain);
  scene_.chosen = chosen;
  evaluate();
  keep_draft();
}

void HookupView::keep_draft() {
  if (session_.shack().is_read_only()) return;
  try {
    if (before_.empty() || !is_changed())
      drop_hookup_draft(session_.shack(), hookup_);
    else
      keep_hookup_draft(session_.shack(), hookup_, scene_.chain);
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

bool HookupView::is_changed() const {
  return hookup_ == 0 || to_json(scene_.chain) != to_json(version_.chain);
}

bool HookupView::undo_draft() {
  if (before_.empty()) return false;
  after_.push_back(scene_.chain);
  scene_.chain = before_.back();
  before_.pop_back();
  evaluate();
  keep_draft();
  return true;
}

bool HookupView::redo_draft() {
  if (after_.empty()) return false;
  before_.push_back(scene_.chain);
  scene_.chain = after_.back();
  after_.pop_back();
  evaluate();
  keep_draft();
  return true;
}

void HookupView::add_part(int after, const Part& part) {
  Chain chain = scene_.chain;
  chain.parts.insert(chain.parts.begin() + after, part);
  change(std::move(chain), after + 1);
}

void HookupView::replace_part(int column, const Part& part) {
  Chain chain = scene_.chain;
  chain.parts[static_cast<std::size_t>(column - 1)] = part;
  change(std::move(chain), column);
}

void HookupView::remove_part(int column) {
  Chain chain = scene_.chain;
  chain.parts.erase(chain.parts.begin() + column - 1);
  change(std::move(chain), std::max(0, column - 1));
}

void HookupView::move_part(int from, int to) {
  Chain chain = scene_.chain;
  const Part part = chain.parts[static_cast<std::size_t>(from - 1)];
  chain.parts.erase(chain.parts.begin() + from - 1);
  chain.parts.insert(chain.parts.begin() + to - 1, part);
  change(std::move(chain), to);
}

void HookupView::apply_swap() {
  if (scene_.swap) change(scene_.swap->chain, static_cast<int>(scene_.swap->first) + 1);
}

void HookupView::choose(int column) {
  scene_.chosen = column;
  band_->update();
  diagram_->set_scene(&scene_);
  table_->choose_row(column);
}

void HookupView::keep_drive() {
  if (test_ != 0 && !session_.refusal(test_)) edits_.set_drive(test_, scene_.drive);
  evaluate();
  emit drive_changed();
}

void HookupView::flush() {
  if (drive_ == nullptr) return;
  for (QuantityField* field : {drive_, frequency_, key_down_}) field->commit();
}

}  // namespace heron
