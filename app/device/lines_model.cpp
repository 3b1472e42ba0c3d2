#include "app/device/lines_model.h"

#include <QLineEdit>
#include <QPainter>
#include <QTableView>

#include "app/paint/age_text.h"
#include "app/paint/figure_text.h"
#include "app/paint/verdict_mark.h"
#include "app/theme/fonts.h"
#include "app/theme/qt_text.h"
#include "app/widget/completion.h"
#include "core/error.h"
#include "core/method/specification.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

QString characteristic_words(const std::string& id) {
  const Characteristic* c = find_characteristic(id);
  return qt_text(c == nullptr ? id : std::string(c->test));
}

/// By this line where the figure is told alike, else nothing is judged.
std::optional<Judgement> judged(const KnownFigure& known, Limit limit) {
  if (known.headline.figure.unit != limit.unit) return known.headline.judgement;
  if (!limit.convention.empty() && limit.convention != known.headline.figure.convention)
    return known.headline.judgement;
  limit.convention = known.headline.figure.convention;
  return judge(known.headline.figure, limit);
}

bool is_provisional(const LinesModel::Line& line) {
  return line.known && line.known->headline.is_provisional;
}

const KnownFigure* latest(const std::vector<KnownFigure>& figures, const std::string& id) {
  const auto found = std::find_if(figures.begin(), figures.end(),
                                  [&](const KnownFigure& k) { return k.characteristic == id; });
  return found == figures.end() ? nullptr : &*found;
}

}  // namespace

Verdict LinesModel::Line::verdict() const {
  if (!judgement) return Verdict::not_taken;
  return is_out_of_date ? Verdict::stale : judgement->verdict;
}

void LinesModel::set_device(const Device& device, const std::vector<KnownFigure>& figures,
                            const std::vector<KnownFigure>& before, Rows rows, bool can_edit) {
  beginResetModel();
  if (device.id != device_.id) draft_.clear();
  device_ = device;
  can_edit_ = can_edit;
  all_.clear();
  lines_.clear();
  for (std::size_t i = 0; i < device.specification.size(); ++i) {
    Line line{device.specification[i], i, {}, {}, {}, false};
    if (const KnownFigure* known = latest(figures, line.line.characteristic)) {
      line.known = *known;
      line.judgement = judged(*known, line.line.limit);
      // What somebody found good enough is so for the line it was judged by.
      if (known->headline.judgement.verdict == Verdict::accepted)
        line.judgement = known->headline.judgement;
      line.is_out_of_date = is_out_of_date(known->headline.taken_at);
    }
    if (const KnownFigure* then = latest(before, line.line.characteristic))
      if (const auto judgement = judged(*then, line.line.limit)) line.before = judgement->margin;
    all_.push_back(line);
    const Verdict v = line.verdict();
    if (rows == Rows::all || (rows == Rows::failing && v == Verdict::fail) ||
        (rows == Rows::due && (v == Verdict::stale || v == Verdict::not_taken)))
      lines_.push_back(line);
  }
  endResetModel();
}

/// One cell of a line that is there; an empty characteristic takes it away.
void LinesModel::put(int row, int column, const QString& text, std::vector<SpecLine>& lines) {
  SpecLine& line = lines[lines_[static_cast<std::size_t>(row)].index];
  const std::string typed = text.trimmed().toStdString();
  if (column == kCharacteristic) {
    if (typed.empty()) {
      line.characteristic.clear();
      return;
    }
    const Characteristic* c = named_characteristic(typed);
    if (c == nullptr)
      throw InputError("characteristic", typed, "no test is about this, or more than one",
                       "Type the beginning of a name, such as Output or Sensitivity");
    if (c->id == line.characteristic) return;
    throw InputError("characteristic", typed, "the limit of this line is of another kind",
                     "Add a line for it, and empty this one to remove it");
  } else if (column == kLimit) {
    const std::string source = line.limit.name;
    line.limit = spec_limit(line.characteristic, typed);
    line.limit.name = source;
  } else if (column == kCondition) {
    line.condition = typed;
  } else if (column == kSource) {
    line.limit.name = typed;
  }
}

void LinesModel::put_block(const QString& what, int row, int column,
                           const std::vector<QStringList>& block) {
  std::vector<SpecLine> lines = device_.specification;
  bool is_changed = false;
  for (std::size_t i = 0; i < block.size(); ++i) {
    const int at = row + static_cast<int>(i);
    if (at < static_cast<int>(lines_.size())) {
      for (int k = 0; k < block[i].size() && column + k <= kSource; ++k) {
        put(at, column + k, block[i][k], lines);
        is_changed = true;
      }
      continue;
    }
    // A new line: its characteristic first, all of it where more was pasted.
    std::string of = draft_;
    int k = 0;
    if (column == kCharacteristic) {
      const std::string typed = block[i][0].trimmed().toStdString();
      if (typed.empty()) {
        beginResetModel();
        draft_.clear();
        endResetModel();
        continue;
      }
      const Characteristic* c = named_characteristic(typed);
      if (c == nullptr)
        throw InputError("characteristic", typed, "no test is about this, or more than one",
                         "Type the beginning of a name, such as Output or Sensitivity");
      of = c->id;
      k = 1;
    }
    if (of.empty()) throw InputError("line", "", "it has no characteristic yet", "Type that first");
    if (block[i].size() <= k) {
      beginResetModel();
      draft_ = of;
      endResetModel();
      emit begun(static_cast<int>(lines_.size()));
      continue;
    }
    SpecLine line{of, spec_limit(of, block[i][k].trimmed().toStdString()), {}};
    if (block[i].size() > k + 1) line.condition = block[i][k + 1].trimmed().toStdString();
    line.limit.name =
        block[i].size() > k + 2 ? block[i][k + 2].trimmed().toStdString() : std::string("own wish");
    lines.push_back(std::move(line));
    draft_.clear();
    is_changed = true;
  }
  std::erase_if(lines, [](const SpecLine& line) { return line.characteristic.empty(); });
  if (is_changed) emit changed(what, lines);
}

QVariant LinesModel::data(const QModelIndex& index, int role) const {
  if (role != Qt::DisplayRole && role != Qt::EditRole && role != Qt::AccessibleTextRole &&
      role != Qt::ToolTipRole)
    return {};
  if (is_draft(index.row())) {
    if (index.column() == kCharacteristic) return characteristic_words(draft_);
    const auto field = spec_field(draft_);
    return index.column() == kLimit && role != Qt::EditRole && field
               ? tr("type it, such as %1").arg(qt_text(field->example))
               : QString();
  }
  if (index.row() >= filled_rows())
    return index.column() == 0 && role != Qt::EditRole ? tr("a new line") : QString();
  const Line& line = lines_[static_cast<std::size_t>(index.row())];
  switch (index.column()) {
    case kCharacteristic:
      return characteristic_words(line.line.characteristic);
    case kLimit:
      return role == Qt::EditRole && !line.line.limit.typed.empty()
                 ? qt_text(line.line.limit.typed)
                 : qt_text(spec_text(line.line.limit));
    case kCondition:
      return qt_text(line.line.condition);
    case kSource:
      return qt_text(line.line.limit.name);
    case kFigure:
      return line.known ? qt_text(figure_cell(line.known->headline.figure, 1)) : QString();
    case kMargin:
      return line.judgement ? qt_text(number_text(line.judgement->margin, 1, true)) : QString();
    case kVerdict: {
      if (spec_field(line.line.characteristic) == std::nullopt && !line.known) return tr("no test");
      // A provisional one is hollow, which words have to say, too.
      const QString word =
          qt_text(verdict_word(line.verdict(), role != Qt::DisplayRole && is_provisional(line)));
      return role == Qt::ToolTipRole && line.known
                 ? word + ", " + age_text(line.known->headline.taken_at)
                 : word;
    }
    default:
      return {};
  }
}

bool LinesModel::setData(const QModelIndex& index, const QVariant& value, int role) {
  if (role != Qt::EditRole) return false;
  const QString text = value.toString();
  if (text.trimmed() == data(index, Qt::EditRole).toString().trimmed()) return true;
  try {
    put_block(tr("specification of %1").arg(qt_text(device_.name)), index.row(), index.column(),
              {QStringList{text}});
    return true;
  } catch (const InputError& error) {
    emit refused(qt_text(error.what_happened()), qt_text(error.advice));
    return false;
  }
}

QVariant LinesModel::headerData(int section, Qt::Orientation orientation, int role) const {
  if (orientation != Qt::Horizontal) return {};
  if (role == Qt::TextAlignmentRole && section != kFigure) return static_cast<int>(Qt::AlignLeft);
  if (role != Qt::DisplayRole) return {};
  const QString heads[] = {tr("Characteristic"), tr("Limit"),  tr("Condition"), tr("Source"),
                           tr("Last figure"),    tr("Margin"), tr("Verdict")};
  return heads[section];
}

Qt::ItemFlags LinesModel::flags(const QModelIndex& index) const {
  if (!index.isValid()) return Qt::NoItemFlags;
  Qt::ItemFlags flags = Qt::ItemIsEnabled | Qt::ItemIsSelectable;
  const bool is_new = index.row() >= filled_rows();
  if (can_edit_ && index.column() <= kSource && (!is_new || index.column() == kCharacteristic) &&
      !(is_draft(index.row()) && index.column() > kLimit))
    flags |= Qt::ItemIsEditable;
  return flags;
}

QWidget* LinesDelegate::createEditor(QWidget* parent, const QStyleOptionViewItem& option,
                                     const QModelIndex& index) const {
  auto* edit = qobject_cast<QLineEdit*>(GridDelegate::createEditor(parent, option, index));
  QStringList words;
  if (index.column() == LinesModel::kCharacteristic) {
    for (const Characteristic& c : characteristics())
      if (spec_field(c.id)) words << qt_text(std::string(c.test));
  } else if (index.column() == LinesModel::kSource) {
    words = QStringList{QObject::tr("maker"),   QObject::tr("handbook"),    QObject::tr("club"),
                        QObject::tr("rules"),   QObject::tr("handwritten"), QObject::tr("own wish"),
                        QObject::tr("measured")};
  } else {
    if (index.column() != LinesModel::kLimit) edit->setFont(type_font(Type::body));
    return edit;
  }
  edit->setFont(type_font(Type::body));
  complete_with(edit, words);
  return edit;
}

void LinesDelegate::paint_cell(QPainter& p, const QRectF& cell, const QModelIndex& index,
                               bool chosen, const Theme& t) const {
  draw_cell_frame(p, cell, index, t);
  const auto* model = static_cast<const LinesModel*>(index.model());
  const QString text = index.data().toString();
  const auto row = static_cast<std::size_t>(index.row());
  const bool is_line = row < model->lines().size();
  if (is_line && index.column() == LinesModel::kMargin) {
    const LinesModel::Line& line = model->lines()[row];
    std::optional<Judgement> shown = line.judgement;
    if (shown) shown->verdict = line.verdict();
    draw_margin_cell(p, cell.adjusted(-8, 0, 8, 0), shown, line.before, line.line.limit.span, t);
    return;
  }
  if (is_line && index.column() == LinesModel::kVerdict) {
    const LinesModel::Line& line = model->lines()[row];
    std::optional<Judgement> shown = line.judgement;
    if (shown) shown->verdict = line.verdict();
    draw_verdict_cell(p, cell, shown, text, t, is_provisional(line));
    return;
  }
  if (is_line && index.column() == LinesModel::kFigure) {
    paint_plain(p, cell, index, chosen, t);
    return;
  }
  const bool is_first = index.column() == LinesModel::kCharacteristic;
  p.setFont(type_font(is_first && is_line ? Type::name : Type::body));
  p.setPen(!is_line ? t.mute : is_first || chosen ? t.ink : t.slate);
  draw_elided(p, cell.adjusted(is_first ? 20 : 8, 0, -6, 0), Qt::AlignVCenter | Qt::AlignLeft,
              text);
}

}  // namespace heron
