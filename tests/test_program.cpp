#include "tests/test_program.h"

#include <cstdio>
#include <filesystem>
#include <map>
#include <string>

namespace heron::testing {
namespace {

std::map<std::string, TestMain>& all_tests() {
  static std::map<std::string, TestMain> tests;
  return tests;
}

}  // namespace

AddedTest::AddedTest(const char* file, TestMain run) {
  all_tests()[std::filesystem::path(file).stem().string()] = run;
}

}  // namespace heron::testing

int main(int argc, char** argv) {
  const auto& tests = heron::testing::all_tests();
  const auto found = argc > 1 ? tests.find(argv[1]) : tests.end();
  if (found == tests.end()) {
    std::puts("Give the name of a test, and what it is to run of it:");
    for (const auto& [name, run] : tests) std::puts(name.c_str());
    return 2;
  }
  argv[1] = argv[0];
  return found->second(argc - 1, argv + 1);
}
