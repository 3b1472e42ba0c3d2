#include "app/bench/item_form.h"

#include <QGridLayout>
#include <QLabel>
#include <QMenu>
#include <QStyle>

#include "app/theme/qt_text.h"
#include "app/theme/role.h"
#include "app/widget/words.h"
#include "core/error.h"

namespace heron {
namespace {

QString choice_words(const std::string& choice) {
  if (choice == "emf") return QObject::tr("EMF, open circuit");
  if (choice == "pd") return QObject::tr("PD, at the terminals");
  if (choice == "dbm") return QObject::tr("dBm into a match");
  return choice.empty() ? QObject::tr("not stated") : qt_text(choice);
}

/// Grey in an empty field: nothing is taken for a fact.
QString usual_words(const std::string& sort, const std::string& key) {
  const std::string usual(usual_text(sort, key));
  return usual.empty() ? QString() : QObject::tr("usual: %1").arg(qt_text(usual));
}

}  // namespace

ItemForm::ItemForm(QWidget* parent) : QScrollArea(parent) {
  setWidgetResizable(true);
  setFrameShape(QFrame::NoFrame);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  set_role(this, QAccessible::Grouping);
  setAccessibleName(tr("Details"));
}

void ItemForm::build(const std::string& sort) {
  sort_ = sort;
  lines_.clear();
  auto* box = new QWidget;
  auto* grid = new QGridLayout(box);
  grid->setContentsMargins(19, 14, 19, 14);
  grid->setHorizontalSpacing(10);
  grid->setVerticalSpacing(4);
  grid->setColumnMinimumWidth(0, 150);
  grid->setColumnStretch(2, 1);
  int row = 0;
  for (const BenchField& field : bench_fields(sort)) {
    Line line;
    line.field = field;
    const QString key = qt_text(field.key);
    const QString label = qt_text(field.label);
    grid->addWidget(new Words(label, Type::control, Tone::mute), row, 0,
                    Qt::AlignLeft | Qt::AlignVCenter);
    if (field.quantity) {
      line.number = new QuantityField(label, *field.quantity, QuantityField::inline_box);
      line.number->edit()->setFixedWidth(150);
      line.number->set_placeholder(usual_words(sort, field.key));
      grid->addWidget(line.number, row, 1);
      if (field.key == "gain_db")
        line.number->set_reader([](const QString& text) -> QString {
          BenchItem trial =
              made_item("amplifier");  // may have any gain; the part itself is checked on entry
          set_field(trial, bench_fields("amplifier")[2], text.toStdString());
          if (trial.part.gain.is_constant())
            return qt_text(parse_quantity(text.toStdString(), Quantity::gain).understood);
          return tr("= a table of %1 points").arg(trial.part.gain.points().size());
        });
      connect(line.number, &QuantityField::entered, this,
              [this, field](const QString& typed, double) { try_enter(field, typed); });
      connect(line.number, &QuantityField::cleared, this, [this, field] { try_enter(field, {}); });
    } else if (!field.choices.empty()) {
      line.choice = new Chip({});
      for (const std::string& choice : field.choices)
        line.choice->menu()->addAction(choice_words(choice), this, [this, field, choice] {
          try_enter(field, qt_text(choice));
        });
      line.choice->menu()->addAction(choice_words({}), this,
                                     [this, field] { try_enter(field, {}); });
      grid->addWidget(line.choice, row, 1, Qt::AlignLeft);
    } else {
      line.text = new QLineEdit;
      line.text->setFixedHeight(26);
      line.text->setMinimumWidth(260);
      line.text->setFont(type_font(Type::body));
      line.text->setAccessibleName(label);
      grid->addWidget(line.text, row, 1);
      connect(line.text, &QLineEdit::editingFinished, this, [this, field, edit = line.text] {
        if (edit->isModified()) try_enter(field, edit->text().trimmed());
      });
    }
    auto* hint = new Words(qt_text(field.hint), Type::label, Tone::mute);
    hint->setWordWrap(true);
    grid->addWidget(hint, row, 2);
    auto* complaint = new Words({}, Type::label);
    complaint->setProperty("complaint", true);
    complaint->hide();
    grid->addWidget(complaint, row + 1, 1, 1, 2);
    line.complaint = complaint;
    lines_.emplace(key, line);
    row += 2;
  }
  grid->setRowStretch(row, 1);
  setWidget(box);
  // A scroll area fills what it is given: the sheet shall show through.
  box->setAutoFillBackground(false);
  viewport()->setAutoFillBackground(false);
}

void ItemForm::set_item(const BenchItem& item, long long id, bool read_only) {
  const bool is_other = id != id_;
  item_ = item;
  id_ = id;
  if (item.sort != sort_) build(item.sort);
  for (auto& [key, line] : lines_) {
    const QString text = qt_text(field_text(item, line.field));
    if (line.number != nullptr) {
      line.number->set_typed(text, is_other);
      line.number->setEnabled(!read_only);
      if (key == "gain_db" && !item.part.gain.is_constant())
        line.number->set_placeholder(item.curve_name.empty() ? tr("a table")
                                                             : qt_text(item.curve_name));
      else
        line.number->set_placeholder(usual_words(item.sort, line.field.key));
    } else if (line.choice != nullptr) {
      line.choice->set_value(choice_words(field_text(item, line.field)));
      line.choice->setEnabled(!read_only);
    } else if (is_other || !line.text->hasFocus() || !line.text->isModified()) {
      line.text->setText(text);
      line.text->setModified(false);
      line.text->setReadOnly(read_only);
    }
    if (is_other) line.complaint->hide();
  }
}

void ItemForm::try_enter(const BenchField& field, const QString& typed) {
  Line& line = lines_.at(qt_text(field.key));
  BenchItem changed = item_;
  try {
    set_field(changed, field, typed.toStdString());
  } catch (const InputError& error) {
    line.complaint->setText(qt_text(error.reason + ". " + error.advice + "."));
    line.complaint->show();
    QLineEdit* edit = line.number != nullptr ? line.number->edit() : line.text;
    if (edit != nullptr) {
      edit->setProperty("invalid", true);
      edit->style()->unpolish(edit);
      edit->style()->polish(edit);
    }
    return;
  }
  line.complaint->hide();
  if (line.text != nullptr) {
    line.text->setModified(false);
    line.text->setProperty("invalid", false);
    line.text->style()->unpolish(line.text);
    line.text->style()->polish(line.text);
  }
  emit entered(qt_text(field.key), typed);
}

void ItemForm::flush() {
  for (auto& [key, line] : lines_) {
    if (line.number != nullptr) line.number->commit();
    if (line.text != nullptr && line.text->isModified())
      try_enter(line.field, line.text->text().trimmed());
  }
}

QLineEdit* ItemForm::edit(const QString& key) const {
  const auto found = lines_.find(key);
  if (found == lines_.end()) return nullptr;
  return found->second.number != nullptr ? found->second.number->edit() : found->second.text;
}

QString ItemForm::complaint(const QString& key) const {
  const auto found = lines_.find(key);
  return found == lines_.end() || found->second.complaint->isHidden()
             ? QString()
             : found->second.complaint->text();
}

}  // namespace heron
