#pragma once

#include <QAbstractListModel>
#include <QListView>
#include <map>

#include "app/widget/chip.h"
#include "app/widget/push_button.h"
#include "store/evaluation.h"

class QLabel;

namespace heron {

/// Rows of the rail: group heads (hook-ups) and tests.
class CourseModel : public QAbstractListModel {
  Q_OBJECT
 public:
  struct Row {
    bool is_head = false;
    QString head;
    QString note;
    Test test;
    int number = 0;  ///< 1.. among the tests
    bool ends_group = false;
    bool starts_group = false;
    Id first_test = 0;  ///< of a head
    bool is_current_head = false;
  };
  void set_current_head(Id test);
  using QAbstractListModel::QAbstractListModel;
  /// `hookups`: names by id.
  void set_course(const std::vector<Test>& course, const std::map<Id, QString>& hookups = {});
  const Row& row(int i) const { return rows_[static_cast<std::size_t>(i)]; }
  int row_of(Id test) const;
  int rowCount(const QModelIndex& parent = {}) const override {
    return parent.isValid() ? 0 : static_cast<int>(rows_.size());
  }
  QVariant data(const QModelIndex& index, int role) const override;
  Qt::ItemFlags flags(const QModelIndex& index) const override;

 private:
  std::vector<Row> rows_;
};

/// The course of an evaluation: the list is the navigation.
class CourseRail : public QWidget {
  Q_OBJECT
 public:
  explicit CourseRail(QWidget* parent = nullptr);
  void set_course(const std::vector<Test>& course, Id current,
                  const std::map<Id, QString>& hookups = {});
  /// What the evaluation is to find out, and how it ended; empty = nothing is said.
  void set_goal(const QString& goal, const QString& end);
  /// The editor is shown: the head of the test's hook-up is the current thing.
  void set_in_hookup(bool in_hookup);
  QListView* list() { return list_; }
  QMenu* export_menu() { return export_->menu(); }

 signals:
  void test_chosen(long long test);
  void test_asked();
  void hookup_asked(long long test);
  void removal_asked(long long test);
  void rename_asked(long long test);
  void duplicate_asked(long long test);
  /// It shall change places with that one.
  void swap_asked(long long test, long long beside);

 protected:
  void paintEvent(QPaintEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

 private:
  /// The test next to a row in its group, up (-1) or down; 0 = there is none.
  Id beside(int row, int by) const;
  void show_menu(const QPoint& at);
  bool press(int key, Qt::KeyboardModifiers modifiers);
  CourseModel* model_;
  QListView* list_;
  QLabel* count_;
  QLabel* goal_;
  QLabel* end_;
  PushButton* add_;
  Chip* export_;
  int taken_ = 0;
  int total_ = 0;
  bool in_hookup_ = false;
};

/// Verdict as shown: out of date after a year, whatever it was.
Verdict shown_verdict(const std::optional<Headline>& headline, bool has_limit);

}  // namespace heron
