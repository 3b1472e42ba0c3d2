#pragma once

namespace heron {

class LiveInstruments;
class LiveLadder;
class LookRun;
class MeterWatch;

/// All that may have RF on, switched off together.
class RfControl {
 public:
  RfControl(LiveInstruments& bench, LiveLadder& ladder, LookRun& look, MeterWatch& watch)
      : bench_(bench), ladder_(ladder), look_(look), watch_(watch) {}
  enum class Dropped {
    nothing,
    run,    ///< something was being measured, and pauses
    output  ///< an output that may have been on is being switched off
  };
  /// At once; whatever is connected is told, whether or not it is thought to be on.
  Dropped drop();
  /// Ends whatever runs, RF off: the window closes, or another shack is opened.
  void end();

 private:
  LiveInstruments& bench_;
  LiveLadder& ladder_;
  LookRun& look_;
  MeterWatch& watch_;
};

}  // namespace heron
