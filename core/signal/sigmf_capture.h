#pragma once

#include <filesystem>
#include <memory>
#include <string>

#include "core/signal/capture.h"

namespace heron {

/// One SigMF sample type: component kind, bytes and order.
struct SigmfDatatype {
  bool is_complex = false;
  char kind = 'f';  ///< f, i or u
  int bits = 32;
  bool big_endian = false;
  std::size_t bytes_per_frame() const {
    return static_cast<std::size_t>(bits / 8) * (is_complex ? 2U : 1U);
  }
};

struct SigmfMeta {
  SigmfDatatype datatype;
  CaptureInfo info;  ///< frames not yet known
  std::uint64_t header_bytes = 0;
};

/// Checks and reads the text of a .sigmf-meta file (SigMF 1.x). InputError names the key.
SigmfMeta parse_sigmf_meta(const std::string& text, const std::string& name);

/// Opens the pair, given either of its two files.
std::unique_ptr<CaptureReader> open_sigmf(const std::filesystem::path& path);

}  // namespace heron
