#pragma once

#include <QWidget>
#include <functional>
#include <vector>

class QLineEdit;
class QListWidget;

namespace heron {

/// One thing that can be found or done.
struct Command {
  QString name;
  QString kind;  ///< "device", "test", "do"
  QString shortcut;
  std::function<void()> run;
};

/// Ctrl K: type to find devices, tests and actions; Return runs, Esc leaves.
class CommandBox : public QWidget {
  Q_OBJECT
 public:
  explicit CommandBox(QWidget* parent);
  void open(std::vector<Command> commands);
  QLineEdit* edit() { return edit_; }
  QStringList shown() const;

 protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void paintEvent(QPaintEvent* event) override;

 private:
  void filter(const QString& words);
  void run_current();
  QLineEdit* edit_;
  QListWidget* list_;
  std::vector<Command> commands_;
};

}  // namespace heron
