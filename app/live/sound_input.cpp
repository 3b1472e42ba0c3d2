#include "app/live/sound_input.h"

#include <QAudioDevice>
#include <QAudioSource>
#include <QMediaDevices>
#include <utility>

#include "app/live/live_instruments.h"
#include "app/live/sound_ring.h"

namespace heron {
namespace {

constexpr double kUsualCarrierHz = 10e6;
constexpr double kUsualToneHz = 1000.0;

std::optional<SoundFormat::Sample> sample_of(QAudioFormat::SampleFormat format) {
  switch (format) {
    case QAudioFormat::UInt8:
      return SoundFormat::Sample::u8;
    case QAudioFormat::Int16:
      return SoundFormat::Sample::i16;
    case QAudioFormat::Int32:
      return SoundFormat::Sample::i32;
    case QAudioFormat::Float:
      return SoundFormat::Sample::f32;
    default:
      return std::nullopt;
  }
}

}  // namespace

SoundInput::SoundInput(QObject* parent) : QObject(parent) {}

SoundInput::~SoundInput() {
  close();
}

bool SoundInput::is_there(const LiveInstruments& bench) {
  return bench.is_simulated() ? bench.answers(Role::counter)
                              : !QMediaDevices::defaultAudioInput().isNull();
}

std::optional<ToneEar> SoundInput::listen(const LiveInstruments& bench, const Wish& wish) {
  if (!bench.is_simulated()) return open_input(wish.tone_hz);
  if (!bench.answers(Role::counter)) return std::nullopt;
  return simulated_ear(bench.open(Role::counter), wish.carrier_hz.value_or(kUsualCarrierHz),
                       wish.tone_hz.value_or(kUsualToneHz), wish.is_upper);
}

std::optional<ToneEar> SoundInput::open_input(std::optional<double> near_hz) {
  close();
  const QAudioDevice device = QMediaDevices::defaultAudioInput();
  if (device.isNull()) return std::nullopt;
  QAudioFormat format;
  format.setSampleRate(48000);
  format.setChannelCount(1);
  format.setSampleFormat(QAudioFormat::Int16);
  if (!device.isFormatSupported(format)) format = device.preferredFormat();
  const auto sample = sample_of(format.sampleFormat());
  if (!sample) return std::nullopt;
  ring_ = std::make_shared<SoundRing>(
      SoundFormat{static_cast<double>(format.sampleRate()), format.channelCount(), *sample});
  source_ = new QAudioSource(device, format, this);
  QIODevice* sound = source_->start();
  if (sound == nullptr) {
    close();
    return std::nullopt;
  }
  connect(sound, &QIODevice::readyRead, this,
          [sound, ring = ring_] { ring->put(sound->readAll()); });
  connect(source_, &QAudioSource::stateChanged, this, [this](QAudio::State state) {
    if (state == QAudio::StoppedState && ring_ != nullptr) ring_->close("it has stopped");
  });
  ToneEar ear;
  ear.name = device.description().toStdString();
  ear.hear = [ring = ring_, near_hz](double length_s, const std::stop_token& stop) {
    return heard_hz(ring->next(length_s, stop), ring->format().rate_hz, near_hz);
  };
  return ear;
}

void SoundInput::close() {
  if (ring_ != nullptr) ring_->close("it was closed");
  ring_.reset();
  if (source_ == nullptr) return;
  source_->disconnect(this);
  source_->stop();
  std::exchange(source_, nullptr)->deleteLater();
}

}  // namespace heron
