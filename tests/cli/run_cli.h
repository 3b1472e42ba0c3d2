#pragma once

#include <QByteArray>
#include <QProcess>
#include <algorithm>
#include <cmath>
#include <nlohmann/json.hpp>

namespace heron::testing {

struct Reply {
  int status;
  QByteArray out;
  QByteArray err;
  nlohmann::json json() const { return nlohmann::json::parse(out.toStdString()); }
};

inline Reply run(const QStringList& arguments) {
  QProcess process;
  process.start(EVEN_HERON_CLI, arguments);
  process.waitForFinished(60000);
  return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
          process.readAllStandardOutput(), process.readAllStandardError()};
}

/// What a command says as JSON; nothing, and why, where it fails.
inline nlohmann::json json_of(const QStringList& words) {
  const Reply reply = run(words + QStringList{"--json"});
  if (reply.status != 0) qWarning("%s", reply.err.constData());
  return reply.status == 0 ? reply.json() : nlohmann::json();
}

inline bool is_near(const nlohmann::json& value, double wanted, double within) {
  return value.is_number() && std::abs(value.get<double>() - wanted) <= within;
}

inline bool all_numbers_finite(const nlohmann::json& j) {
  if (j.is_number()) return std::isfinite(j.get<double>());
  return !j.is_structured() || std::all_of(j.begin(), j.end(), all_numbers_finite);
}

}  // namespace heron::testing
