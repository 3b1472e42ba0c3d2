#include "app/live/sound_ring.h"

#include <chrono>
#include <cstring>

#include "core/error.h"
#include "core/progress.h"

namespace heron {
namespace {

constexpr auto kLook = std::chrono::milliseconds(50);
constexpr auto kSilence = std::chrono::seconds(2);

int bytes_of(SoundFormat::Sample sample) {
  switch (sample) {
    case SoundFormat::Sample::u8:
      return 1;
    case SoundFormat::Sample::i16:
      return 2;
    case SoundFormat::Sample::i32:
    case SoundFormat::Sample::f32:
      break;
  }
  return 4;
}

template <class T>
T read_as(const char* at) {
  T value;
  std::memcpy(&value, at, sizeof value);
  return value;
}

float sample_at(const char* at, SoundFormat::Sample sample) {
  switch (sample) {
    case SoundFormat::Sample::u8:
      return static_cast<float>(read_as<std::uint8_t>(at) - 128) / 128.0F;
    case SoundFormat::Sample::i16:
      return static_cast<float>(read_as<std::int16_t>(at)) / 32768.0F;
    case SoundFormat::Sample::i32:
      return static_cast<float>(read_as<std::int32_t>(at)) / 2147483648.0F;
    case SoundFormat::Sample::f32:
      break;
  }
  return read_as<float>(at);
}

}  // namespace

void SoundRing::put(const QByteArray& bytes) {
  const std::lock_guard lock(mutex_);
  rest_ += bytes;
  const int frame = bytes_of(format_.sample) * std::max(1, format_.channels);
  const qsizetype frames = rest_.size() / frame;
  if (is_wanted_)
    for (qsizetype i = 0; i < frames; ++i)
      kept_.push_back(sample_at(rest_.constData() + i * frame, format_.sample));
  rest_.remove(0, frames * frame);
  came_.notify_all();
}

void SoundRing::close(const std::string& why) {
  const std::lock_guard lock(mutex_);
  closed_ = why;
  came_.notify_all();
}

std::vector<float> SoundRing::next(double seconds, const std::stop_token& stop) {
  const auto wanted = static_cast<std::size_t>(seconds * format_.rate_hz);
  std::unique_lock lock(mutex_);
  kept_.clear();
  is_wanted_ = true;
  auto last_came = std::chrono::steady_clock::now();
  std::size_t had = 0;
  while (kept_.size() < wanted) {
    came_.wait_for(lock, kLook);
    const auto now = std::chrono::steady_clock::now();
    if (kept_.size() > had) last_came = now;
    had = kept_.size();
    const bool is_silent = now - last_came > kSilence;
    if (!stop.stop_requested() && closed_.empty() && !is_silent) continue;
    is_wanted_ = false;
    if (stop.stop_requested()) throw Cancelled();
    throw InputError("sound input", "", closed_.empty() ? "no sound comes" : closed_,
                     "Look at its plug and at the sound settings of this computer");
  }
  is_wanted_ = false;
  return {kept_.begin(), kept_.begin() + static_cast<std::ptrdiff_t>(wanted)};
}

}  // namespace heron
