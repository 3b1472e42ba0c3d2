#pragma once

#include <QByteArray>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <stop_token>
#include <string>
#include <vector>

namespace heron {

/// How samples of a sound input are laid out.
struct SoundFormat {
  enum class Sample { u8, i16, i32, f32 };
  double rate_hz = 48000.0;
  int channels = 1;
  Sample sample = Sample::i16;
};

/// Sound on its way from an input to whoever listens: one thread puts bytes in, another takes the
/// seconds that come next. The first channel counts.
class SoundRing {
 public:
  explicit SoundRing(SoundFormat format) : format_(format) {}
  const SoundFormat& format() const { return format_; }
  /// Pieces of frames wait for their rest.
  void put(const QByteArray& bytes);
  /// Nothing more will come, because of `why`.
  void close(const std::string& why);
  /// The next `seconds` of it, -1 to 1. InputError where nothing comes for two seconds or it is
  /// closed; Cancelled on a stop.
  std::vector<float> next(double seconds, const std::stop_token& stop);

 private:
  SoundFormat format_;
  std::mutex mutex_;
  std::condition_variable came_;
  QByteArray rest_;
  std::deque<float> kept_;
  bool is_wanted_ = false;  ///< what nobody waits for is not kept
  std::string closed_;
};

}  // namespace heron
