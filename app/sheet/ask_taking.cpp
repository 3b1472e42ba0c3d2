#include "app/sheet/ask_taking.h"

#include <cmath>

#include "app/theme/qt_text.h"
#include "app/widget/ask.h"
#include "core/error.h"
#include "core/quantity/format.h"

namespace heron {
namespace {

double read_in_range(const QString& text, Quantity quantity, const QString& what,
                     const TakingRange& range) {
  const char* unit = quantity == Quantity::duration ? "s"
                     : quantity == Quantity::level  ? "dBm"
                                                    : "Hz";
  const double value = parse_quantity(text.toStdString(), quantity).value;
  if (!range.holds(value)) {
    const auto words = [&](double v) { return engineering_text(v, unit, 3); };
    throw InputError(what.toStdString(), "", text.toStdString() + " is out of range",
                     "Use " + words(range.least) + " to " + words(range.most));
  }
  return value;
}

TakingNow taking_typed(const QStringList& texts) {
  TakingNow t;
  t.length_s = read_in_range(texts[0], Quantity::duration, QObject::tr("length"), kTakenLengthS);
  t.rate_hz =
      read_in_range(texts[1], Quantity::frequency, QObject::tr("sample rate"), kTakenRateHz);
  t.settle_s = read_in_range(texts[2], Quantity::duration, QObject::tr("settling"), kTakenSettleS);
  t.most_drive_dbm = read_in_range(texts[3], Quantity::level,
                                   QObject::tr("maximum generator level"), kTakenDriveDbm);
  const double frames = t.length_s * t.rate_hz;
  if (frames > kMostTakenFrames)
    throw InputError("recording", "",
                     engineering_text(frames, "samples", 3) + " are more than " +
                         engineering_text(kMostTakenFrames, "", 3),
                     "Record for less time, or at a lower rate");
  return t;
}

/// A wish only where it differs from what was shown.
std::optional<double> wish(double typed, double shown, const std::optional<double>& before) {
  return std::abs(typed - shown) <= 1e-9 * std::abs(shown) ? before : std::optional(typed);
}

}  // namespace

std::optional<TakingSettings> ask_taking(QWidget* parent, const TakingNow& now,
                                         const TakingSettings& wished) {
  // As exactly as it is: what is only looked at must come back unchanged.
  const auto number = [](double value, const char* unit) {
    return QString::number(value, 'g', 9) + " " + unit;
  };
  AskDialog dialog(
      QObject::tr("Measurement settings"),
      QObject::tr(
          "How each recording of this test is made. The generator is never set above the maximum "
          "generator level: keep it below what the device\u2019s input is rated for."),
      {quantity_field(QObject::tr("Length of a recording"), number(now.length_s, "s"),
                      Quantity::duration),
       quantity_field(QObject::tr("Sample rate, I and Q"), number(now.rate_hz / 1e3, "kHz"),
                      Quantity::frequency),
       quantity_field(QObject::tr("Settling before each check"), number(now.settle_s, "s"),
                      Quantity::duration),
       quantity_field(QObject::tr("Max. generator level"), number(now.most_drive_dbm, "dBm"),
                      Quantity::level)},
      QObject::tr("Use it"), complaint_about([](const QStringList& t) { taking_typed(t); }),
      parent);
  if (dialog.exec() != QDialog::Accepted) return std::nullopt;
  const TakingNow typed = taking_typed(dialog.texts());
  TakingSettings out;
  out.length_s = wish(typed.length_s, now.length_s, wished.length_s);
  out.rate_hz = wish(typed.rate_hz, now.rate_hz, wished.rate_hz);
  out.settle_s = wish(typed.settle_s, now.settle_s, wished.settle_s);
  out.most_drive_dbm = typed.most_drive_dbm;
  return out;
}

}  // namespace heron
