#include "core/signal/wav_capture.h"

#include <algorithm>
#include <array>
#include <fmt/format.h>
#include <fstream>
#include <sndfile.h>

#include "core/error.h"
#include "core/signal/wav_header.h"

namespace heron {
namespace {

/// A file read with another size in its data chunk's header: what a crashed recorder left open.
class MendedFile {
 public:
  MendedFile(const std::filesystem::path& path, const WavDataChunk& chunk)
      : file_(path, std::ios::binary),
        length_(static_cast<sf_count_t>(std::filesystem::file_size(path))),
        size_at_(static_cast<sf_count_t>(chunk.size_at)) {
    const std::uint64_t size = std::min<std::uint64_t>(chunk.present_bytes, 0xfffffff0U);
    for (std::size_t i = 0; i < size_.size(); ++i)
      size_[i] = static_cast<char>((size >> (8 * i)) & 0xffU);
  }
  SNDFILE* open(SF_INFO& info) {
    static SF_VIRTUAL_IO io{[](void* me) { return static_cast<MendedFile*>(me)->length_; },
                            [](sf_count_t offset, int from, void* me) {
                              return static_cast<MendedFile*>(me)->seek(offset, from);
                            },
                            [](void* to, sf_count_t count, void* me) {
                              return static_cast<MendedFile*>(me)->read(static_cast<char*>(to),
                                                                        count);
                            },
                            [](const void*, sf_count_t, void*) -> sf_count_t { return 0; },
                            [](void* me) { return static_cast<MendedFile*>(me)->position_; }};
    return sf_open_virtual(&io, SFM_READ, &info, this);
  }

 private:
  sf_count_t seek(sf_count_t offset, int from) {
    const sf_count_t base = from == SEEK_CUR ? position_ : from == SEEK_END ? length_ : 0;
    position_ = std::clamp<sf_count_t>(base + offset, 0, length_);
    return position_;
  }
  sf_count_t read(char* to, sf_count_t count) {
    file_.clear();
    file_.seekg(position_);
    file_.read(to, count);
    const sf_count_t got = file_.gcount();
    for (sf_count_t i = 0; i < static_cast<sf_count_t>(size_.size()); ++i) {
      const sf_count_t at = size_at_ + i - position_;
      if (at >= 0 && at < got) to[at] = size_[static_cast<std::size_t>(i)];
    }
    position_ += got;
    return got;
  }
  std::ifstream file_;
  sf_count_t length_;
  sf_count_t size_at_;
  sf_count_t position_ = 0;
  std::array<char, 4> size_{};
};

struct SndfileCloser {
  void operator()(SNDFILE* file) const { sf_close(file); }
};

class WavCapture : public CaptureReader {
 public:
  explicit WavCapture(const std::filesystem::path& path) {
    info_.name = path.filename().string();
    SF_INFO sf{};
    const auto unfinished = find_unfinished_wav(path);
    if (unfinished) {
      mended_ = std::make_unique<MendedFile>(path, *unfinished);
      file_.reset(mended_->open(sf));
    } else {
      file_.reset(sf_open(path.c_str(), SFM_READ, &sf));
    }
    if (!file_) {
      throw InputError(info_.name, "in its header", "it cannot be understood as WAV",
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
    if (unfinished)
      info_.cautions.push_back(fmt::format(
          "The recorder did not finish this file: its header says 0 samples, and the {:.1f} s "
          "behind it were used.",
          info_.duration_s()));
    else
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
  [[noreturn]] void fail_at(std::int64_t frame) const {
    throw InputError(info_.name, fmt::format("sample {}", frame), "it cannot be read from here on",
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

  std::unique_ptr<MendedFile> mended_;  // outlives file_, which reads through it
  std::unique_ptr<SNDFILE, SndfileCloser> file_;
  std::int64_t position_ = 0;
};

}  // namespace

std::unique_ptr<CaptureReader> open_wav(const std::filesystem::path& path) {
  return std::make_unique<WavCapture>(path);
}

}  // namespace heron
