#include "app/live/needle_tone.h"

#include <QAudioDevice>
#include <QAudioSink>
#include <QMediaDevices>
#include <cmath>
#include <numbers>
#include <utility>

namespace heron {
namespace {

constexpr int kRateHz = 48000;
constexpr double kLoud = 0.2;
constexpr double kGlideS = 0.02;

}  // namespace

ToneSamples::ToneSamples(double rate_hz, QObject* parent) : QIODevice(parent), rate_hz_(rate_hz) {
  open(QIODevice::ReadOnly);
}

qint64 ToneSamples::bytesAvailable() const {
  return static_cast<qint64>(rate_hz_) * 2;  // there is always more of it
}

qint64 ToneSamples::readData(char* data, qint64 most) {
  const double wanted = wanted_hz_;
  const double glide = 1.0 - std::exp(-1.0 / (kGlideS * rate_hz_));
  // From silence it begins where it should be.
  if (hz_ <= 0.0 || gain_ < 1e-4) hz_ = wanted;
  const qint64 frames = most / 2;
  for (qint64 i = 0; i < frames; ++i) {
    if (wanted > 0.0) hz_ += (wanted - hz_) * glide;
    gain_ += ((wanted > 0.0 ? kLoud : 0.0) - gain_) * glide;
    turns_ += hz_ / rate_hz_;
    turns_ -= std::floor(turns_);
    const auto sample = static_cast<qint16>(
        std::lround(32767.0 * gain_ * std::sin(2.0 * std::numbers::pi * turns_)));
    std::memcpy(data + 2 * i, &sample, sizeof sample);
  }
  return 2 * frames;
}

NeedleTone::NeedleTone(QObject* parent) : QObject(parent) {}

NeedleTone::~NeedleTone() {
  stop();
}

bool NeedleTone::start() {
  stop();
  const QAudioDevice device = QMediaDevices::defaultAudioOutput();
  QAudioFormat format;
  format.setSampleRate(kRateHz);
  format.setChannelCount(1);
  format.setSampleFormat(QAudioFormat::Int16);
  if (device.isNull() || !device.isFormatSupported(format)) return false;
  samples_ = new ToneSamples(kRateHz, this);
  sink_ = new QAudioSink(device, format, this);
  sink_->start(samples_);
  return true;
}

void NeedleTone::stop() {
  if (sink_ == nullptr) return;
  sink_->stop();
  delete std::exchange(sink_, nullptr);
  delete std::exchange(samples_, nullptr);
}

void NeedleTone::follow(const Needle& needle) {
  if (samples_ != nullptr) samples_->set_pitch(needle_pitch_hz(needle));
}

}  // namespace heron
