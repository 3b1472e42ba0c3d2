#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace heron {

/// What a recording says about itself. A frame is one real or one complex (I, Q) sample.
struct CaptureInfo {
  std::string name;    ///< file name as a person would say it
  std::string format;  ///< "WAV, 16 bit, I and Q"
  double sample_rate_hz = 0.0;
  std::int64_t frames = 0;
  bool is_complex = false;
  int bits = 16;                      ///< resolution of the stored samples; 32 and up for float
  bool is_float = false;              ///< stored as floating point: may exceed full scale
  std::optional<double> center_hz;    ///< radio frequency at 0 Hz, where the file knows it
  std::string recorded_at;            ///< ISO 8601 where the file knows it
  std::vector<std::string> cautions;  ///< "truncated: 12 of 60 s are there"

  double duration_s() const { return static_cast<double>(frames) / sample_rate_hz; }
  /// Level from which a sample counts as clipped: full scale less one and a half steps; none of
  /// floats, which may exceed it.
  float clip_level() const;
};

/// Streams a recording in blocks; memory does not grow with the file. Belongs to one thread.
class CaptureReader {
 public:
  virtual ~CaptureReader() = default;
  const CaptureInfo& info() const { return info_; }
  /// Frames to skip to, 0 .. frames.
  virtual void seek(std::int64_t frame) = 0;
  /// Fills whole frames (1 float each, or I and Q) in full-scale units; returns the frames read,
  /// fewer than asked only at the end. Throws InputError for a sample that is not a number.
  virtual std::size_t read(std::span<float> out) = 0;

  std::size_t floats_per_frame() const { return info_.is_complex ? 2 : 1; }

 protected:
  /// Throws InputError naming the first frame that is NaN or infinite.
  void refuse_non_finite(std::span<const float> samples, std::int64_t first_frame) const;
  CaptureInfo info_;
};

/// Opens one more independent reader of the same recording (one per thread).
using CaptureOpener = std::function<std::unique_ptr<CaptureReader>()>;

/// Opens WAV (RIFF, RF64, W64) or SigMF (either file of the pair) by content and name. InputError
/// if the path is a directory, unreadable, empty, of another type, or lies about itself.
std::unique_ptr<CaptureReader> open_capture(const std::filesystem::path& path);

/// open_capture as an opener.
CaptureOpener capture_opener(const std::filesystem::path& path);

}  // namespace heron
