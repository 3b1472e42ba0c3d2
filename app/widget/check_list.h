#pragma once

#include <QListWidget>
#include <QStringList>

namespace heron {

/// Things to take or leave, each with its reason: Space takes one in or out. Rows may be dragged.
class CheckList : public QListWidget {
 public:
  static constexpr int kRowHeight = 42;
  explicit CheckList(bool can_move, QWidget* parent = nullptr);
  void add(const QString& name, const QString& reason, const QString& id, bool is_taken);
  QStringList taken() const;  ///< ids, in their order
  bool can_move() const { return can_move_; }

 private:
  bool can_move_;
};

}  // namespace heron
