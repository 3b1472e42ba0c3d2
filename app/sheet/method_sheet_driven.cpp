// What the tested device drives, and what a plot or a proposal sets, on the sheet of a method; the
// rest of it is in method_sheet.cpp.
#include <cmath>

#include "app/session/test_edits.h"
#include "app/sheet/method_sheet.h"
#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/quantity/format.h"
#include "core/quantity/levels.h"

namespace heron {

void MethodSheet::refresh_convention(const GeneralTest& t) {
  const auto& all = t.method->conventions;
  QStringList words;
  for (const Convention& c : all) words << qt_text(std::string(c.words));
  if (words.isEmpty()) return;
  convention_->set_choices(words);
  for (std::size_t i = 0; i < all.size(); ++i) {
    if (all[i].id == t.evidence.convention) convention_->set_current(static_cast<int>(i));
  }
}

void MethodSheet::refresh_driving(const GeneralTest& t) {
  driving_->set_value(t.evidence.driven ? qt_text(t.evidence.driven->name) : tr("nothing"));
}

/// Tests of the same kind of other devices can stand behind this one. Looked for only when somebody
/// asks: that reads the whole shack.
void MethodSheet::fill_driving() {
  QMenu* menu = driving_->menu();
  menu->clear();
  if (session_.general() == nullptr) return;
  const GeneralTest& t = *session_.general();
  menu->addAction(tr("nothing"), this, [this] { TestEdits(session_).set_driving(0, 0); });
  if (t.evidence.driven && t.method->for_output != nullptr)
    menu->addAction(tr("How much for a wanted output\u2026"), this,
                    &MethodSheet::ask_wanted_output);
  for (const Device& d : devices(session_.shack())) {
    for (const Evaluation& e : evaluations(session_.shack(), d.id)) {
      std::vector<Test> others;
      for (const Test& other : tests(session_.shack(), e.id)) {
        if (other.id != t.test.id && other.characteristic == t.test.characteristic)
          others.push_back(other);
      }
      if (others.empty() || e.id == t.test.evaluation_id) continue;
      QMenu* sub = menu->addMenu(qt_text(d.name + ", " + e.title));
      for (const Test& other : others) {
        sub->addAction(tr("%1, measured alone").arg(qt_text(other.title)), this,
                       [this, id = other.id, pair = t.test.pair_test_id] {
                         TestEdits(session_).set_driving(id, pair == id ? 0 : pair);
                       });
        sub->addAction(tr("%1, measured as the pair").arg(qt_text(other.title)), this,
                       [this, id = other.id, alone = t.test.amplifier_test_id] {
                         TestEdits(session_).set_driving(alone, id);
                       });
      }
    }
  }
}

void MethodSheet::set_proposal(const SettingProposal& proposal) {
  for (const SettingField& field : session_.general()->method->settings) {
    if (field.key != proposal.key) continue;
    nlohmann::json changed = {{proposal.key, proposal.value}};
    if (!field.typed_key.empty()) changed[std::string(field.typed_key)] = proposal.typed;
    set_setting(field, changed);
    return;
  }
}

void MethodSheet::add_proposals(QMenu* menu, const SettingField& field) {
  for (const SettingProposal& p : session_.general()->result.setting_proposals) {
    if (p.key != field.key) continue;
    menu->addAction(qt_text(p.words), this, [this, p] { set_proposal(p); });
  }
}

/// As if somebody had typed where the handle stands now.
void MethodSheet::move_handle(const QString& key, const QString& typed) {
  for (const SettingField& field : session_.general()->method->settings) {
    if (field.key != key.toStdString()) continue;
    const std::string words = typed.toStdString();
    set_proposal({std::string(field.key), parsed_setting(field, words), words, {}});
    return;
  }
}

void MethodSheet::ask_wanted_output() {
  const GeneralTest* t = session_.general();
  if (t == nullptr || !t->evidence.driven) return;
  QuantityOptions options;
  options.default_unit = "W";
  options.is_two_tone = true;
  const auto asked =
      ask_quantity(this, tr("Out of %1").arg(qt_text(t->evidence.driven->name)),
                   tr("What the exciter has to give for an output of the amplifier, "
                      "and how clean both are then."),
                   tr("Wanted output, PEP"), tr("55 W"), tr("Calculate"), Quantity::level, options);
  t = session_.general();
  if (!asked || t == nullptr) return;
  try {
    const SettingProposal found = t->method->for_output(t->evidence, asked->value);
    set_proposal(found);
    emit told(qt_text(found.words));
  } catch (const InputError& error) {
    emit failed(qt_text(error.what_happened()), qt_text(error.advice));
  }
}

}  // namespace heron
