#pragma once

#include <random>

#include "app/session/test_edits.h"
#include "app/table/typed_grid.h"
#include "core/signal/memory_capture.h"
#include "core/signal/normal_numbers.h"
#include "core/signal/write_wav.h"
#include "tests/app/open_window.h"

namespace heron::testing {

/// A window with a test of a receiver in it.
struct ReceiverWindow : OpenWindow {
  QTemporaryDir files;
  std::string key;
  explicit ReceiverWindow(const char* method = "sensitivity") : key(method) {
    window->show_evaluation(made.evaluation_id);
    TestEdits(window->session()).add_test(method, "Receiver", "SSB");
    window->session().settle();
  }
  MethodSheet& sheet() { return *window->sheet(); }
  const GeneralTest& shown() {
    window->session().settle();
    return *window->session().general();
  }
  PlotAxis right_axis() { return shown().result.plots.front().panels.front().y_right.value(); }
  std::pair<double, double> left_range() {
    return shown().result.plots.front().panels.front().y.range.value();
  }
  void set(const char* name, const nlohmann::json& value) {
    nlohmann::json settings = window->session().settings();
    settings[key][name] = value;
    TestEdits(window->session()).set_settings("a setting", settings);
    window->session().settle();
  }
  /// A cell of the grid, as somebody types it.
  void type(int row, const char* head, const QString& text) {
    const auto& fields = shown().method->fields;
    const auto field = std::find_if(fields.begin(), fields.end(),
                                    [&](const TypedField& f) { return f.head == head; });
    QVERIFY(field != fields.end());
    const auto column = static_cast<int>(field - fields.begin()) + 1;
    QVERIFY(
        sheet().evidence()->setData(sheet().evidence()->index(row, column), text, Qt::EditRole));
    window->session().settle();
  }
  QString recording(const char* name, double noise, double tone) {
    constexpr double kRate = 8000.0;
    std::vector<float> x(static_cast<std::size_t>(6.0 * kRate));
    std::mt19937_64 random(tone > 0.0 ? 2 : 1);
    NormalNumbers<double> normal(0.0, noise);
    for (std::size_t i = 0; i < x.size(); ++i)
      x[i] = static_cast<float>(normal(random) + tone * std::sin(2.0 * 3.14159265358979 * 880.0 *
                                                                 static_cast<double>(i) / kRate));
    const QString path = files.filePath(name);
    write_wav(memory_capture(std::move(x), kRate), path.toStdString());
    return path;
  }
};

}  // namespace heron::testing
