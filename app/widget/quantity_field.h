#pragma once

#include <QLineEdit>
#include <QWidget>
#include <functional>
#include <optional>

#include "core/quantity/parse_quantity.h"

class QLabel;

namespace heron {

/// A field for a number with a unit, any unit of its quantity: shows what was understood, keeps
/// what was typed. A text that is none is marked and explained; the last good value stays in force.
class QuantityField : public QWidget {
  Q_OBJECT
 public:
  enum Shape { stacked, inline_box, bare_box };
  /// What was understood stands below the field, behind it, or only in its tool tip.
  QuantityField(const QString& name, Quantity quantity, Shape shape = stacked,
                QWidget* parent = nullptr);
  void set_options(const QuantityOptions& options);
  const QuantityOptions& options() const { return options_; }
  Quantity quantity() const { return quantity_; }
  /// Only the first of what was understood stands behind the field.
  void set_short(bool is_short) { is_short_ = is_short; }
  /// Whether there is room for what was understood; it is in the tool tip all the same.
  void show_understood(bool shown);
  /// Reads more than one number of its quantity; gives what was understood, throws InputError.
  using Reader = std::function<QString(const QString&)>;
  void set_reader(Reader reader) { reader_ = std::move(reader); }
  void set_placeholder(const QString& text) { edit_->setPlaceholderText(text); }
  /// Without a signal; what is being typed stays unless it belongs to `other` thing.
  void set_typed(const QString& typed, bool other = false);
  /// Types a text as the user would, and takes it over.
  void take(const QString& text);
  void commit();  ///< takes over what is typed, if it is a value
  QString typed() const { return edit_->text(); }
  std::optional<double> value() const;  ///< of what stands there; nullopt if it is none
  QLineEdit* edit() { return edit_; }
  QString message() const;
  bool is_invalid() const { return edit_->property("invalid").toBool(); }

 signals:
  void entered(const QString& typed, double value);
  void cleared();

 private:
  void show_understanding();
  Quantity quantity_;
  Shape shape_;
  QuantityOptions options_;
  QLineEdit* edit_;
  QLabel* understood_;
  QString last_good_;
  bool is_short_ = false;
  Reader reader_;
};

/// The field that has the focus or had it last and takes a level; nullptr if there is none.
QuantityField* last_level_field();

}  // namespace heron
