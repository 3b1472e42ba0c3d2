#include "core/signal/sigmf_capture.h"

#include <algorithm>
#include <array>
#include <bit>
#include <cmath>
#include <cstring>
#include <fmt/format.h>
#include <fstream>
#include <nlohmann/json.hpp>

#include "core/error.h"
#include "core/read_text.h"

namespace heron {
namespace {

using nlohmann::json;

constexpr std::uintmax_t kLargestMetaMb = 16;

[[noreturn]] void refuse(const std::string& name, const std::string& where,
                         const std::string& why) {
  throw InputError(name, where, why, "Write the pair again from the recorder, or use WAV");
}

SigmfDatatype parse_datatype(const std::string& text, const std::string& name) {
  SigmfDatatype type;
  const auto bad = [&] {
    refuse(name, "key core:datatype",
           fmt::format("the sample type \u201c{}\u201d is not known", text.substr(0, 40)));
  };
  if (text.size() < 3 || (text[0] != 'c' && text[0] != 'r')) bad();
  type.is_complex = text[0] == 'c';
  type.kind = text[1];
  std::string rest = text.substr(2);
  if (rest.ends_with("_le") || rest.ends_with("_be")) {
    type.big_endian = rest.ends_with("_be");
    rest.resize(rest.size() - 3);
  }
  if (rest == "8")
    type.bits = 8;
  else if (rest == "16")
    type.bits = 16;
  else if (rest == "32")
    type.bits = 32;
  else if (rest == "64")
    type.bits = 64;
  else
    bad();
  const bool is_float = type.kind == 'f' && type.bits >= 32;
  const bool is_integer = (type.kind == 'i' || type.kind == 'u') && type.bits <= 32;
  if (!is_float && !is_integer) bad();
  return type;
}

template <class T>
T load(const unsigned char* bytes, bool swap) {
  std::array<unsigned char, sizeof(T)> raw;
  std::memcpy(raw.data(), bytes, sizeof(T));
  if (swap) std::reverse(raw.begin(), raw.end());
  return std::bit_cast<T>(raw);
}

template <class T>
void decode(const unsigned char* bytes, std::span<float> out, bool swap, double offset,
            double scale) {
  for (std::size_t i = 0; i < out.size(); ++i) {
    out[i] = static_cast<float>(
        (static_cast<double>(load<T>(bytes + i * sizeof(T), swap)) - offset) * scale);
  }
}

void decode_samples(const SigmfDatatype& type, const unsigned char* bytes, std::span<float> out) {
  const bool swap = type.big_endian != (std::endian::native == std::endian::big);
  const double full_scale = std::ldexp(1.0, type.bits - 1);
  const double offset = type.kind == 'u' ? full_scale : 0.0;
  if (type.kind == 'f') {
    if (type.bits == 32)
      decode<float>(bytes, out, swap, 0.0, 1.0);
    else
      decode<double>(bytes, out, swap, 0.0, 1.0);
  } else if (type.kind == 'i') {
    if (type.bits == 8)
      decode<std::int8_t>(bytes, out, swap, 0.0, 1.0 / full_scale);
    else if (type.bits == 16)
      decode<std::int16_t>(bytes, out, swap, 0.0, 1.0 / full_scale);
    else
      decode<std::int32_t>(bytes, out, swap, 0.0, 1.0 / full_scale);
  } else {
    if (type.bits == 8)
      decode<std::uint8_t>(bytes, out, swap, offset, 1.0 / full_scale);
    else if (type.bits == 16)
      decode<std::uint16_t>(bytes, out, swap, offset, 1.0 / full_scale);
    else
      decode<std::uint32_t>(bytes, out, swap, offset, 1.0 / full_scale);
  }
}

class SigmfCapture : public CaptureReader {
 public:
  SigmfCapture(SigmfMeta meta, const std::filesystem::path& data_path)
      : datatype_(meta.datatype),
        header_bytes_(meta.header_bytes),
        file_(data_path, std::ios::binary) {
    info_ = std::move(meta.info);
    if (!file_) refuse(info_.name, "", "its data file cannot be read: " + data_path.string());
    const std::uint64_t bytes = std::filesystem::file_size(data_path);
    const std::size_t frame_bytes = datatype_.bytes_per_frame();
    if (bytes < header_bytes_ + frame_bytes) {
      refuse(data_path.filename().string(), "", "the data file holds no samples");
    }
    info_.frames = static_cast<std::int64_t>((bytes - header_bytes_) / frame_bytes);
    const std::uint64_t odd = (bytes - header_bytes_) % frame_bytes;
    if (odd != 0) {
      info_.cautions.push_back(fmt::format(
          "The data file ends with {} bytes that are not a whole sample: it may be cut short.",
          odd));
    }
    seek(0);
  }

  void seek(std::int64_t frame) override {
    file_.clear();
    file_.seekg(static_cast<std::streamoff>(header_bytes_ + static_cast<std::uint64_t>(frame) *
                                                                datatype_.bytes_per_frame()));
    position_ = frame;
  }

  std::size_t read(std::span<float> out) override {
    const std::size_t frame_bytes = datatype_.bytes_per_frame();
    const auto left = static_cast<std::size_t>(std::max<std::int64_t>(0, info_.frames - position_));
    const std::size_t wanted = std::min(out.size() / floats_per_frame(), left);
    buffer_.resize(wanted * frame_bytes);
    file_.read(reinterpret_cast<char*>(buffer_.data()),
               static_cast<std::streamsize>(buffer_.size()));
    const std::size_t frames = static_cast<std::size_t>(file_.gcount()) / frame_bytes;
    if (frames < wanted) {
      throw InputError(info_.name,
                       fmt::format("sample {}", position_ + static_cast<std::int64_t>(frames)),
                       "the data file became shorter while it was read",
                       "Wait until the recorder has finished, then add it again");
    }
    const auto samples = out.first(frames * floats_per_frame());
    decode_samples(datatype_, buffer_.data(), samples);
    if (datatype_.kind == 'f') refuse_non_finite(samples, position_);
    position_ += static_cast<std::int64_t>(frames);
    return frames;
  }

 private:
  SigmfDatatype datatype_;
  std::uint64_t header_bytes_;
  std::ifstream file_;
  std::int64_t position_ = 0;
  std::vector<unsigned char> buffer_;
};

/// A number at `key`, or nullopt if absent; refuses another type.
std::optional<double> number_at(const json& object, const char* key, const std::string& name) {
  const auto found = object.find(key);
  if (found == object.end()) return std::nullopt;
  if (!found->is_number()) refuse(name, fmt::format("key {}", key), "a number is expected");
  return found->get<double>();
}

}  // namespace

SigmfMeta parse_sigmf_meta(const std::string& text, const std::string& name) {
  json root;
  try {
    root = json::parse(text);
  } catch (const json::parse_error& error) {
    refuse(name, fmt::format("byte {}", error.byte), "the metadata is not valid JSON");
  } catch (const json::exception&) {
    refuse(name, "", "a number in the metadata is too large");
  }
  const auto global = root.is_object() ? root.find("global") : root.end();
  if (!root.is_object() || global == root.end() || !global->is_object()) {
    refuse(name, "key global", "the section is missing");
  }
  SigmfMeta meta;
  meta.info.name = name;
  const auto type = global->find("core:datatype");
  if (type == global->end() || !type->is_string())
    refuse(name, "key core:datatype", "it is missing");
  const std::string type_text = type->get<std::string>();
  meta.datatype = parse_datatype(type_text, name);

  const auto rate = number_at(*global, "core:sample_rate", name);
  if (!rate) refuse(name, "key core:sample_rate", "it is missing");
  if (!(*rate > 0.0) || *rate > 1e12) {
    refuse(name, "key core:sample_rate", fmt::format("{:g} Hz is not a sample rate", *rate));
  }
  if (number_at(*global, "core:num_channels", name).value_or(1.0) != 1.0) {
    refuse(name, "key core:num_channels", "only recordings of one channel can be used");
  }
  if (const auto captures = root.find("captures"); captures != root.end()) {
    if (!captures->is_array()) refuse(name, "key captures", "a list is expected");
    if (!captures->empty()) {
      const json& first = captures->front();
      if (!first.is_object()) refuse(name, "key captures[0]", "an object is expected");
      meta.info.center_hz = number_at(first, "core:frequency", name);
      const double header = number_at(first, "core:header_bytes", name).value_or(0.0);
      if (header < 0.0 || header > 1e15)
        refuse(name, "key core:header_bytes", "it is out of range");
      meta.header_bytes = static_cast<std::uint64_t>(header);
      if (const auto at = first.find("core:datetime"); at != first.end() && at->is_string()) {
        meta.info.recorded_at = at->get<std::string>().substr(0, 40);
      }
    }
    if (captures->size() > 1) {
      meta.info.cautions.push_back(
          "The recording has several segments: they are read as one, with the first centre "
          "frequency.");
    }
  }
  meta.info.sample_rate_hz = *rate;
  meta.info.is_complex = meta.datatype.is_complex;
  meta.info.is_float = meta.datatype.kind == 'f';
  meta.info.bits = meta.datatype.bits;
  // A converted recording keeps the resolution of what it was made from.
  if (const auto bits = number_at(*global, "heron:source_bits", name);
      bits && *bits >= 8 && *bits <= 64) {
    meta.info.bits = static_cast<int>(*bits);
  }
  meta.info.format = fmt::format("SigMF, {}", type_text);
  const auto text_at = [&](const char* key, std::string& into) {
    const auto found = global->find(key);
    if (found != global->end() && found->is_string())
      into = found->get<std::string>().substr(0, 200);
  };
  text_at("heron:source_name", meta.info.name);
  text_at("heron:source_format", meta.info.format);
  return meta;
}

std::unique_ptr<CaptureReader> open_sigmf(const std::filesystem::path& path) {
  std::filesystem::path meta_path = path;
  meta_path.replace_extension(".sigmf-meta");
  std::filesystem::path data_path = path;
  data_path.replace_extension(".sigmf-data");
  const std::string name = meta_path.filename().string();
  std::error_code error;
  if (!std::filesystem::exists(meta_path, error)) {
    refuse(path.string(), "", "its .sigmf-meta file is missing beside it");
  }
  if (!std::filesystem::is_regular_file(data_path, error)) {
    refuse(path.string(), "", "its .sigmf-data file is missing beside it");
  }
  return std::make_unique<SigmfCapture>(
      parse_sigmf_meta(read_text(meta_path, kLargestMetaMb), name), data_path);
}

}  // namespace heron
