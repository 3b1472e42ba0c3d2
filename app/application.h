#pragma once

#include <QApplication>

namespace heron {

/// The application, with a net under its event loop: an exception that nobody caught is shown and
/// logged, and the program goes on.
class Application : public QApplication {
  Q_OBJECT
 public:
  using QApplication::QApplication;
  bool notify(QObject* receiver, QEvent* event) override;

 signals:
  /// What happened, in words for people.
  void went_wrong(const QString& what, const QString& what_to_do);
};

}  // namespace heron
