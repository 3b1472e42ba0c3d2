#include <fmt/format.h>

#include "core/error.h"
#include "demo/demo_shack.h"

int main(int argc, char** argv) {
  if (argc != 2) {
    fmt::print(stderr, "usage: make-demo-shack FOLDER\n");
    return 2;
  }
  try {
    heron::demo::make_demo_shack(argv[1]);
    return 0;
  } catch (const heron::InputError& error) {
    fmt::print(stderr, "make-demo-shack: {}\n", error.what());
    return 3;
  }
}
