#pragma once

#include <QLineEdit>
#include <optional>

#include "core/quantity/parse_level.h"

class QLabel;

namespace heron {

/// A field for a level in any unit: shows what was understood, keeps what was typed. A text that is
/// not a level is marked and explained; the last good value stays in force.
class LevelField : public QWidget {
  Q_OBJECT
 public:
  LevelField(const QString& name, const QString& default_unit, QWidget* parent = nullptr);
  /// Without a signal; what is being typed stays unless `other_step`.
  void set_typed(const QString& typed, bool other_step = false);
  void commit();  ///< takes over what is typed, if it is a level
  QString typed() const;
  QLineEdit* edit() { return edit_; }
  QString message() const;

 signals:
  void entered(const QString& typed, double dbm);
  void cleared();

 private:
  void show_understanding();
  std::string default_unit_;
  QLineEdit* edit_;
  QLabel* understood_;
  QString last_good_;
};

}  // namespace heron
