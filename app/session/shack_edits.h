#pragma once

#include <memory>

#include "app/session/session.h"
#include "store/outside.h"

namespace heron {

struct UnpackedEvaluation;

/// Changes of devices and evaluations, each one press of undo.
class ShackEdits {
 public:
  explicit ShackEdits(Session& session) : session_(session) {}
  Id add_device(const Device& device);
  void set_device(Id id, const Device& device);
  void remove_device(Id id);
  /// In the record of what was done to it. False if it was refused.
  bool add_work(Id device, const Work& work, const std::string& at);
  void set_specification(Id device, const QString& what, const std::vector<SpecLine>& lines);
  /// Empty = in use again.
  void set_retired(Id device, const std::string& at);
  void set_photo(Id device, const std::string& content);
  Id add_outside_figure(const OutsideFigure& figure);
  void remove_outside_figure(Id device, Id figure);
  /// With these tests in it, each with the limit that the device's specification has for it; else
  /// with a first one.
  Id add_evaluation(Id device, const QString& title,
                    const std::vector<std::string>& characteristics = {});
  void rename_evaluation(Id id, const QString& title);
  /// What it is to find out, in a sentence.
  void set_goal(Id evaluation, const QString& goal);
  /// nullopt opens it again.
  void end_evaluation(Id id, const std::optional<EvaluationEnd>& end);
  void remove_evaluation(Id id);
  /// An exported one, with what has to be made for it. Returns it, or 0.
  Id import_evaluation(const QString& name, std::shared_ptr<const UnpackedEvaluation> unpacked);

 private:
  Session& session_;
};

}  // namespace heron
