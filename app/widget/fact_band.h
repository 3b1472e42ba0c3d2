#pragma once

#include <QWidget>
#include <vector>

namespace heron {

/// A row of facts: label, value, note.
class FactBand : public QWidget {
 public:
  struct Fact {
    QString label;
    QString value;
    QString note;
  };
  explicit FactBand(QWidget* parent = nullptr);
  void set_facts(const std::vector<Fact>& facts);
  const std::vector<Fact>& facts() const { return facts_; }

 protected:
  void paintEvent(QPaintEvent* event) override;

 private:
  std::vector<Fact> facts_;
};

}  // namespace heron
