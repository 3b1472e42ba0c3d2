#include "app/table/evidence_model.h"

#include "app/session/step_edits.h"
#include "app/theme/qt_text.h"
#include "core/error.h"
#include "core/method/provisional.h"
#include "core/quantity/format.h"

namespace heron {
void EvidenceModel::set_test(const GeneralTest& t, bool can_edit) {
  // Cells keep their place while one of them is typed into.
  const bool same_shape =
      method_ == t.method && steps_.size() == t.steps.size() && can_edit_ == can_edit;
  if (!same_shape) beginResetModel();
  method_ = t.method;
  steps_ = t.evidence.steps;
  ids_.clear();
  for (const Step& s : t.steps) ids_.push_back(s.id);
  convention_ = t.evidence.convention;
  settings_ = t.evidence.settings;
  doubts_ = t.result.doubts;
  can_edit_ = can_edit;
  if (same_shape)
    emit dataChanged(index(0, 0), index(rowCount() - 1, columnCount() - 1));
  else
    endResetModel();
}

void EvidenceModel::put_block(const QString& what, int row, int column,
                              const std::vector<QStringList>& block) {
  std::vector<TypedCells> typed;
  for (std::size_t i = 0; i < block.size(); ++i) {
    const std::size_t at = static_cast<std::size_t>(row) + i;
    const bool is_new = at >= steps_.size();
    TypedCells to{
        is_new ? 0 : ids_[at], is_new ? tr("step %1").arg(at + 1) : qt_text(steps_[at].label), {}};
    for (int k = 0; k < block[i].size() && column + k < columnCount(); ++k) {
      if (column + k == 0) {
        const QString label = block[i][k].trimmed();
        if (!label.isEmpty()) to.label = label.left(60);
        continue;
      }
      const TypedField& f = field(column + k);
      const QString text =
          qt_text(with_bare_unit(*method_, f, settings_, block[i][k].trimmed().toStdString()));
      try {
        if (!text.isEmpty() && f.kind == TypedField::Kind::reading)
          read_typed(f, text.toStdString(), convention_);
        if (!text.isEmpty() && f.kind == TypedField::Kind::condition)
          condition_typed(f, text.toStdString());
      } catch (const InputError& error) {
        throw InputError(error.subject,
                         tr("row %1, %2").arg(at + 1).arg(qt_text(f.head)).toStdString(),
                         error.reason, error.advice);
      }
      to.cells.push_back({&f, text.toStdString()});
    }
    typed.push_back(std::move(to));
  }
  emit changed(what, typed);
}

std::vector<int> EvidenceModel::widths() const {
  std::vector<int> all{-1};
  for (int c = 1; c < columnCount(); ++c) {
    const bool is_asked = method_->bare_unit == nullptr || !bare_unit(field(c)).isEmpty();
    all.push_back(is_asked ? field(c).width : 0);
  }
  return all;
}

const Reading* EvidenceModel::reading(const QModelIndex& index) const {
  if (!index.isValid() || index.column() == 0 || index.row() >= filled_rows()) return nullptr;
  const TypedField& f = field(index.column());
  if (f.kind != TypedField::Kind::reading) return nullptr;
  return find_reading(steps_[static_cast<std::size_t>(index.row())].readings,
                      std::string(f.quantity), f.role);
}

std::vector<FieldPlace> EvidenceModel::places(const QModelIndexList& cells) const {
  std::vector<FieldPlace> all;
  for (const QModelIndex& at : cells)
    if (reading(at) != nullptr)
      all.push_back({ids_[static_cast<std::size_t>(at.row())], &field(at.column())});
  return all;
}

QString EvidenceModel::doubt(const QModelIndex& index) const {
  if (index.column() == 0) return {};
  const TypedField& f = field(index.column());
  if (f.role != ReadingRole::at) return {};
  QStringList words;
  for (const Doubt& d : doubts_) {
    if (static_cast<int>(d.step) == index.row() && d.quantity == f.quantity)
      words << qt_text(d.text);
  }
  return words.join(QChar(' '));
}

QString EvidenceModel::bare_unit(const TypedField& f) const {
  return method_->bare_unit != nullptr ? qt_text(method_->bare_unit(f, settings_)) : QString();
}

QString EvidenceModel::shown(const TypedField& f, const EvidenceStep& step) const {
  QString typed = qt_text(typed_in(f, step));
  // The head says it.
  if (const QString unit = bare_unit(f); !unit.isEmpty() && typed.endsWith(QChar(' ') + unit))
    typed.chop(unit.size() + 1);
  const Reading* r = f.kind == TypedField::Kind::reading
                         ? find_reading(step.readings, std::string(f.quantity), f.role)
                         : nullptr;
  if (r == nullptr || f.read == nullptr || method_->conventions.empty()) return typed;
  // Typed in the other convention: said, not converted behind one's back.
  QString words = qt_text(number_text(r->value, 1));
  if (r->bound == Bound::upper) words.prepend(QStringLiteral("\u2264 "));
  if (r->is_provisional) words = qt_text(as_rough(words.toStdString()));
  if (r->convention == convention_) return words;
  for (const Convention& c : method_->conventions) {
    if (c.id == r->convention) words += QChar(' ') + qt_text(std::string(c.words));
  }
  return words;
}

QVariant EvidenceModel::data(const QModelIndex& index, int role) const {
  if (role == Qt::ToolTipRole && index.column() > 0) {
    QStringList words{doubt(index), qt_text(field(index.column()).hint)};
    if (const Reading* r = reading(index)) {
      // What was understood, where it is kept in another unit.
      if (field(index.column()).unit == "dBm")
        words << qt_text(number_text(r->value, 2, true)) + QStringLiteral(" dBm");
      if (r->is_provisional) words << tr("Provisional: to be read again");
    }
    words.removeAll(QString());
    return words.join(QChar('\n'));
  }
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::AccessibleTextRole) return {};
  if (index.row() >= filled_rows())
    return index.column() == 0 && role != Qt::EditRole ? tr("a new step") : QString();
  const EvidenceStep& step = steps_[static_cast<std::size_t>(index.row())];
  if (index.column() == 0) return qt_text(step.label);
  const TypedField& f = field(index.column());
  if (role == Qt::EditRole) return qt_text(typed_in(f, step));
  const QString words = shown(f, step);
  return role == Qt::AccessibleTextRole && is_provisional(index) ? tr("%1, provisional").arg(words)
                                                                 : words;
}

bool EvidenceModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole) return false;
  const QString text = value.toString();
  if (text.trimmed() == data(index, Qt::EditRole).toString().trimmed()) return true;
  try {
    const QString of = index.row() < filled_rows()
                           ? qt_text(steps_[static_cast<std::size_t>(index.row())].label)
                           : tr("a new step");
    put_block(tr("reading of %1").arg(of), index.row(), index.column(), {QStringList{text}});
    return true;
  } catch (const InputError& error) {
    emit refused(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
}

QVariant EvidenceModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal || method_ == nullptr) return {};
  if (role == Qt::ToolTipRole) return section > 0 ? qt_text(field(section).hint) : QVariant();
  if (role != Qt::DisplayRole) return {};
  if (section == 0) return qt_text(method_->step_head);
  const TypedField& f = field(section);
  const bool is_open = f.asked == Quantity::level || f.asked == Quantity::frequency ||
                       f.asked == Quantity::duration || f.asked == Quantity::temperature;
  const QString unit = is_open ? bare_unit(f) : QString();
  return unit.isEmpty() ? qt_text(f.head) : qt_text(f.head) + QStringLiteral(", ") + unit;
}

Qt::ItemFlags EvidenceModel::flags(const QModelIndex& index) const {
  if (!index.isValid()) return Qt::NoItemFlags;
  Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
  if (can_edit_) flags |= Qt::ItemIsEditable;
  return flags;
}

}  // namespace heron
