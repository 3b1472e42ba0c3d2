#include "core/error.h"
#include "fuzz/temporary_file.h"
#include "store/exchange.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
  const auto path = heron::fuzzing::written("in.zip", data, size);
  static const auto shack = [&] {
    const auto folder = path.parent_path() / "shack";
    std::filesystem::remove_all(folder);
    return heron::Shack::create(folder, "fuzz");
  }();
  try {
    heron::add_unpacked(*shack, heron::unpack_evaluation(path, shack->captures_folder()));
  } catch (const heron::InputError&) {
  }
  return 0;
}
