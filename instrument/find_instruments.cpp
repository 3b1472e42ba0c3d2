#include "instrument/find_instruments.h"

#include <QSerialPortInfo>
#include <fmt/format.h>
#include <set>

#include "instrument/scpi_session.h"

namespace heron {
namespace {

constexpr int kFirstPort = 5025;
constexpr int kPorts = 20;
constexpr double kAnswerS = 0.5;

/// Who is there, of an address; empty if nobody says.
std::string identity_at(const InstrumentAddress& address, const std::stop_token& stop) {
  Profile profile;  // no role, so nothing can be told to it
  profile.name = "who is there";
  profile.timeout_s = kAnswerS;
  try {
    ScpiSession session(address.text(), address, profile);
    session.set_stop(stop);
    session.connect();
    return session.identity();
  } catch (const InputError&) {
    return {};
  }
}

}  // namespace

std::vector<std::string> local_addresses() {
  std::vector<std::string> all;
  for (int port = kFirstPort; port < kFirstPort + kPorts; ++port)
    all.push_back(fmt::format("127.0.0.1:{}", port));
  for (const QSerialPortInfo& port : QSerialPortInfo::availablePorts())
    for (const int baud : {9600, 115200})
      all.push_back(fmt::format("{} {}", port.systemLocation().toStdString(), baud));
  return all;
}

std::vector<FoundInstrument> find_instruments(const std::vector<std::string>& addresses,
                                              const Progress& progress,
                                              const std::stop_token& stop) {
  std::vector<FoundInstrument> found;
  std::set<std::string> heard;
  for (std::size_t i = 0; i < addresses.size(); ++i) {
    if (stop.stop_requested()) throw Cancelled();
    if (progress) progress(static_cast<double>(i) / static_cast<double>(addresses.size()));
    const InstrumentAddress address = parse_address(addresses[i]);
    if (address.is_serial && heard.contains(address.host_or_port)) continue;
    const std::string identity = identity_at(address, stop);
    if (identity.empty()) continue;
    heard.insert(address.host_or_port);
    found.push_back({address.text(), identity});
  }
  return found;
}

}  // namespace heron
