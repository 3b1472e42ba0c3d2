#pragma once

#include <QScrollArea>
#include <map>

#include "app/widget/chip.h"
#include "app/widget/quantity_field.h"
#include "core/chain/bench_item.h"

class QGridLayout;
class QLabel;

namespace heron {

/// What matters of one thing on the bench, as unit-aware fields; which fields there are is data.
class ItemForm : public QScrollArea {
  Q_OBJECT
 public:
  explicit ItemForm(QWidget* parent = nullptr);
  void set_item(const BenchItem& item, long long id, bool read_only);
  void flush();
  /// The edit of a field; nullptr if the sort has none of that key.
  QLineEdit* edit(const QString& key) const;
  QString complaint(const QString& key) const;

 signals:
  void entered(const QString& key, const QString& typed);

 private:
  void build(const std::string& sort);
  /// Says below the field why it cannot be, and keeps the last good value in force.
  void try_enter(const BenchField& field, const QString& typed);
  struct Line {
    BenchField field;
    QuantityField* number = nullptr;
    QLineEdit* text = nullptr;
    Chip* choice = nullptr;
    QLabel* complaint = nullptr;
  };
  std::map<QString, Line> lines_;
  BenchItem item_;
  std::string sort_;
  long long id_ = 0;
};

}  // namespace heron
