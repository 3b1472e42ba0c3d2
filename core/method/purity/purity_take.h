#pragma once

#include "core/method/method.h"
#include "core/method/purity/purity_reading.h"

namespace heron {

/// One recording or trace of a purity test: what stands in it, and where it looked.
class PurityTake : public Analysis {
 public:
  explicit PurityTake(PuritySource read) : source(std::move(read)) {}
  const KeyedParts* parts() const override { return source.parts ? &*source.parts : nullptr; }
  PuritySource source;
};

/// InputError as of `read_purity`.
PuritySource take_purity(const CaptureOpener& open, const TakeContext& context,
                         const Progress& progress = {}, const std::stop_token& stop = {});
PuritySource take_purity(const SpectrumTrace& trace, const TakeContext& context);

}  // namespace heron
