#include "core/signal/wav_capture.h"

#include <fmt/format.h>
#include <sndfile.h>

#include "core/error.h"
#include "core/signal/wav_header.h"

namespace heron {
namespace {

struct SndfileCloser {
  void operator()(SNDFILE* file) const { sf_close(file); }
};

class WavCapture : public CaptureReader {
 public:
  explicit WavCapture(const std::filesystem::path& path) {
    info_.name = path.filename().string();
    SF_INFO sf{};
    file_.reset(sf_open(path.c_str(), SFM_READ, &sf));
    if (!file_) {
      throw InputError(info_.name, "in its header", describe(sf_strerror(nullptr)),
                       "Record again, or export it as plain WAV");
    }
    if (sf.channels != 1 && sf.channels != 2) {
      throw InputError(info_.name, "in its header", fmt::format("it has {} channels", sf.channels),
                       "Use two channels (I and Q) or one (audio)");
    }
    if (sf.frames <= 0) {
      throw InputError(info_.name, "in its data chunk", "it holds no samples", "Record again");
    }
    info_.sample_rate_hz = sf.samplerate;
    info_.frames = sf.frames;
    info_.is_complex = sf.channels == 2;
    set_format(sf);
    note_truncation(path);
  }

  void seek(std::int64_t frame) override {
    if (sf_seek(file_.get(), frame, SEEK_SET) < 0) fail_at(frame);
    position_ = frame;
  }

  std::size_t read(std::span<float> out) override {
    const auto wanted = static_cast<sf_count_t>(out.size() / floats_per_frame());
    const sf_count_t got = sf_readf_float(file_.get(), out.data(), wanted);
    if (got < 0) fail_at(position_);
    const auto frames = static_cast<std::size_t>(got);
    if (info_.is_float) refuse_non_finite(out.first(frames * floats_per_frame()), position_);
    position_ += got;
    return frames;
  }

 private:
  static std::string describe(const char* message) {
    std::string text = message == nullptr ? "it cannot be understood" : message;
    while (!text.empty() && (text.back() == '.' || text.back() == ' ')) text.pop_back();
    return text;
  }

  [[noreturn]] void fail_at(std::int64_t frame) const {
    throw InputError(info_.name, fmt::format("sample {}", frame),
                     describe(sf_strerror(file_.get())),
                     "Copy the file again from where it was recorded");
  }

  void set_format(const SF_INFO& sf) {
    std::string kind;
    switch (sf.format & SF_FORMAT_SUBMASK) {
      case SF_FORMAT_PCM_U8:
      case SF_FORMAT_PCM_S8:
        info_.bits = 8;
        kind = "8 bit";
        break;
      case SF_FORMAT_PCM_16:
        info_.bits = 16;
        kind = "16 bit";
        break;
      case SF_FORMAT_PCM_24:
        info_.bits = 24;
        kind = "24 bit";
        break;
      case SF_FORMAT_PCM_32:
        info_.bits = 32;
        kind = "32 bit";
        break;
      case SF_FORMAT_FLOAT:
        info_.bits = 32;
        info_.is_float = true;
        kind = "float";
        break;
      case SF_FORMAT_DOUBLE:
        info_.bits = 64;
        info_.is_float = true;
        kind = "double";
        break;
      default:
        throw InputError(info_.name, "in its header", "its samples are compressed",
                         "Export it as PCM or float WAV: compression adds products of its own");
    }
    info_.format = fmt::format("WAV, {}, {}", kind, info_.is_complex ? "I and Q" : "audio");
  }

  void note_truncation(const std::filesystem::path& path) {
    const auto chunk = find_wav_data(path);
    if (!chunk || chunk->present_bytes >= chunk->claimed_bytes) return;
    const double part =
        static_cast<double>(chunk->present_bytes) / static_cast<double>(chunk->claimed_bytes);
    info_.cautions.push_back(fmt::format(
        "The file is cut short: {:.1f} of {:.1f} s are there, and only these were used.",
        info_.duration_s(), info_.duration_s() / part));
  }

  std::unique_ptr<SNDFILE, SndfileCloser> file_;
  std::int64_t position_ = 0;
};

}  // namespace

std::unique_ptr<CaptureReader> open_wav(const std::filesystem::path& path) {
  return std::make_unique<WavCapture>(path);
}

}  // namespace heron
