#pragma once

#include <QIODevice>
#include <atomic>
#include <memory>

#include "core/method/needle.h"

class QAudioSink;

namespace heron {

/// Samples of a tone whose pitch can be changed while it sounds, without a click; 16 bit, mono.
class ToneSamples : public QIODevice {
 public:
  explicit ToneSamples(double rate_hz, QObject* parent = nullptr);
  void set_pitch(double hz) { wanted_hz_ = hz; }  ///< 0 = silence
  qint64 bytesAvailable() const override;
  bool isSequential() const override { return true; }

 protected:
  qint64 readData(char* data, qint64 most) override;
  qint64 writeData(const char*, qint64) override { return -1; }

 private:
  double rate_hz_;
  std::atomic<double> wanted_hz_{0.0};  ///< the sound may be asked for in another thread
  double hz_ = 0.0;
  double gain_ = 0.0;
  double turns_ = 0.0;
};

/// Lets a needle be heard: somebody who turns need not look. Silent where nothing is read.
class NeedleTone : public QObject {
 public:
  explicit NeedleTone(QObject* parent = nullptr);
  ~NeedleTone() override;
  /// False where this computer has no sound output.
  bool start();
  void stop();
  bool is_on() const { return sink_ != nullptr; }
  void follow(const Needle& needle);

 private:
  ToneSamples* samples_ = nullptr;
  QAudioSink* sink_ = nullptr;
};

}  // namespace heron
