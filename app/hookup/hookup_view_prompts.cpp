// What the hook-up editor offers and asks; drafts and actions are in hookup_view.cpp.
#include <QHBoxLayout>
#include <QMenu>
#include <algorithm>
#include <cmath>

#include "app/hookup/hookup_view.h"
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

/// What a hook-up is called if nobody says otherwise: the parts that are in it.
QString name_of_parts(const Chain& chain) {
  constexpr int kLongest = 60;
  QStringList names;
  for (const Part& part : chain.parts) names << qt_text(part.name);
  QString name = names.join(", ");
  if (name.size() > kLongest && names.size() > 2)
    name = QObject::tr("%1 to %2, %3 parts").arg(names.front(), names.back()).arg(names.size());
  return name;
}

}  // namespace

void HookupView::fill_part_menu(QMenu* menu, bool is_end,
                                const std::function<void(const Part&)>& take) {
  QString group;
  for (const BenchEntry& entry : bench(session_.shack())) {
    if (entry.is_retired) continue;
    const BenchSort* sort = find_bench_sort(entry.item.sort);
    const bool ends = sort->kind == "instrument";
    if (ends != is_end) continue;
    if (ends && (sort->id == "generator" || sort->id == "supply" || sort->id == "thermometer"))
      continue;
    if (qt_text(sort->group) != group) {
      group = qt_text(sort->group);
      menu->addSection(group);
    }
    QAction* action = menu->addAction(qt_text(entry.item.part.name), this,
                                      [take, part = entry.part()] { take(part); });
    for (const Part& part : scene_.chain.parts) {
      if (part.bench_id == bench_name(entry.id)) action->setEnabled(false);
    }
  }
  if (is_end) {
    menu->addSeparator();
    menu->addAction(tr("The device (driven by a generator)"), this, [this, take] {
      Part end;
      end.kind = "device";
      end.name = test_ != 0 ? source_name().toStdString() : "device";
      if (!scene_.chain.source.empty() && test_ != 0) {
        const Test t = heron::test(session_.shack(), test_);
        end.name =
            device(session_.shack(), evaluation(session_.shack(), t.evaluation_id).device_id).name;
      }
      take(end);
    });
  }
  menu->addSeparator();
  menu->addAction(tr("Something new: open the bench\u2026"), this, &HookupView::bench_asked);
}

void HookupView::fill_which_menu() {
  QMenu* menu = which_->menu();
  menu->clear();
  for (const Hookup& h : hookups(session_.shack()))
    menu->addAction(qt_text(h.name), this, [this, id = h.id] { open(id, test_); });
  menu->addSeparator();
  menu->addAction(tr("A new hook-up\u2026"), this, [this] { ask_new_hookup(first_chain()); });
  menu->addAction(tr("A copy of this one\u2026"), this, [this] { ask_new_hookup(scene_.chain); });
  menu->addAction(tr("What drives it\u2026"), this, &HookupView::ask_source);
  if (hookup_ == 0) return;
  menu->addAction(tr("Rename it\u2026"), this, [this] {
    const auto name = ask(this, tr("Rename the hook-up"), tr("Tests that use it follow."),
                          tr("Name"), qt_text(version_.name), tr("Rename"), [](const QString& s) {
                            return s.isEmpty() ? tr("Type a name.") : QString();
                          });
    if (name) edits_.rename_hookup(hookup_, *name);
  });
  menu->addAction(tr("Remove it"), this,
                  [this] {
                    const Id gone = hookup_;
                    const Id test = test_;
                    edits_.remove_hookup(gone);
                    open(0, test);
                  })
      ->setEnabled(hookup_uses(session_.shack(), hookup_).empty());
  if (test_ != 0 && heron::test(session_.shack(), test_).hookup_id != 0)
    menu->addAction(tr("Remove this test from its hook-up"), this,
                    [this] { edits_.choose_hookup(test_, 0); });
}

/// The device itself, or a generator of the bench with what its dial means.
void HookupView::fill_source_menu(QMenu* menu) {
  menu->addAction(tr("The device"), this, [this] {
    Chain chain = scene_.chain;
    chain.source.clear();
    chain.source_u_db = 0.0;
    chain.is_source_in_emf = false;
    change(std::move(chain), 0);
  });
  for (const BenchEntry& entry : bench(session_.shack())) {
    if (entry.is_retired || entry.item.sort != "generator") continue;
    menu->addAction(qt_text(entry.item.part.name), this, [this, item = entry.item] {
      Chain chain = scene_.chain;
      chain.source = item.part.name;
      chain.source_vswr = item.part.vswr;
      chain.source_u_db =
          std::hypot(item.part.u_db, ageing_u_db(item.part.calibration, item.part.u_db, utc_now()));
      chain.is_source_in_emf = item.level_means == "emf";
      change(std::move(chain), 0);
    });
  }
  menu->addSeparator();
  menu->addAction(tr("Its name and match\u2026"), this, &HookupView::ask_source);
}

void HookupView::ask_source() {
  const auto name =
      ask(this, tr("What drives the chain"),
          tr("The device, or the generator when the chain ends in the device. Its "
             "VSWR, where it is known, behind a comma."),
          tr("Name, VSWR"),
          source_name() + (scene_.chain.source_vswr
                               ? ", " + qt_text(number_text(*scene_.chain.source_vswr, 2))
                               : QString()),
          tr("Use it"), [](const QString& s) -> QString {
            const QString vswr = s.section(',', 1).trimmed();
            if (s.section(',', 0, 0).trimmed().isEmpty()) return tr("Type a name.");
            if (vswr.isEmpty()) return {};
            try {
              parse_quantity(vswr.toStdString(), Quantity::vswr);
              return {};
            } catch (const InputError& error) {
              return qt_text(error.reason + ". " + error.advice + ".");
            }
          });
  if (!name) return;
  Chain chain = scene_.chain;
  chain.source = name->section(',', 0, 0).trimmed().toStdString();
  const QString vswr = name->section(',', 1).trimmed();
  chain.source_vswr = vswr.isEmpty()
                          ? std::nullopt
                          : std::optional(parse_quantity(vswr.toStdString(), Quantity::vswr).value);
  change(chain, scene_.chosen);
}

void HookupView::ask_new_hookup(const Chain& chain) {
  const auto name = ask(
      this, tr("Save the hook-up"), tr("Tests that share it are kept together in the test plan."),
      tr("Name"), name_of_parts(chain), tr("Save it"),
      [](const QString& s) { return s.isEmpty() ? tr("Type a name.") : QString(); });
  if (!name) return;
  const Id id = edits_.add_hookup(*name, chain);
  if (id == 0) return;
  before_.clear();
  after_.clear();
  keep_draft();
  const Id test = test_;
  if (test != 0 && heron::test(session_.shack(), test).hookup_id == 0) {
    edits_.choose_hookup(test, id);
    edits_.set_drive(test, scene_.drive);
  }
  open(id, test);
}

void HookupView::ask_vouch() {
  QString what = scene_.result ? QString() : tr("It cannot be calculated. ");
  if (scene_.result) {
    for (const Remark& remark : scene_.result->remarks) {
      if (remark.code == "overload") what += qt_text(remark.text) + " ";
    }
  }
  const auto why =
      ask(this, tr("Override: your name and the reason"),
          what + tr("This goes into the record of the test and of the device."), tr("Name: reason"),
          {}, tr("Override"), [](const QString& s) {
            return s.section(':', 0, 0).trimmed().isEmpty() || s.section(':', 1).trimmed().isEmpty()
                       ? tr("Type a name, a colon and the reason.")
                       : QString();
          });
  if (!why) return;
  Vouched vouched;
  vouched.by = why->section(':', 0, 0).trimmed().toStdString();
  vouched.why = why->section(':', 1).trimmed().toStdString();
  vouched.pep_dbm = scene_.drive.pep_dbm;
  vouched.version_id = version_.id;
  if (edits_.vouch_for(test_, vouched)) show_title();
}

}  // namespace heron
