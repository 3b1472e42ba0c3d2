/// Many test files in one program: each runs by its own name, in a process of its own.
#pragma once

#include <QtTest>

namespace heron::testing {

using TestMain = int (*)(int argc, char** argv);

/// Adds the tests of a file to the program, under the file's name without folder and ending.
struct AddedTest {
  AddedTest(const char* file, TestMain run);
};

}  // namespace heron::testing

/// What follows the class is set up before it.
#define HERON_TEST_IN(Tests, ...)               \
  static int run_tests(int argc, char** argv) { \
    __VA_ARGS__                                 \
    Tests tests;                                \
    return QTest::qExec(&tests, argc, argv);    \
  }                                             \
  [[maybe_unused]] static const heron::testing::AddedTest added_tests(__FILE__, run_tests);

#define HERON_TEST(Tests) HERON_TEST_IN(Tests)
/// With an event loop.
#define HERON_LOOP_TEST(Tests) HERON_TEST_IN(Tests, QTEST_QAPP_SETUP(QCoreApplication))
#define HERON_WINDOW_TEST(Tests) HERON_TEST_IN(Tests, QTEST_QAPP_SETUP(QApplication))
