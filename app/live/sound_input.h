#pragma once

#include <QObject>
#include <memory>
#include <optional>

#include "instrument/tone_ear.h"

class QAudioSource;

namespace heron {

class LiveInstruments;
class SoundRing;

/// The usual sound input of this computer, open while somebody listens.
class SoundInput : public QObject {
  Q_OBJECT
 public:
  explicit SoundInput(QObject* parent = nullptr);
  ~SoundInput() override;
  /// What is heard, where it is known.
  struct Wish {
    std::optional<double> tone_hz = std::nullopt;     ///< should be
    std::optional<double> carrier_hz = std::nullopt;  ///< of it
    bool is_upper = true;
  };
  /// Whether this computer has one, or a simulated bench stands for it.
  static bool is_there(const LiveInstruments& bench);
  /// Opens it; what listens, in a thread of its own. nullopt where there is none.
  std::optional<ToneEar> listen(const LiveInstruments& bench, const Wish& wish);
  void close();

 private:
  std::optional<ToneEar> open_input(std::optional<double> near_hz);
  std::shared_ptr<SoundRing> ring_;
  QAudioSource* source_ = nullptr;
};

}  // namespace heron
